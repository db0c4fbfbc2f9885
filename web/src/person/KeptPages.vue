<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useSaid } from '@/composables/said'
import { useTimes } from '@/composables/session'

/** The personal pages that somebody keeps on devices, each of which can be ended. */
const { person } = defineProps<{ person: number }>()
const client = useQueryClient()
const { fail } = useSaid()
const { day } = useTimes()
const { data } = useQuery({
  queryKey: ['roster', 'pages', person],
  queryFn: () => take(api.GET('/people/{id}/pages', { params: { path: { id: person } } })),
})
const end = useMutation({
  mutationFn: (page: number) =>
    take(api.DELETE('/people/{id}/pages/{page}', { params: { path: { id: person, page } } })),
  onError: fail,
  onSettled: () => client.invalidateQueries({ queryKey: ['roster'] }),
})
const words = { phone: 'On a phone', browser: 'In a browser' }
</script>

<template>
  <div v-if="data?.length" class="pages" aria-label="Their page is kept">
    <b class="small">Their page is kept</b>
    <p v-for="p in data" :key="p.id" class="small">
      <bdi>{{ p.device || words[p.kind as keyof typeof words] }}</bdi>
      <span class="quiet"> since {{ day(p.kept) }}, opened last {{ day(p.seen) }}</span>
      <button type="button" class="link" :disabled="end.isPending.value" @click="end.mutate(p.id)">
        End it
      </button>
    </p>
  </div>
</template>

<style scoped>
.pages {
  width: 100%;
}

.pages .link {
  margin-inline-start: 8px;
}
</style>
