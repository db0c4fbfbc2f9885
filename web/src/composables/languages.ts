import type { Draft, Plan } from '@/api/client'

/** A language by its tag, with its name. */
export interface LanguageChoice {
  value: string
  title: string
}

const names = new Intl.DisplayNames(['en'], { type: 'language' })

/** The languages that matter to a message: its own, those that its people read, and those of its files. */
export function languagesOf(own: string, plan: Plan | undefined, draft: Draft): LanguageChoice[] {
  const tags = [
    own,
    ...(plan?.copies ?? []).map((c) => c.language),
    ...(draft.files ?? []).map((f) => f.language ?? ''),
    ...(draft.voice?.others ?? []).map((r) => r.language ?? ''),
  ]
  return [...new Set(tags.filter(Boolean))].map((value) => ({ value, title: names.of(value) ?? value }))
}

/** The same, as those who read them. */
export const readersOf = (languages: LanguageChoice[]): LanguageChoice[] =>
  languages.map(({ value, title }) => ({ value, title: `for readers of ${title}` }))
