import { expect, it } from 'vitest'
import { lanesOf, spanOf } from './river'

const message = (at: string, title = 'Kit fees') => ({
  id: 1,
  title,
  at: `2026-11-26T${at}:00Z`,
  people: 88,
  held: false,
  notReached: 0,
})
const day = (...at: string[]) => ({
  now: '2026-11-26T10:54:00Z',
  from: '2026-11-26T00:00:00Z',
  to: '2026-11-27T00:00:00Z',
  day: at.map((a) => message(a)),
  unsettled: [],
  asking: [],
  readings: [],
})
const hours = (s: { from: number; to: number }) => [
  new Date(s.from).getUTCHours(),
  (s.to - s.from) / 3_600_000,
]

it('draws the day from six to ten, and further where something lies beyond', () => {
  expect(hours(spanOf(day('08:00', '18:00')))).toEqual([6, 16])
  expect(hours(spanOf(day('02:10')))).toEqual([1, 21])
  expect(hours(spanOf(day('23:50')))).toEqual([6, 18])
})

it('puts words that would lie over others into other lanes', () => {
  const { from, to } = spanOf(day())
  const marks = lanesOf([message('08:00'), message('08:10'), message('14:00')], from, to)
  expect(marks.map((m) => m.lane)).toEqual([0, 1, 0])
})

it('writes what stands at the end before its mark', () => {
  const { from, to } = spanOf(day())
  expect(lanesOf([message('21:30', 'A long title of a message')], from, to)[0]!.before).toBe(true)
})
