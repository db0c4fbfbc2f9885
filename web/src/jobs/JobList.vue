<script setup lang="ts">
import { computed, ref } from 'vue'
import { useIntervalFn } from '@vueuse/core'
import { useTimes } from '@/composables/session'
import { thousands } from '@/composables/words'
import { parts, passedOf, whenOf, type Job } from './jobs'

/** Jobs by how they stand. */
const props = defineProps<{ jobs: Job[]; open: number }>()
defineEmits<{ open: [id: number] }>()
const times = useTimes()

const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 30_000)
const passed = (j: Job) => passedOf(j, now.value)

const some = 8
const more = ref(0)
const sections = computed(() =>
  (
    [
      ['open', 'Open'],
      ['coming', 'Coming'],
      ['closed', 'Closed'],
    ] as const
  )
    .map(([stands, title]) => {
      const all = props.jobs.filter((j) => j.stands === stands)
      return { title, all: all.length, jobs: stands === 'closed' ? all.slice(0, some + more.value) : all }
    })
    .filter((s) => s.all || s.title === 'Open'),
)
const figures = (j: Job) =>
  parts
    .filter((p) => j.parts[p.part])
    .map((p) => `${j.parts[p.part]} ${p.few}`)
    .join(' · ') || 'nobody yet'
</script>

<template>
  <section v-for="s in sections" :key="s.title" :aria-label="s.title">
    <h3>
      <span>{{ s.title }}</span><span class="num">{{ thousands(s.all) }}</span>
    </h3>
    <p v-if="!s.all" class="quiet small none">No job is open.</p>
    <ul>
      <li v-for="j in s.jobs" :key="j.id">
        <button :aria-current="j.id === open ? 'true' : undefined" @click="$emit('open', j.id)">
          <span class="name"
            ><bdi>{{ j.name }}</bdi></span
          >
          <span class="quiet small num">{{ j.reference }}</span>
          <span class="small line"
            ><span :class="{ late: j.overdue }">{{ whenOf(j, times) }}</span
            ><b v-if="j.overdue" class="late"> · overdue</b></span
          >
          <span v-if="j.place" class="small quiet line"
            ><bdi>{{ j.place }}</bdi></span
          >
          <span class="small quiet line">{{ figures(j) }}</span>
          <span v-if="j.stands === 'open' && passed(j) !== undefined" class="bar line" aria-hidden="true"
            ><i :class="{ over: j.overdue }" :style="{ width: `${100 * passed(j)!}%` }"
          /></span>
        </button>
      </li>
    </ul>
    <button v-if="s.jobs.length < s.all" class="link small" @click="more += 20">
      Show more ({{ s.jobs.length }} of {{ thousands(s.all) }})
    </button>
  </section>
</template>

<style scoped>
h3 {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  color: var(--ink2);
  border-bottom: 1px solid var(--line);
  padding-bottom: 3px;
  margin: 12px 0 4px;
}

.none {
  padding: 4px 10px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li button {
  width: 100%;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 8px;
  padding: 7px 10px;
  border: 1px solid transparent;
  border-radius: 6px;
  background: none;
  font: inherit;
  color: inherit;
  text-align: start;
  cursor: pointer;
}

li button:hover {
  background: var(--pane);
}

li button[aria-current] {
  background: var(--sheet);
  border-color: var(--line);
  box-shadow: inset 3px 0 0 var(--deep2);
}

.name {
  font-weight: 600;
  overflow-wrap: anywhere;
}

.line {
  grid-column: 1 / 3;
  overflow-wrap: anywhere;
}

.bar {
  height: 4px;
  margin-top: 5px;
  border-radius: 2px;
  background: #cfdadd;
  overflow: hidden;
}

.bar i {
  display: block;
  height: 100%;
  background: var(--deep2);
}

.bar i.over {
  background: var(--lamp);
}

.late {
  color: #8a5a00;
}
</style>
