<script setup lang="ts">
import { computed, ref } from 'vue'
import { useIntervalFn } from '@vueuse/core'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import { ageOf } from './ages'
import { withWords } from './many'

/** Some threads of a desk, by what the shift owes. */
const props = defineProps<{
  desk: number
  title: string
  waits?: 'us' | 'them' | 'quiet'
  mine?: boolean
  find?: string
  byName?: boolean
  language?: string
  area?: number
  with?: '' | Schemas['ThreadRow']['with']
  open: number
  /** How many are shown at first. */
  some: number
}>()
defineEmits<{ open: [thread: number] }>()

const times = useTimes()
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 30_000)

const more = ref(0)
const wanted = computed(() => ({
  ...(props.waits ? { waits: props.waits } : {}),
  ...(props.mine ? { mine: true } : {}),
  ...(props.find ? { find: props.find } : {}),
  ...(props.byName ? { byName: true } : {}),
  ...(props.language ? { language: props.language } : {}),
  ...(props.area ? { area: props.area } : {}),
  ...(props.with ? { with: props.with } : {}),
  count: Math.min(500, props.some + more.value),
}))
const { data, error } = useQuery({
  queryKey: ['desks', computed(() => props.desk), 'threads', wanted],
  queryFn: () =>
    take(api.GET('/desks/{id}/threads', { params: { path: { id: props.desk }, query: wanted.value } })),
  placeholderData: keepPreviousData,
})
/** What waits for us says since when, anything else when something was said last. */
const when = (t: Schemas['ThreadRow']) =>
  ageOf(t.waits === 'us' ? t.since : t.at, now.value, times.zone.value)
</script>

<template>
  <section :aria-label="title">
    <h3>
      <span>{{ title }}</span><span class="num">{{ data ? thousands(data.all) : '' }}</span>
    </h3>
    <p v-if="error" class="quiet small">{{ error.message }}</p>
    <ul>
      <li v-for="t in data?.threads" :key="t.id">
        <button
          :class="{ unread: t.unread }"
          :aria-current="t.id === open ? 'true' : undefined"
          @click="$emit('open', t.id)"
        >
          <span class="who"
            ><bdi>{{ t.name }}</bdi
            ><span v-if="t.unread" class="sr-only"> unread</span></span
          >
          <span class="quiet small num">{{ when(t) }}</span>
          <span class="last small" :class="{ whole: !t.holder }"
            ><ChannelMark v-if="t.channel" :channel="t.channel" /><span v-else class="kind">{{
              withWords[t.with]
            }}</span
            ><abbr v-if="t.readFrom && !t.note" :title="`read from ${t.readFrom.words} by the machine`">{{
              t.readFrom.value
            }}</abbr
            ><bdi>{{ t.note || t.text || 'nothing said yet' }}</bdi></span
          >
          <span v-if="t.holder" class="quiet small">{{ t.mine ? 'yours' : t.holder }}</span>
        </button>
      </li>
    </ul>
    <button v-if="data && data.threads.length < data.all" class="link small" @click="more += 50">
      Show more ({{ thousands(data.threads.length) }} of {{ thousands(data.all) }})
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
  padding: 5px 10px;
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

.who {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.unread .who {
  font-weight: 650;
}

.last {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
  color: var(--ink2);
}

.kind {
  flex: none;
  color: var(--deep2);
}

abbr {
  flex: none;
  padding: 0 3px;
  border: 1px solid var(--line);
  border-radius: 3px;
  font-size: 10.5px;
  line-height: 14px;
  text-decoration: none;
}

.whole {
  grid-column: 1 / 3;
}

.last bdi {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
