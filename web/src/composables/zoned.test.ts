import { describe, expect, it } from 'vitest'
import { toWall } from './zoned'

describe('wall-clock times in a zone', () => {
  it.each([
    ['winter', '2026-11-28T18:00:00Z', 'Europe/London', '2026-11-28T18:00'],
    ['summer', '2026-07-04T17:00:00Z', 'Europe/London', '2026-07-04T18:00'],
    ['another zone', '2026-11-28T22:00:00Z', 'America/Halifax', '2026-11-28T18:00'],
    ['the next day', '2026-07-04T23:30:00Z', 'Europe/London', '2026-07-05T00:30'],
    ['midnight is no 24', '2026-11-28T00:00:00Z', 'Europe/London', '2026-11-28T00:00'],
  ])('%s', (_name, instant, zone, wall) => {
    expect(toWall(instant, zone)).toBe(wall)
  })
})
