<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useDesks } from '@/composables/desks'
import { useRights, useTimes } from '@/composables/session'
import { count, people } from '@/composables/words'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'
import { ageOf } from '@/desk/ages'
import DayRiver from '@/today/DayRiver.vue'

const JobsAndGaps = defineAsyncComponent(() => import('@/today/JobsAndGaps.vue'))
const WaitingThreads = defineAsyncComponent(() => import('@/today/WaitingThreads.vue'))
const ReadingCards = defineAsyncComponent(() => import('@/today/ReadingCards.vue'))
const AskingCards = defineAsyncComponent(() => import('@/today/AskingCards.vue'))

/** The first page of a shift: what must be answered, what is not settled, what is worth mending. */
const may = useRights()
const times = useTimes()
const { data: day, error } = useQuery({
  queryKey: ['messages', 'today'],
  queryFn: () => take(api.GET('/today')),
})
const { data: desks } = useDesks()
const owed = computed(() => desks.value?.reduce((sum, d) => sum + d.us, 0) ?? 0)
const oldest = computed(() => desks.value?.flatMap((d) => d.oldest ?? []).sort()[0])
const title = computed(() =>
  day.value
    ? new Intl.DateTimeFormat('en-GB', {
        timeZone: times.zone.value,
        weekday: 'long',
        day: 'numeric',
        month: 'long',
      }).format(new Date(day.value.now))
    : '',
)
const open = computed(() =>
  (desks.value ?? [])
    .map((d) => `${d.name} ${d.until ? `until ${times.clock(d.until)}` : d.open ? 'open' : 'closed'}`)
    .join(' · '),
)
</script>

<template>
  <div class="page">
    <PageHead :title="title ? `Today, ${title}` : 'Today'" :note="open">
      <v-btn v-if="may('write')" color="primary" variant="flat" to="/write/new">Write a message</v-btn>
    </PageHead>
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <div class="day"><DayRiver v-if="day" :day="day" /></div>
    <div class="columns" :class="{ two: !desks?.length }">
      <section v-if="desks?.length" aria-label="Waits for an answer from us">
        <PaneHead
          title="Waits for an answer from us"
          :note="
            owed && oldest
              ? `${count(owed, 'thread', 'threads')} · the oldest ${ageOf(oldest, Date.now(), times.zone.value)}`
              : ''
          "
        />
        <p v-if="!owed" class="quiet">Nobody waits for an answer.</p>
        <WaitingThreads v-for="d in desks.filter((d) => d.us)" :key="d.id" :desk="d" />
      </section>
      <section aria-label="Not settled yet">
        <PaneHead title="Not settled yet" note="from the last 2 days" />
        <p v-if="day && !day.unsettled.length && !day.asking.length && !day.readings.length" class="quiet">
          Every message of two days reached its people.
        </p>
        <AskingCards v-if="day?.asking.length" :asking="day.asking" />
        <ReadingCards v-if="day?.readings.length" :readings="day.readings" />
        <article v-for="m in day?.unsettled" :key="m.id" class="sheet card missed">
          <h3>
            {{ people(m.notReached) }} not reached
            <span class="quiet small num">{{ ageOf(m.at, Date.now(), times.zone.value) }}</span>
          </h3>
          <p class="small quiet">
            <bdi>{{ m.title }}</bdi>, to {{ people(m.people) }}
          </p>
          <p><router-link class="link" :to="`/outgoing/${m.id}`">See who, and what to do</router-link></p>
        </article>
      </section>
      <JobsAndGaps v-if="may('see-people')" />
    </div>
  </div>
</template>

<style scoped>
.day {
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
  padding: 8px 0;
}

.columns {
  flex: 1;
  min-height: 0;
  overflow: auto;
  display: grid;
  grid-template-columns: 5fr 4fr 4fr;
}

.columns.two {
  grid-template-columns: 1fr 1fr;
}

section {
  padding: 12px 14px;
  border-inline-end: 1px solid var(--line);
}

section :deep(.card) {
  padding: 9px 12px;
  margin-bottom: 8px;
}

section :deep(.card h3) {
  display: flex;
  justify-content: space-between;
  gap: 10px;
}

section:last-child {
  border: 0;
}

section :deep(.card h3 > bdi),
section :deep(.card h3 > span:first-child) {
  overflow-wrap: anywhere;
}

section :deep(.live),
section :deep(.missed) {
  padding-inline-start: 10px;
}

section :deep(.live) {
  border-inline-start: 3px solid var(--lamp);
}

section :deep(.missed) {
  border-inline-start: 3px solid var(--brick);
}
</style>
