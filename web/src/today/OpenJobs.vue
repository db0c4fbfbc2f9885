<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { useTimes } from '@/composables/session'
import { count } from '@/composables/words'
import PaneHead from '@/components/PaneHead.vue'
import { jobsQuery, parts, whenOf, type Job } from '@/jobs/jobs'

/** Jobs that are open, and the next ones that are coming. */
const times = useTimes()
const { data } = useQuery(jobsQuery)
const open = computed(() => data.value?.jobs.filter((j) => j.stands === 'open') ?? [])
const coming = computed(() => data.value?.jobs.filter((j) => j.stands === 'coming') ?? [])
const shown = computed(() => [...open.value.slice(0, 4), ...coming.value.slice(0, 2)])
const note = computed(() =>
  [
    open.value.length && count(open.value.length, 'open', 'open'),
    coming.value.length && count(coming.value.length, 'coming', 'coming'),
  ]
    .filter(Boolean)
    .join(', '),
)
const figures = (j: Job) =>
  parts
    .filter((p) => j.parts[p.part])
    .map((p) => `${j.parts[p.part]} ${p.few}`)
    .join(' · ') || 'nobody yet'
</script>

<template>
  <div v-if="shown.length" role="region" aria-label="Jobs" class="jobs">
    <PaneHead title="Jobs" :note="note" />
    <article v-for="j in shown" :key="j.id" class="sheet card" :class="{ missed: j.overdue }">
      <h3>
        <router-link class="link" :to="`/jobs/${j.id}`"
          ><bdi>{{ j.name }}</bdi></router-link
        >
        <span v-if="j.overdue" class="mind small">overdue</span>
        <span v-else-if="j.stands === 'coming'" class="quiet small">coming</span>
      </h3>
      <p class="small quiet">{{ whenOf(j, times) }}</p>
      <p class="small quiet">{{ figures(j) }}</p>
    </article>
  </div>
</template>

<style scoped>
.jobs {
  margin-bottom: 16px;
}

.mind {
  color: var(--lampink);
}
</style>
