import { expect, it } from 'vitest'
import { lasted } from './progress'

it.each([
  [0, 'a second'],
  [1.4, '1 second'],
  [89, '89 seconds'],
  [95, '2 minutes'],
  [89 * 60, '89 minutes'],
  [5 * 3600, '5 hours'],
  [3 * 86_400, '3 days'],
])('says how long %s seconds are', (seconds, words) => {
  expect(lasted(seconds)).toBe(words)
})
