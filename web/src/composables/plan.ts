import { computed, type Ref } from 'vue'
import { refDebounced } from '@vueuse/core'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { api, take, type Draft } from '@/api/client'

/**
 * The plan of a draft, worked out by the server as one types. A question that
 * a newer one overtakes is given up; stale tells that the answer is on its way.
 * The copies are those of the message; 0 has none.
 */
export function usePlan(draft: Draft, message: Ref<number>) {
  const text = computed(() => JSON.stringify(draft))
  const asked = refDebounced(text, 150)
  const query = useQuery({
    queryKey: ['plan', message, asked],
    queryFn: ({ signal }) =>
      take(
        api.POST('/plan', {
          params: { query: { message: message.value } },
          body: JSON.parse(asked.value) as Draft,
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: 5000,
    gcTime: 10_000,
  })
  const stale = computed(() => text.value !== asked.value || query.isFetching.value)
  return { plan: query.data, error: query.error, stale, asked }
}
