import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import { condition, subjects } from './rule'

const choices: Schemas['ChoicesView'] = {
  roles: ['guardian', 'staff'],
  units: [{ id: 4, path: 'Rowing › Juniors' }],
  languages: [{ value: 'pl', words: 'Polish' }],
  attributes: [
    {
      id: 9,
      name: 'Swim test',
      kind: 'choice',
      choices: ['passed', 'due'],
      tests: ['is', 'is-not', 'empty'],
    },
    { id: 10, name: 'Sculling level', kind: 'number', tests: ['is', 'filled'] },
  ],
  subjects: [
    { on: 'role', tests: ['is', 'is-not'] },
    { on: 'unit', tests: ['is', 'is-not'] },
    { on: 'language', tests: ['is', 'is-not', 'empty'] },
  ],
  gaps: [{ value: 'no-address', words: 'no way to reach them on file' }],
  devices: ['phone'],
}

describe('conditions', () => {
  const list = subjects(choices, [])
  const find = (key: string) => list.find((s) => s.key === key)!

  it.each([
    ['role', 'is', 'staff', { on: 'role', test: 'is', value: 'staff' }],
    ['unit', 'is-not', '4', { on: 'unit', test: 'is-not', id: 4 }],
    ['language', 'empty', '', { on: 'language', test: 'empty' }],
    ['attribute 9', 'is', 'due', { on: 'attribute', test: 'is', value: 'due', id: 9 }],
    ['attribute 10', 'filled', 'ignored', { on: 'attribute', test: 'filled', id: 10 }],
  ] as const)('%s %s %s', (key, test, value, wanted) => {
    expect(condition(find(key), test, value)).toEqual(wanted)
  })

  it('asks what the server lets one ask, in the words of the subject', () => {
    expect(find('language').tests.map((t) => t.words)).toEqual(['is', 'is not', 'is not known'])
    expect(find('attribute 9').tests.map((t) => t.words)).toEqual(['is', 'is not', 'is empty'])
    expect(list.some((s) => s.on === 'gap')).toBe(false)
  })

  it('each subject offers a way to ask and something to compare with', () => {
    for (const s of list) {
      expect(s.tests.length).toBeGreaterThan(0)
      expect(Boolean(s.options) || Boolean(s.type)).toBe(true)
    }
  })
})
