import { computed, watch, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Plan } from '@/api/client'
import type { useDraft } from './draft'
import { useReadings } from './readings'

/** How a draft leaves: sent, asked about, or left to wait for its readings. */
export function useLeaving(desk: ReturnType<typeof useDraft>, plan: Ref<Plan | undefined>, left: () => void) {
  const client = useQueryClient()
  const router = useRouter()
  const path = () => ({ path: { id: desk.id.value } })
  const again = async () => {
    left()
    await client.invalidateQueries({ queryKey: ['messages'] })
  }

  // Where it stands. What is said of another revision than this one counts no more.
  const { data: standing } = useQuery({
    queryKey: ['messages', desk.id],
    queryFn: () => take(api.GET('/messages/{id}', { params: path() })),
    enabled: computed(() => desk.id.value > 0),
  })
  const current = computed(() =>
    standing.value?.revision === desk.revision.value && !desk.dirty.value ? standing.value : undefined,
  )

  // Who asks for somebody else's yes to this draft, and what that yes would send.
  const asker = computed(() => current.value?.asker ?? '')
  const asksYou = computed(() => Boolean(asker.value && current.value?.asksYou))
  const { data: yesPlan } = useQuery({
    queryKey: ['messages', desk.id, 'asked', desk.revision],
    queryFn: () => take(api.GET('/messages/{id}/asked', { params: path() })),
    enabled: asksYou,
  })
  const checkedPlan = computed(() => (asksYou.value ? yesPlan.value : plan.value))

  /** What is sent, or asked about: this revision, to the people of the check. */
  const checked = (typed = 0) => ({
    revision: desk.revision.value,
    recipients: checkedPlan.value?.recipients ?? 0,
    copies: checkedPlan.value?.copiesSeen ?? '',
    typed,
  })

  const send = useMutation({
    mutationFn: async (typed: number) => {
      await desk.flush()
      return take(api.POST('/messages/{id}/send', { params: path(), body: checked(typed) }))
    },
    onSuccess: async (message) => {
      left()
      await client.invalidateQueries()
      await router.push(`/outgoing/${message.id}`)
    },
  })
  const ask = useMutation({
    mutationFn: async () => {
      await desk.flush()
      return take(api.POST('/messages/{id}/ask', { params: path(), body: checked() }))
    },
    onSuccess: again,
  })
  const wait = useMutation({
    mutationFn: async ({ typed, until }: { typed: number; until: string }) => {
      await desk.flush()
      return take(api.POST('/messages/{id}/await', { params: path(), body: { ...checked(typed), until } }))
    },
    onSuccess: again,
  })
  const stopWaiting = useMutation({
    mutationFn: () => take(api.DELETE('/messages/{id}/await', { params: path() })),
    onSettled: () => client.invalidateQueries({ queryKey: ['messages'] }),
  })

  // When the plan has changed since the check, the check is made again.
  const error = computed(() => send.error.value ?? ask.error.value ?? wait.error.value)
  watch(error, (error) => {
    if (!error) return
    void client.invalidateQueries({ queryKey: ['plan'] })
    void client.invalidateQueries({ queryKey: ['messages'] })
  })

  const { open } = useReadings(desk.id)
  const readers = computed(() => open.value.map((r) => `${r.name} (${r.languageName})`))
  const awaits = computed(() => current.value?.awaits)
  // What waited leaves by itself, and is then in its record.
  let waited = false
  watch(standing, (now) => {
    if (waited && now && now.state !== 'draft') void router.push(`/outgoing/${now.id}`)
    waited = Boolean(now?.awaits)
  })

  return {
    send,
    ask,
    wait,
    stopWaiting,
    problem: computed(() => error.value?.message ?? ''),
    busy: computed(() => send.isPending.value || ask.isPending.value || wait.isPending.value),
    asker,
    asksYou,
    checkedPlan,
    readers,
    awaits,
  }
}
