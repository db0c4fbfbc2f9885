<script setup lang="ts">
import { computed, ref } from 'vue'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { mdiChevronLeft, mdiChevronRight } from '@mdi/js'
import { api, take } from '@/api/client'
import { useTimes } from '@/composables/session'
import { channelWords, monthWords } from '@/composables/words'

/**
 * A month to choose a day from. It shows public holidays, and for a moment what
 * else leaves; usual moments only where one is chosen.
 */
const props = defineProps<{ chosen?: string; moment?: boolean; usual?: boolean }>()
const emit = defineEmits<{ pick: [typed: string] }>()

const times = useTimes()
const of = ref(props.chosen ?? '')
const { data } = useQuery({
  queryKey: ['month', of],
  queryFn: () => take(api.GET('/months', { params: { query: of.value ? { of: of.value } : {} } })),
  placeholderData: keepPreviousData,
})

function turn(by: number) {
  const first = new Date(`${data.value?.first ?? of.value}T00:00:00Z`)
  first.setUTCMonth(first.getUTCMonth() + by, 1)
  of.value = first.toISOString().slice(0, 10)
}

const weekdays = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
/** How many places before the first day stay empty; weeks begin on Monday. */
const empty = computed(() => (new Date(`${data.value?.first}T00:00:00Z`).getUTCDay() + 6) % 7)
const said = (day: NonNullable<typeof data.value>['days'][number]) =>
  [day.holiday, ...(props.moment ? day.leaves.map((l) => `${times.clock(l.at)} ${l.title}`) : [])]
    .filter(Boolean)
    .join('; ')
const notes = computed(() =>
  (data.value?.days ?? []).filter(said).map((day) => ({ day: day.day, words: said(day) })),
)
</script>

<template>
  <div class="month sheet" role="group" aria-label="Month">
    <template v-if="data">
      <div v-if="usual" class="usual" role="group" aria-label="Usual times">
        <button v-for="typed in data.usual" :key="typed" type="button" @click="emit('pick', typed)">
          {{ typed }}
        </button>
      </div>
      <header>
        <button type="button" class="icon" aria-label="The month before" @click="turn(-1)">
          <v-icon :icon="mdiChevronLeft" size="18" />
        </button>
        <b aria-live="polite">{{ monthWords(data.first) }}</b>
        <button type="button" class="icon" aria-label="The month after" @click="turn(1)">
          <v-icon :icon="mdiChevronRight" size="18" />
        </button>
      </header>
      <div class="days">
        <span v-for="name in weekdays" :key="name" class="weekday">{{ name }}</span>
        <span v-for="n in empty" :key="`before ${n}`" />
        <button
          v-for="day in data.days"
          :key="day.day"
          type="button"
          :class="{
            chosen: day.day === chosen,
            today: day.day === data.today,
            holiday: day.holiday,
            past: moment && day.day < data.today,
          }"
          :aria-label="[day.day, said(day)].filter(Boolean).join(', ')"
          :aria-pressed="day.day === chosen"
          @click="emit('pick', day.day)"
        >
          {{ Number(day.day.slice(8)) }}
          <i v-if="moment && day.leaves.length" />
        </button>
      </div>
      <ul v-if="notes.length" class="notes">
        <li v-for="note in notes" :key="note.day">
          <b class="num">{{ Number(note.day.slice(8)) }}</b> <bdi>{{ note.words }}</bdi>
        </li>
      </ul>
      <p v-for="q in moment ? data.quiet : []" :key="q.channel" class="quiet small">
        {{ channelWords[q.channel] }} waits from {{ q.from }} to {{ q.to }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.month {
  width: 268px;
  padding: 10px 12px 12px;
  display: grid;
  gap: 8px;
  color: var(--ink);
}

.usual {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}

.usual button {
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--pane);
  font: inherit;
  font-size: 12.5px;
  padding: 4px 6px;
  cursor: pointer;
}

header {
  display: flex;
  justify-content: space-between;
  align-items: center;
}

.days {
  display: grid;
  grid-template-columns: repeat(7, 1fr);
  gap: 2px;
  text-align: center;
}

.weekday {
  font-size: 11px;
  font-weight: 600;
  color: var(--ink2);
}

.days button {
  position: relative;
  border: 1px solid transparent;
  border-radius: 4px;
  background: none;
  font: inherit;
  font-variant-numeric: tabular-nums;
  height: 29px;
  cursor: pointer;
}

.days button:hover,
.usual button:hover {
  background: #e3edf0;
}

.days .past {
  color: var(--ink3);
}

.days .today {
  border-color: var(--deep2);
}

.days .holiday {
  color: var(--brick);
  font-weight: 600;
}

.days .chosen {
  background: var(--deep2);
  color: #fff;
  font-weight: 600;
}

/* What else leaves that day. */
.days i {
  position: absolute;
  inset-block-end: 3px;
  inset-inline: 9px;
  height: 2px;
  background: var(--lamp);
}

.notes {
  margin: 0;
  padding: 6px 0 0;
  border-top: 1px solid var(--hair);
  list-style: none;
  font-size: 12px;
  max-height: 92px;
  overflow-y: auto;
}

.notes b {
  display: inline-block;
  width: 18px;
  margin-inline-end: 4px;
}
</style>
