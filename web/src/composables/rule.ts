import type { Condition, Schemas } from '@/api/client'

type Choices = Schemas['ChoicesView']

/** One thing a filter can look at, with the ways of asking. */
export interface Subject {
  key: string
  words: string
  on: Condition['on']
  id?: number
  /** Ways of asking, in words. */
  tests: { test: Condition['test']; words: string }[]
  /** What to compare with: something to choose from, or typed. */
  options?: { value: string; words: string }[]
  type?: 'text' | 'number' | 'date'
  /** The option is an identifier, not a value. */
  byId?: boolean
}

type On = Condition['on']
type Test = Condition['test']

const testWords: Record<Test, string> = {
  is: 'is',
  'is-not': 'is not',
  contains: 'contains',
  less: 'is less than',
  more: 'is more than',
  before: 'is before',
  after: 'is after',
  empty: 'is empty',
  filled: 'is filled in',
}

/** Where a test reads otherwise. */
const wordsOf: Partial<Record<On, Partial<Record<Test, string>>>> = {
  language: { empty: 'is not known' },
  channel: { is: 'yes, by', 'is-not': 'not by' },
  consent: { is: 'everywhere', 'is-not': 'not everywhere' },
  reached: { before: 'before, or never' },
}

const inWords = (on: On, tests: Test[]): Subject['tests'] =>
  tests.map((test) => ({ test, words: wordsOf[on]?.[test] ?? testWords[test] }))

/** Everything that a filter can look at here. */
export function subjects(choices: Choices, groups: Schemas['GroupView'][]): Subject[] {
  const subjects: Omit<Subject, 'tests'>[] = [
    {
      key: 'role',
      words: 'Role',
      on: 'role',
      options: choices.roles.map((r) => ({ value: r, words: r })),
    },
    {
      key: 'unit',
      words: 'Unit',
      on: 'unit',
      byId: true,
      options: [
        ...choices.units.map((u) => ({ value: String(u.id), words: u.path })),
        { value: '0', words: 'in no unit' },
      ],
    },
    {
      key: 'group',
      words: 'Group',
      on: 'group',
      byId: true,
      options: groups.map((g) => ({ value: String(g.id), words: g.name })),
    },
    {
      key: 'language',
      words: 'Language',
      on: 'language',
      options: choices.languages,
    },
    {
      key: 'status',
      words: 'Status',
      on: 'status',
      options: ['active', 'away', 'left'].map((s) => ({ value: s, words: s })),
    },
    {
      key: 'channel',
      words: 'Can be reached by',
      on: 'channel',
      options: [
        { value: 'email', words: 'email' },
        { value: 'text', words: 'text' },
        { value: 'voice', words: 'voice' },
        { value: 'push', words: 'push' },
      ],
    },
    {
      key: 'consent',
      words: 'Declines',
      on: 'consent',
      options: [
        { value: 'routine', words: 'routine messages' },
        { value: 'timely', words: 'timely messages' },
      ],
    },
    { key: 'gap', words: 'Gap', on: 'gap', options: choices.gaps },
    {
      key: 'reached',
      words: 'Last reached',
      on: 'reached',
      type: 'date',
    },
  ]
  const list: Subject[] = subjects.flatMap((subject) => {
    const tests = choices.subjects.find((s) => s.on === subject.on)?.tests
    return tests ? [{ ...subject, tests: inWords(subject.on, tests) }] : []
  })
  for (const a of choices.attributes) {
    list.push({
      key: `attribute ${a.id}`,
      words: a.name,
      on: 'attribute',
      id: a.id,
      tests: inWords('attribute', a.tests),
      ...(a.kind === 'choice' ? { options: (a.choices ?? []).map((c) => ({ value: c, words: c })) } : {}),
      ...(a.kind === 'yes-no' ? { options: ['yes', 'no'].map((v) => ({ value: v, words: v })) } : {}),
      ...(a.kind === 'text' || a.kind === 'number' || a.kind === 'date' ? { type: a.kind } : {}),
    })
  }
  return list
}

export const needsValue = (test: Condition['test']) => test !== 'empty' && test !== 'filled'

/** The condition that a subject, a test and a value make. */
export function condition(subject: Subject, test: Condition['test'], value: string): Condition {
  const c: Condition = { on: subject.on, test }
  if (subject.byId) c.id = Number(value)
  else if (needsValue(test)) c.value = value
  if (subject.id) c.id = subject.id
  return c
}
