import { useQuery } from '@tanstack/vue-query'
import { api, take, type Draft } from '@/api/client'

/** Templates and quick texts that the account sees. */
export function useShelf() {
  return useQuery({ queryKey: ['shelf'], queryFn: () => take(api.GET('/shelf')), staleTime: 10_000 })
}

const said = ['subject', 'email', 'files', 'ownText', 'text', 'voice', 'push'] as const

/** Lets a draft say what another one says; whom it is for and how it goes out stay. */
export function sayAs(draft: Draft, content: Draft) {
  for (const key of said) {
    if (content[key] === undefined) delete draft[key]
    else Object.assign(draft, { [key]: JSON.parse(JSON.stringify(content[key])) as unknown })
  }
}
