import type { Schemas } from '@/api/client'

export type Clause = Schemas['Clause']
export type Search = Schemas['Search']
export type On = Clause['on']

/** What a search can look at, in the order in which it is offered. */
export const subjects: { on: On; words: string }[] = [
  { on: 'sender', words: 'Who sent it' },
  { on: 'group', words: 'To a group' },
  { on: 'person', words: 'To a person' },
  { on: 'address', words: 'To a number or mailbox' },
  { on: 'unit', words: 'Of a unit' },
  { on: 'days', words: 'Between days' },
  { on: 'last', words: 'In the last days' },
  { on: 'urgency', words: 'Urgency' },
  { on: 'channel', words: 'Channel' },
  { on: 'state', words: 'State' },
  { on: 'missed', words: 'Did not reach everybody' },
  { on: 'follows', words: 'Follows another' },
  { on: 'made', words: 'By hand or by the program' },
]

/** The values of those that have a few. */
export const options: Partial<Record<On, { value: string; title: string }[]>> = {
  urgency: ['routine', 'timely', 'emergency'].map((value) => ({ value, title: value })),
  channel: [
    { value: 'email', title: 'email' },
    { value: 'text', title: 'text' },
    { value: 'voice', title: 'voice call' },
    { value: 'push', title: 'push' },
  ],
  state: [
    { value: 'draft', title: 'a draft' },
    { value: 'held', title: 'on hold' },
    { value: 'sending', title: 'going out' },
    { value: 'sent', title: 'gone out' },
    { value: 'stopped', title: 'stopped' },
  ],
  made: [
    { value: 'hand', title: 'by hand' },
    { value: 'program', title: 'by the program' },
  ],
  follows: [
    { value: 'again', title: 'sent again' },
    { value: 'further', title: 'sent to further people' },
    { value: 'correction', title: 'a correction' },
    { value: 'all-clear', title: 'an all-clear' },
  ],
}

/** Whether a clause says enough to be looked for. */
export function complete(c: Clause): boolean {
  switch (c.on) {
    case 'words':
    case 'address':
      return Boolean(c.value?.trim())
    case 'sender':
    case 'group':
    case 'unit':
    case 'person':
      return Boolean(c.id)
    case 'days':
      return Boolean(c.from || c.until)
    case 'last':
      return Boolean(c.days)
    case 'missed':
      return true
    default:
      return Boolean(c.value)
  }
}

/** A search as it stands in an address; what cannot be read looks for nothing. */
export function readSearch(text: unknown): Search {
  try {
    const found = JSON.parse(String(text)) as Search
    return Array.isArray(found.conditions) ? found : { conditions: [] }
  } catch {
    return { conditions: [] }
  }
}

export function writeSearch(s: Search): string | undefined {
  return s.conditions.length || s.order ? JSON.stringify(s) : undefined
}
