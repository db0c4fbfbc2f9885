import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { inScope, pass, problem, serve } from '@/testkit'
import { emptyDraft, keptWords, leaveOut, partKey, singled, useDraft } from './draft'
import type { Part } from '@/api/client'
import { ref } from 'vue'

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const message = (over = {}) => ({
  id: 7,
  revision: 1,
  state: 'draft',
  updatedAt: '2026-11-24T08:00:00Z',
  labels: [],
  draft: emptyDraft(),
  ...over,
})

describe('a draft keeps itself', () => {
  it('is made with the first change and kept once the typing pauses', async () => {
    let revision = 1
    const asked = serve({
      'POST /api/messages': () => message(),
      'PUT /api/messages/7': () => ({ revision: ++revision, updatedAt: '2026-11-24T08:00:01Z' }),
    })
    const made = vi.fn()
    const { value: desk, stop } = inScope(() => useDraft(made))
    await pass(2000)
    expect(asked).toEqual([])

    desk.draft.email = 'Meet'
    await pass(100)
    desk.draft.email = 'Meet at the lock'
    await pass(1000)
    expect(made).toHaveBeenCalledWith(7)
    expect(asked.map((a) => a.call)).toEqual(['POST /api/messages', 'PUT /api/messages/7'])
    expect(asked[1]?.body).toMatchObject({ revision: 1, draft: { email: 'Meet at the lock' } })

    desk.draft.audience.parts.push({ kind: 'group', group: 3 })
    await pass(1000)
    expect(asked[2]?.body).toMatchObject({ revision: 2, draft: { audience: { parts: [{ group: 3 }] } } })
    stop()
  })

  it('tries again when the server does not answer, and loses nothing', async () => {
    let up = false
    serve({
      'POST /api/messages': () => {
        if (!up) throw new TypeError('no network')
        return message()
      },
      'PUT /api/messages/7': () => ({ revision: 2, updatedAt: '2026-11-24T08:00:01Z' }),
    })
    const { value: desk, stop } = inScope(() => useDraft(() => undefined))
    desk.draft.subject = 'Outing'
    await pass(1000)
    expect(desk.problem.value).toContain('does not answer')
    expect(desk.draft.subject).toBe('Outing')
    expect(desk.dirty.value).toBe(true)
    up = true
    await pass(5000)
    expect(desk.problem.value).toBe('')
    expect(desk.dirty.value).toBe(false)
    stop()
  })

  it('stays in the browser while the disk is full, and is taken up again', async () => {
    let room = false
    const asked = serve({
      'GET /api/messages/7': () => message({ draft: { ...emptyDraft(), email: 'First' } }),
      'PUT /api/messages/7': () =>
        room ? { revision: 2, updatedAt: '2026-11-24T08:00:01Z' } : problem(507, 'The disk is full.'),
    })
    const full = vi.fn()
    window.addEventListener('disk-full', full)
    const first = inScope(() => useDraft(() => undefined))
    await first.value.load(7)
    first.value.draft.email = 'Typed while it was full'
    await pass(1000)
    expect(first.value.problem.value).toContain('The disk is full')
    expect(full).toHaveBeenCalled()
    first.stop() // the page is closed

    room = true
    const second = inScope(() => useDraft(() => undefined))
    await second.value.load(7)
    expect(second.value.draft.email).toBe('Typed while it was full')
    await pass(1000)
    expect(asked.at(-1)?.body).toMatchObject({ draft: { email: 'Typed while it was full' } })
    await second.value.load(7)
    expect(second.value.draft.email).toBe('First')
    second.stop()
  })

  it('never overwrites what another window kept', async () => {
    const asked = serve({
      'GET /api/messages/7': () => message({ draft: { ...emptyDraft(), email: 'First' } }),
      'PUT /api/messages/7': () => problem(409, 'This was changed in another window.'),
    })
    const { value: desk, stop } = inScope(() => useDraft(() => undefined))
    await desk.load(7)
    desk.draft.email = 'Mine'
    await pass(1000)
    expect(desk.conflict.value).toBe(true)
    desk.draft.email = 'Still mine'
    await pass(20_000)
    expect(asked.filter((a) => a.call.startsWith('PUT'))).toHaveLength(1)
    expect(desk.draft.email).toBe('Still mine')
    await desk.load(7)
    expect(desk.draft.email).toBe('First')
    expect(desk.conflict.value).toBe(false)
    stop()
  })

  it('does not keep what was only loaded', async () => {
    const asked = serve({
      'GET /api/messages/7': () => message({ draft: { ...emptyDraft(), steps: [['text']] } }),
    })
    const { value: desk, stop } = inScope(() => useDraft(() => undefined))
    await desk.load(7)
    await pass(5000)
    expect(asked.map((a) => a.call)).toEqual(['GET /api/messages/7'])
    await desk.load(0)
    expect(desk.draft.steps).toBeUndefined()
    stop()
  })
})

it('a part is known by what it names', () => {
  expect(partKey({ kind: 'group', group: 3 })).toBe('group:3')
  expect(partKey({ kind: 'role', role: 'staff' })).toBe('role:staff')
  expect(partKey({ kind: 'person', person: 9, leaveOut: true })).toBe('person:9')
})

it('words for when a draft was kept', () => {
  const kept = ref<number>()
  const now = ref(1_000_000)
  const dirty = ref(false)
  const words = keptWords(kept, now, dirty)
  expect(words.value).toBe('Nothing to keep yet')
  kept.value = 1_000_000
  expect(words.value).toBe('Draft kept just now')
  now.value += 12_000
  expect(words.value).toBe('Draft kept 12 s ago')
  now.value += 600_000
  expect(words.value).toBe('Draft kept 10 min ago')
  dirty.value = true
  expect(words.value).toBe('Keeping the draft…')
})

describe('leaving single people out', () => {
  it('gathers them in one part and takes it away with the last of them', () => {
    const parts: Part[] = [{ kind: 'group', group: 1 }]
    leaveOut(parts, 7)
    leaveOut(parts, 8)
    expect(parts).toEqual([
      { kind: 'group', group: 1 },
      { kind: 'people', people: [7, 8], leaveOut: true },
    ])
    leaveOut(parts, 7)
    expect(singled(parts)?.people).toEqual([8])
    leaveOut(parts, 8)
    expect(parts).toHaveLength(1)
  })

  it('tells parts by rule and lists apart', () => {
    const parts: Part[] = [
      { kind: 'rule', rule: [{ on: 'role', test: 'is', value: 'staff' }] },
      { kind: 'rule', rule: [{ on: 'role', test: 'is', value: 'member' }] },
      { kind: 'addresses', addresses: ['a@example.org'] },
      { kind: 'unit', unit: 3 },
    ]
    expect(new Set(parts.map(partKey)).size).toBe(4)
  })
})
