<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'

/** Whom something reached that went to many in a thread. */
const props = defineProps<{ thread: number; message: number }>()
const { data, error } = useQuery({
  queryKey: ['desks', 'reached', props.thread, props.message],
  queryFn: () =>
    take(
      api.GET('/threads/{id}/reached/{message}', {
        params: { path: { id: props.thread, message: props.message } },
      }),
    ),
})
const words: Record<string, string> = {
  confirmed: 'confirmed it on their device',
  answered: 'has it and answered',
  reached: 'has it',
  waiting: 'on its way',
  'not-reached': 'was not reached',
  stopped: 'was stopped',
}
</script>

<template>
  <p v-if="error" class="small bad">{{ error.message }}</p>
  <ul v-if="data" class="small" aria-label="Whom it reached">
    <li v-for="p in data.people" :key="p.person">
      <bdi>{{ p.name }}</bdi> <span class="quiet">{{ words[p.says] ?? p.says }}</span>
    </li>
    <li v-for="p in data.leftOut" :key="`not ${p.person}`">
      <bdi>{{ p.name }}</bdi> <span class="quiet">gets nothing: {{ p.says }}</span>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  columns: 2;
  column-gap: 16px;
}
</style>
