import type { Ref } from 'vue'
import { useMutation } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'

/** With whom a thread is begun. */
export type Beginning = { with: 'one'; person: number } | Schemas['ManyBody']

/** Begins a thread at a desk, or finds the one that there is. */
export function useBeginning(desk: Ref<number>, begun: (thread: number) => unknown) {
  return useMutation({
    mutationFn: (how: Beginning) => {
      const params = { path: { id: desk.value } }
      if (how.with === 'one')
        return take(api.POST('/desks/{id}/threads', { params, body: { person: how.person } }))
      return take(api.POST('/desks/{id}/many', { params, body: how }))
    },
    onSuccess: (made) => begun(made.id),
  })
}
