<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'

/** Copies of drafts that wait for their readers. */
defineProps<{ readings: Schemas['TodayReading'][] }>()
const times = useTimes()
</script>

<template>
  <article v-for="r in readings" :key="`${r.message} ${r.language}`" class="sheet card">
    <h3>
      A copy waits for its reader <span class="quiet small">{{ r.speaks }}</span>
    </h3>
    <p class="small quiet">
      <bdi>{{ r.title || 'Without a subject' }}</bdi>: asked of <bdi>{{ r.readers }}</bdi>, until
      {{ times.moment(r.until) }}
    </p>
    <p>
      <router-link class="link" :to="`/write/${r.message}/copies/${r.language}`">Open the copy</router-link>
    </p>
  </article>
</template>
