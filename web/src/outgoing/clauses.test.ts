import { expect, it } from 'vitest'
import { complete, readSearch, subjects, writeSearch } from './clauses'

it('reads what it wrote, and nothing else', () => {
  const search = { conditions: [{ on: 'words' as const, value: 'low "water"' }], order: 'oldest' as const }
  expect(readSearch(writeSearch(search))).toEqual(search)
  for (const text of [undefined, '', '{', '[]', '{"conditions":1}', 'null'])
    expect(readSearch(text)).toEqual({ conditions: [] })
  expect(writeSearch({ conditions: [] })).toBeUndefined()
})

it('asks for what each subject needs', () => {
  for (const s of subjects) expect(complete({ on: s.on })).toBe(s.on === 'missed')
  expect(complete({ on: 'days', until: '2026-11-28' })).toBe(true)
  expect(complete({ on: 'address', value: ' ' })).toBe(false)
})
