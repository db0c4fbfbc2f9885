import { expect, it } from 'vitest'
import { readMarks } from './marks'

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
