import { describe, expect, it } from 'vitest'
import type { Draft, Schemas } from '@/api/client'
import { aDraftView } from '@/testkit/examples'
import { emptyDraft } from './draft'
import { apply, begin, differing, next, type Keeping, type KeepingEvent } from './keeping'

const base = emptyDraft()
const typed = { ...base, subject: 'Outing' }
const open: Keeping = { ...begin(base), id: 7, revision: 3, keptAt: 1000 }
const merged = (over: Partial<Schemas['MergedView']> = {}): Schemas['MergedView'] => ({
  clash: [],
  draft: typed,
  labels: [],
  revision: 5,
  ...over,
})

describe('how a draft is kept', () => {
  it.each<[string, Keeping, KeepingEvent, Partial<Keeping>]>([
    ['a new one', open, { is: 'opened', id: 0, base }, begin(base)],
    ['typing', open, { is: 'typed' }, { dirty: true }],
    ['what goes out is no longer dirty', { ...open, dirty: true }, { is: 'on its way' }, { dirty: false }],
    ['its number', begin(base), { is: 'made', id: 7, revision: 1 }, { id: 7, revision: 1 }],
    [
      'kept',
      { ...open, problem: 'no network' },
      { is: 'kept', revision: 4, base: typed, at: 2000 },
      { revision: 4, base: typed, keptAt: 2000, problem: '' },
    ],
    [
      'not kept: what was typed stays to be kept',
      open,
      { is: 'failed', problem: 'no network', overtaken: false },
      { dirty: true, problem: 'no network', conflict: false },
    ],
    ['overtaken', open, { is: 'failed', problem: 'newer', overtaken: true }, { conflict: true }],
    [
      'joined with another window',
      { ...open, problem: 'newer' },
      { is: 'merged', with: merged(), at: 2000 },
      { revision: 5, base: typed, problem: '', clash: [], keptAt: 2000 },
    ],
    [
      'a clash keeps nothing',
      open,
      { is: 'merged', with: merged({ clash: ['the subject'] }), at: 2000 },
      { revision: 3, base, clash: ['the subject'], keptAt: 1000 },
    ],
    [
      'mine over theirs',
      { ...open, conflict: true, theirs: merged() },
      { is: 'mine kept' },
      { revision: 5, conflict: false, dirty: true, theirs: undefined },
    ],
    ['mine, with nothing of theirs', open, { is: 'mine kept' }, open],
  ])('%s', (_, before, event, wanted) => {
    const was = structuredClone(before)
    expect(next(before, event)).toMatchObject(wanted)
    expect(before).toEqual(was)
  })

  it('opens what the server has', () => {
    const message = aDraftView({ revision: 2, state: 'held', updatedAt: '2026-11-24T08:00:00Z' })
    expect(next(open, { is: 'opened', id: 9, base, message })).toMatchObject({
      id: 9,
      revision: 2,
      state: 'held',
      keptAt: Date.parse('2026-11-24T08:00:00Z'),
      joined: '',
    })
  })
})

describe('what differs between two drafts', () => {
  it('is said part by part and brought in', () => {
    const from: Draft = { ...emptyDraft(), subject: 'A', reason: 'Flood' }
    const to: Draft = { ...from, subject: 'B' }
    delete to.reason
    const changes = differing(from, to)
    expect(changes).toEqual({ subject: 'B', reason: undefined })
    const other: Draft = { ...from, email: 'Typed meanwhile' }
    apply(other, changes)
    expect(other).toEqual({ ...to, email: 'Typed meanwhile' })
    expect(differing(to, structuredClone(to))).toEqual({})
  })
})
