import { expect, it } from 'vitest'
import { moved } from './dragOrder'

it.each([
  ['down', [1, 2, 3], 0, 2, [2, 3, 1]],
  ['up', [1, 2, 3], 2, 0, [3, 1, 2]],
  ['nowhere', [1, 2, 3], 1, 1, [1, 2, 3]],
  ['past the end', [1, 2, 3], 2, 3, [1, 2, 3]],
  ['before the start', [1, 2, 3], 0, -1, [1, 2, 3]],
])('a place moves %s', (_name, list, from, to, wanted) => {
  expect(moved(list, from, to)).toEqual(wanted)
})
