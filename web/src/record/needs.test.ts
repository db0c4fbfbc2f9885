import { expect, it } from 'vitest'
import { actionWords, doneWords, meant, type Need } from './needs'

const need = (over: Partial<Need>): Need => ({
  recipient: 0,
  person: 1,
  name: 'Di Venn',
  what: 'no address on file',
  given: '',
  givenTo: 0,
  done: false,
  reached: false,
  doneBy: '',
  ...over,
})
const group = {
  way: 'details' as const,
  open: 2,
  people: [need({}), need({ person: 2 }), need({ person: 3, done: true, doneBy: 'Hugo Farrowby' })],
}

it('means everybody who is not done, unless some are chosen', () => {
  expect(meant(group, []).map((p) => p.person)).toEqual([1, 2])
  expect(meant(group, [2]).map((p) => p.person)).toEqual([2])
  expect(meant(group, [3]).map((p) => p.person)).toEqual([1, 2])
})

it('says what there is to do, and who did it', () => {
  expect(actionWords('next-channel', 1)).toBe('Try the next channel for 1 person')
  expect(actionWords('paper', 4)).toBe('Print letters to 4 people')
  expect(doneWords(need({ done: true, doneBy: 'Hugo Farrowby' }))).toBe('ticked off by Hugo Farrowby')
  expect(doneWords(need({ done: true, reached: true }))).toContain('reached')
})
