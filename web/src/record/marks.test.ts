import { expect, it } from 'vitest'
import { patches, patchWords, readMarks } from './marks'

it('reads two digits for each recipient', () => {
  const view = { channels: ['email', 'text'], states: ['held', 'arrived'], marks: '0111' } as const
  expect(readMarks({ ...view, channels: [...view.channels], states: [...view.states] })).toEqual([
    { channel: 'email', state: 'arrived' },
    { channel: 'text', state: 'arrived' },
  ])
})

it('passes over what it does not know', () => {
  expect(readMarks({ channels: ['email'], states: ['held'], marks: '0z00' })).toEqual([
    { channel: 'email', state: 'held' },
  ])
})

it('puts many marks together, and nobody is lost', () => {
  const states = ['arrived', 'failed', 'queued', 'stopped', 'answered'] as const
  const marks = Array.from({ length: 1003 }, (_, i) => ({ channel: 'text' as const, state: states[i % 5]! }))
  const list = patches(marks, 100)
  expect(list).toHaveLength(92)
  const sum = list.reduce((n, p) => n + Object.values(p.counts).reduce((a, b) => a + b), 0)
  expect(sum).toBe(1003)
  expect(list.at(-1)).toMatchObject({ from: 1001, to: 1003 })
  expect(patchWords(list[1]!)).toBe('recipients 12 to 22: 4 reached, 2 under way, 3 failed, 2 stopped')
  expect(patches([], 10)).toEqual([])
})
