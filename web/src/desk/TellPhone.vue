<script setup lang="ts">
import { computed } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useSaid } from '@/composables/said'

/** Whoever sits here can be told by text what comes in, and answer from their own phone. */
const { desk } = defineProps<{ desk: number }>()
const client = useQueryClient()
const { fail, tell } = useSaid()
const path = { params: { path: { id: desk } } }
const queryKey = ['desks', 'phone', desk]
const { data } = useQuery({ queryKey, queryFn: () => take(api.GET('/desks/{id}/phone', path)) })
const change = useMutation({
  mutationFn: (on: boolean) => take(api.PUT('/desks/{id}/phone', { ...path, body: { on } })),
  onSuccess: (_, on) =>
    tell(
      on
        ? `What comes in is told to ${data.value?.number} with a code. To answer, send the code and your words to the number that it comes from.`
        : 'You are told nothing more by text.',
    ),
  onError: fail,
  onSettled: () => client.invalidateQueries({ queryKey }),
})
const words = computed(() => (data.value?.on ? `Told at ${data.value.number}` : 'Tell me by text'))
</script>

<template>
  <button
    v-if="data"
    type="button"
    class="link"
    role="switch"
    :aria-checked="data.on"
    :disabled="change.isPending.value"
    @click="change.mutate(!data.on)"
  >
    {{ words }}
  </button>
</template>
