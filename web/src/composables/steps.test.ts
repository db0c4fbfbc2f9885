import { describe, expect, it } from 'vitest'
import { move, rungs } from './steps'

describe('the ladder', () => {
  it('has a rung for each step, one more, and off', () => {
    expect(rungs([['email'], ['text']])).toEqual([
      { channels: ['email'] },
      { channels: ['text'] },
      { channels: [], fresh: true },
      { channels: ['voice', 'push'], off: true },
    ])
    expect(rungs([['email'], ['text'], ['voice'], ['push']])).toHaveLength(5)
  })

  it.each([
    ['up onto another', 'text', 0, [['email', 'text'], ['voice']]],
    ['down onto another', 'email', 2, [['text'], ['email', 'voice']]],
    ['off', 'voice', 4, [['email'], ['text']]],
    ['where it stands', 'text', 1, [['email'], ['text'], ['voice']]],
  ] as const)('moves a channel %s', (_, channel, rung, want) => {
    expect(move([['email'], ['text'], ['voice']], channel, rung)).toEqual(want)
  })

  it('takes a channel to a step of its own, and back from off', () => {
    expect(move([['email', 'text', 'voice']], 'voice', 1)).toEqual([['email', 'text'], ['voice']])
    expect(move([['email']], 'text', 1)).toEqual([['email'], ['text']])
    expect(move([['email']], 'text', 0)).toEqual([['email', 'text']])
    expect(move([['email']], 'email', 2)).toEqual([])
  })
})
