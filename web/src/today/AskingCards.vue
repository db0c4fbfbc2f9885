<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { count, people, thousands } from '@/composables/words'
import { ageOf } from '@/desk/ages'

/** Questions that somebody has not answered yet. */
defineProps<{ asking: Schemas['TodayAsks'][] }>()
const times = useTimes()
const answeredOf = (q: Schemas['TodayAsks']) => q.tally.choices.reduce((sum, n) => sum + n, 0)
</script>

<template>
  <article v-for="q in asking" :key="q.id" class="sheet card" :class="{ missed: q.tally.attend || q.needed }">
    <h3>
      <bdi>{{ q.title }}</bdi>
      <span class="quiet small num">{{ ageOf(q.at, Date.now(), times.zone.value) }}</span>
    </h3>
    <p class="small quiet">
      {{ thousands(answeredOf(q)) }} of {{ people(q.tally.asked) }} have answered<template v-if="q.needed"
        >, {{ thousands(q.tally.fills) }} of {{ thousands(q.needed) }} needed</template
      >
    </p>
    <p v-if="q.tally.attend" class="bad">
      {{ count(q.tally.attend, 'person needs', 'people need') }} somebody
    </p>
    <p><router-link class="link" :to="`/outgoing/${q.id}/board`">Open the board</router-link></p>
  </article>
</template>
