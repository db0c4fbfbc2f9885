<script setup lang="ts">
import { computed, ref } from 'vue'
import { useIntervalFn } from '@vueuse/core'
import type { Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { people } from '@/composables/words'
import { lanesOf, spanOf } from './river'

/** The day as a river: what left, what is held, what comes, and the quiet hours. */
const props = defineProps<{ day: Schemas['TodayView'] }>()
const times = useTimes()
const ahead = new Date(props.day.now).getTime() - Date.now()
const now = ref(Date.now() + ahead)
useIntervalFn(() => (now.value = Date.now() + ahead), 30_000)

const span = computed(() => spanOf(props.day))
const place = (at: number) => `${(100 * (at - span.value.from)) / (span.value.to - span.value.from)}%`
const hour = 3_600_000
const hours = computed(() => {
  const list: number[] = []
  for (let at = span.value.from; at <= span.value.to; at += 2 * hour) list.push(at)
  return list
})
const marks = computed(() => lanesOf(props.day.day, span.value.from, span.value.to))
const lanes = computed(() => Math.max(1, ...marks.value.map((m) => m.lane + 1)))

/** The quiet hours as far as they lie in what is drawn. */
const quiet = computed(() => {
  const q = props.day.quiet
  if (!q) return []
  const begins = new Date(props.day.from).getTime()
  const at = (clock: string) => {
    const [h, m] = clock.split(':').map(Number)
    return begins + (h! * 60 + m!) * 60_000
  }
  const spans =
    at(q.from) <= at(q.to)
      ? [[at(q.from), at(q.to)]]
      : [
          [begins, at(q.to)],
          [at(q.from), begins + 24 * hour],
        ]
  return spans
    .map(([from, to]) => [Math.max(from!, span.value.from), Math.min(to!, span.value.to)] as const)
    .filter(([from, to]) => to > from)
})
</script>

<template>
  <div class="river" role="group" aria-label="The day" :style="{ height: `${44 + lanes * 24}px` }">
    <div
      v-for="[from, to] in quiet"
      :key="from"
      class="quiet-hours"
      :style="{ insetInlineStart: place(from), width: `calc(${place(to)} - ${place(from)})` }"
    >
      <span class="small">quiet hours</span>
    </div>
    <div v-for="h in hours" :key="h" class="hour" :style="{ insetInlineStart: place(h) }">
      <span class="small num">{{ times.clock(new Date(h).toISOString()) }}</span>
    </div>
    <div class="now" :style="{ insetInlineStart: place(now) }">
      <b class="small num">{{ times.clock(new Date(now).toISOString()) }}</b>
    </div>
    <router-link
      v-for="m in marks"
      :key="m.message.id"
      class="mark-of"
      :class="{ before: m.before, held: m.message.held }"
      :to="`/outgoing/${m.message.id}`"
      :style="{
        [m.before ? 'insetInlineEnd' : 'insetInlineStart']: m.before
          ? `calc(100% - ${100 * m.at}% - 5px)`
          : `calc(${100 * m.at}% - 5px)`,
        top: `${18 + m.lane * 24}px`,
      }"
      :title="`${times.clock(m.message.at)}: ${m.message.title}, to ${people(m.message.people)}`"
      ><i aria-hidden="true" /><bdi>{{ m.message.title }}</bdi>
      <span class="num">· {{ m.message.people }}</span
      ><span class="sr-only"
        >, {{ m.message.held ? 'leaves' : 'left' }} {{ times.clock(m.message.at) }}</span
      ></router-link
    >
    <p v-if="!marks.length" class="none small">Nothing leaves today.</p>
  </div>
</template>

<style scoped>
.river {
  position: relative;
  margin: 0 16px;
  overflow: hidden;
}

.hour,
.now {
  position: absolute;
  top: 14px;
  bottom: 18px;
  border-inline-start: 1px solid var(--line);
}

.hour span {
  position: absolute;
  bottom: -18px;
  inset-inline-start: 2px;
  color: var(--ink2);
}

.hour:last-of-type span {
  inset-inline: auto 2px;
}

.now {
  top: 0;
  border-inline-start: 2px solid var(--ink);
}

.now b {
  position: absolute;
  top: -2px;
  inset-inline-start: 5px;
}

.quiet-hours {
  position: absolute;
  top: 14px;
  bottom: 18px;
  background: var(--fog);
  container-type: inline-size;
}

@container (width < 80px) {
  .quiet-hours span {
    display: none;
  }
}

.quiet-hours span {
  position: absolute;
  bottom: 2px;
  inset-inline-start: 6px;
  color: var(--ink2);
  white-space: nowrap;
}

.mark-of {
  position: absolute;
  display: flex;
  align-items: center;
  gap: 6px;
  max-width: 45%;
  font-size: 12.5px;
  white-space: nowrap;
  color: var(--ink);
  text-decoration: none;
  /* Lines pass behind the words. */
  text-shadow:
    0 0 3px var(--sheet),
    0 0 3px var(--sheet),
    0 0 3px var(--sheet);
}

.mark-of:hover {
  text-decoration: underline;
}

.mark-of bdi {
  overflow: hidden;
  text-overflow: ellipsis;
}

.mark-of i {
  width: 10px;
  height: 10px;
  flex: none;
  rotate: 45deg;
  background: var(--deep2);
}

.mark-of.held i {
  background: var(--sheet);
  border: 2px solid var(--deep2);
}

.before i {
  order: 1;
}

.none {
  position: absolute;
  top: 22px;
  inset-inline-start: 0;
  color: var(--ink2);
}
</style>
