import type { Draft, Schemas } from '@/api/client'

export type Question = Schemas['Question']
export type Means = NonNullable<Schemas['FixedAnswer']['means']>

export const mostChoices = 9

/** What an answer can mean to whoever asks. */
export const meanings: { value: Means; title: string }[] = [
  { value: '', title: 'nothing more' },
  { value: 'counts', title: 'it counts' },
  { value: 'minutes', title: 'it counts, in minutes' },
  { value: 'attend', title: 'somebody looks after them' },
]

/** Questions to begin with. */
export const beginnings: { words: string; question: () => Question }[] = [
  {
    words: 'Are you safe?',
    question: () => ({
      choices: [
        { words: 'I am safe', means: 'counts' },
        { words: 'I need help', means: 'attend' },
        { words: 'I am not there' },
      ],
    }),
  },
  {
    words: 'Are you coming?',
    question: () => ({
      choices: [
        { words: 'I am coming', means: 'counts' },
        { words: 'I am coming later', means: 'minutes' },
        { words: 'I cannot come' },
      ],
      filled: 'We are enough now. Thank you, you do not need to come.',
    }),
  },
  { words: 'Yes or no', question: () => ({ choices: [{ words: 'Yes', means: 'counts' }, { words: 'No' }] }) },
  { words: 'Own', question: () => ({ choices: [{ words: '' }, { words: '' }] }) },
]

/** Frees the keys of the call that choose an answer from what they did before. */
export function freeKeys(draft: Draft) {
  const taken = (key?: string) => Number(key) >= 1 && Number(key) <= (draft.question?.choices.length ?? 0)
  if (taken(draft.voice?.repeatKey)) delete draft.voice!.repeatKey
  if (taken(draft.voice?.confirmKey)) delete draft.voice!.confirmKey
}
