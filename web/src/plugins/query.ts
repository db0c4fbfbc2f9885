import { QueryClient } from '@tanstack/vue-query'
import { ApiError } from '@/api/client'

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 10_000,
      refetchOnWindowFocus: false,
      // What a person must mend does not mend itself by trying again.
      retry: (times, error) => times < 2 && !(error instanceof ApiError && error.status < 500),
    },
  },
})
