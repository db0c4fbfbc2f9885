<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { thousands } from '@/composables/words'
import { ageOf } from '@/desk/ages'

/** What waits longest for an answer at a desk. */
const props = defineProps<{ desk: Schemas['DeskView'] }>()
const times = useTimes()
const shown = 5
const { data } = useQuery({
  queryKey: ['desks', computed(() => props.desk.id), 'threads', 'today'],
  queryFn: () =>
    take(
      api.GET('/desks/{id}/threads', {
        params: { path: { id: props.desk.id }, query: { waits: 'us', count: shown } },
      }),
    ),
})
</script>

<template>
  <article v-for="t in data?.threads" :key="t.id" class="sheet card live">
    <h3>
      <bdi>{{ t.name }}</bdi>
      <span class="quiet small num">{{ ageOf(t.since, Date.now(), times.zone.value) }}</span>
    </h3>
    <p v-if="t.note" class="small"><b>Left by the last shift:</b> {{ t.note }}</p>
    <template v-else>
      <p class="said small quiet" dir="auto">{{ t.text }}</p>
      <p v-if="t.readFrom" class="small quiet">from {{ t.readFrom.words }}, read by the machine</p>
    </template>
    <p class="row">
      <router-link class="link" :to="`/desks/${desk.id}/${t.id}`">Answer</router-link>
      <span v-if="t.holder" class="quiet small"> {{ t.mine ? 'yours' : `${t.holder} looks after it` }}</span>
    </p>
  </article>
  <p v-if="data && data.all > data.threads.length" class="small">
    <router-link class="link" :to="`/desks/${desk.id}`"
      >All {{ thousands(data.all) }} at {{ desk.name }}</router-link
    >
  </p>
</template>
