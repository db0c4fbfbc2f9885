import { computed } from 'vue'
import { queryOptions, useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'

export const sessionQuery = queryOptions({
  queryKey: ['session'],
  queryFn: () => take(api.GET('/session')),
  staleTime: Infinity,
})

/** What the account may do. */
export function useRights() {
  const { data } = useSession()
  return (right: Schemas['Session']['rights'][number]) => data.value?.rights.includes(right) ?? false
}

export function useSession() {
  return useQuery(sessionQuery)
}

/** Writes moments in the organisation's time zone. */
export function useTimes() {
  const { data } = useSession()
  const zone = computed(() => data.value?.timeZone ?? 'UTC')
  const write = (at: string | undefined, options: Intl.DateTimeFormatOptions) =>
    at ? new Intl.DateTimeFormat('en-GB', { timeZone: zone.value, ...options }).format(new Date(at)) : ''
  return {
    zone,
    day: (at?: string) => write(at, { weekday: 'short', day: 'numeric', month: 'short' }),
    moment: (at?: string) => {
      const year = (of: string) => write(of, { year: 'numeric' })
      return write(at, {
        weekday: 'short',
        day: 'numeric',
        month: 'short',
        hour: '2-digit',
        minute: '2-digit',
        ...(at && year(at) !== year(new Date().toISOString()) ? { year: 'numeric' } : {}),
      })
    },
    /** With everything that it takes to be typed again. */
    whole: (at?: string) =>
      write(at, {
        weekday: 'short',
        day: 'numeric',
        month: 'short',
        year: 'numeric',
        hour: '2-digit',
        minute: '2-digit',
      }),
    clock: (at?: string) => write(at, { hour: '2-digit', minute: '2-digit' }),
    exact: (at?: string) => write(at, { hour: '2-digit', minute: '2-digit', second: '2-digit' }),
  }
}
