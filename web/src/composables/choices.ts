import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'

/** What people, filters and groups can be set to. */
export function useChoices() {
  return useQuery({
    queryKey: ['roster', 'choices'],
    queryFn: () => take(api.GET('/choices')),
    staleTime: 60_000,
  })
}

export function useGroups() {
  return useQuery({ queryKey: ['roster', 'groups'], queryFn: () => take(api.GET('/groups')) })
}
