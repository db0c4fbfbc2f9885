import { queryOptions, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'

export const desksQuery = queryOptions({ queryKey: ['desks'], queryFn: () => take(api.GET('/desks')) })

/** The desks at which the account sits, and what waits there. */
export const useDesks = () => useQuery(desksQuery)
