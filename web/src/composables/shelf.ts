import { useQuery } from '@tanstack/vue-query'
import { api, take, type Content, type Draft } from '@/api/client'

/** Templates and quick texts that the account sees. */
export function useShelf() {
  return useQuery({ queryKey: ['shelf'], queryFn: () => take(api.GET('/shelf')), staleTime: 10_000 })
}

const said = ['subject', 'email', 'files', 'ownText', 'text', 'voice', 'push', 'question'] as const

/** Lets a draft say what another one says; whom it is for and how it goes out stay. */
export function sayAs(draft: Draft, content: Content) {
  for (const key of said) {
    if (content[key] === undefined) delete draft[key]
    else Object.assign(draft, { [key]: JSON.parse(JSON.stringify(content[key])) as unknown })
  }
}

/** What a draft says, without whom it is for and how it goes out. */
export function contentOf(draft: Draft): Content {
  const { subject, email, ownText, text } = draft
  const content: Content = { subject, email, ownText, text }
  if (draft.files) content.files = draft.files
  if (draft.voice) content.voice = draft.voice
  if (draft.push) content.push = draft.push
  if (draft.question) content.question = draft.question
  return content
}
