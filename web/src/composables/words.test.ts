import { describe, expect, it } from 'vitest'
import { count, people, stageOf, stateWords, thousands } from './words'

describe('words', () => {
  it('fit their number', () => {
    expect(people(1)).toBe('1 person')
    expect(people(0)).toBe('0 people')
    expect(count(12345, 'text', 'texts')).toBe('12,345 texts')
    expect(thousands(1000000)).toBe('1,000,000')
  })

  it('there is a stage and a word for every state', () => {
    for (const state of Object.keys(stateWords) as (keyof typeof stateWords)[]) {
      expect(stageOf(state)).toBeTruthy()
    }
    expect(stageOf('retrying')).toBe('waiting')
    expect(stageOf('expired')).toBe('failed')
  })
})
