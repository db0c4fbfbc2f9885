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

const isOrNot = [
  { test: 'is' as const, words: 'is' },
  { test: 'is-not' as const, words: 'is not' },
]

const attributeTests: Record<Schemas['Attribute']['kind'], Subject['tests']> = {
  text: [
    ...isOrNot,
    { test: 'contains', words: 'contains' },
    { test: 'empty', words: 'is empty' },
    { test: 'filled', words: 'is filled in' },
  ],
  number: [
    { test: 'is', words: 'is' },
    { test: 'less', words: 'is less than' },
    { test: 'more', words: 'is more than' },
    { test: 'empty', words: 'is empty' },
    { test: 'filled', words: 'is filled in' },
  ],
  date: [
    { test: 'is', words: 'is' },
    { test: 'before', words: 'is before' },
    { test: 'after', words: 'is after' },
    { test: 'empty', words: 'is empty' },
    { test: 'filled', words: 'is filled in' },
  ],
  choice: [...isOrNot, { test: 'empty', words: 'is empty' }, { test: 'filled', words: 'is filled in' }],
  'yes-no': [
    { test: 'is', words: 'is' },
    { test: 'empty', words: 'is empty' },
  ],
}

/** Everything that a filter can look at here. */
export function subjects(choices: Choices, groups: Schemas['GroupView'][]): Subject[] {
  const list: Subject[] = [
    {
      key: 'role',
      words: 'Role',
      on: 'role',
      tests: isOrNot,
      options: choices.roles.map((r) => ({ value: r, words: r })),
    },
    {
      key: 'unit',
      words: 'Unit',
      on: 'unit',
      byId: true,
      tests: isOrNot,
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
      tests: isOrNot,
      options: groups.map((g) => ({ value: String(g.id), words: g.name })),
    },
    {
      key: 'language',
      words: 'Language',
      on: 'language',
      tests: [...isOrNot, { test: 'empty', words: 'is not known' }],
      options: choices.languages,
    },
    {
      key: 'status',
      words: 'Status',
      on: 'status',
      tests: isOrNot,
      options: ['active', 'away', 'left'].map((s) => ({ value: s, words: s })),
    },
    {
      key: 'channel',
      words: 'Can be reached by',
      on: 'channel',
      tests: [
        { test: 'is', words: 'yes, by' },
        { test: 'is-not', words: 'not by' },
      ],
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
      tests: [
        { test: 'is', words: 'everywhere' },
        { test: 'is-not', words: 'not everywhere' },
      ],
      options: [
        { value: 'routine', words: 'routine messages' },
        { value: 'timely', words: 'timely messages' },
      ],
    },
    { key: 'gap', words: 'Gap', on: 'gap', tests: isOrNot, options: choices.gaps },
    {
      key: 'reached',
      words: 'Last reached',
      on: 'reached',
      tests: [{ test: 'before', words: 'before, or never' }],
      type: 'date',
    },
  ]
  for (const a of choices.attributes) {
    list.push({
      key: `attribute ${a.id}`,
      words: a.name,
      on: 'attribute',
      id: a.id,
      tests: attributeTests[a.kind],
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
