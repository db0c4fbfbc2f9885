<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { count } from '@/composables/words'
import RadioBox from '@/controls/RadioBox.vue'
import SelectField from '@/controls/SelectField.vue'

/** What a file does not tell by itself, asked once before it is loaded. */
const props = defineProps<{ proposed: Schemas['ImportView'] }>()
const emit = defineEmits<{ answer: [how: Schemas['Reading']] }>()

type Status = NonNullable<Schemas['Reading']['statuses']>[string]

const dates = computed(() => props.proposed.questions.filter((q) => q.kind === 'dates'))
const orders = [
  { value: 'day-first' as const, words: 'the day first' },
  { value: 'month-first' as const, words: 'the month first' },
]

/** A date as it would be understood, such as “3 April 2012”. */
function understood(value: string, order: 'day-first' | 'month-first'): string {
  const [first = 0, second = 0] = (value.match(/\d+/g) ?? []).map(Number)
  const [day, month] = order === 'day-first' ? [first, second] : [second, first]
  if (!day || !month || month > 12) return ''
  const name = new Intl.DateTimeFormat('en-GB', { month: 'long', timeZone: 'UTC' })
  return `${value} is ${day} ${name.format(new Date(Date.UTC(2024, month - 1, 1)))}`
}

const statuses = [
  { value: 'active' as Status, title: 'active' },
  { value: 'away' as Status, title: 'away' },
  { value: 'left' as Status, title: 'left: gets nothing' },
]
const words = computed(() => [
  ...Object.entries(props.proposed.reading.statuses ?? {}).map(([word, means]) => ({ word, means, rows: 0 })),
  ...props.proposed.questions
    .filter((q) => q.kind === 'status')
    .map((q) => ({ word: q.value, means: undefined, rows: q.rows })),
])
const mean = (word: string, status: Status) =>
  emit('answer', { statuses: { ...props.proposed.reading.statuses, [word]: status } })
</script>

<template>
  <section class="sheet" aria-label="What the file does not tell">
    <h2>{{ proposed.questions.length ? 'What the file does not tell' : 'What you said about the file' }}</h2>
    <fieldset v-if="dates.length || proposed.reading.dates">
      <legend>
        In
        <template v-if="dates.length">“{{ dates.map((d) => d.column).join('”, “') }}”</template>
        <template v-else>its dates</template>
        there stands
      </legend>
      <label v-for="o in orders" :key="o.value" class="tickbox"
        ><RadioBox
          name="dates"
          :value="o.value"
          :model-value="proposed.reading.dates"
          @update:model-value="emit('answer', { dates: o.value })"
        />{{ o.words }}
        <span v-if="dates[0]?.value" class="quiet small">{{
          understood(dates[0].value, o.value)
        }}</span></label
      >
    </fieldset>
    <fieldset v-if="words.length">
      <legend>Words of status that are not known</legend>
      <label v-for="w in words" :key="w.word" class="word"
        ><b
          ><bdi>{{ w.word }}</bdi></b
        >
        <span class="quiet small">{{ w.rows ? count(w.rows, 'row', 'rows') : '' }}</span>
        <SelectField
          :model-value="w.means"
          :items="statuses"
          placeholder="means…"
          :aria-label="`What ${w.word} means`"
          @update:model-value="mean(w.word, $event as Status)"
      /></label>
    </fieldset>
  </section>
</template>

<style scoped>
section {
  padding: 12px 14px;
  border-inline-start: 3px solid var(--lamp);
  display: grid;
  gap: 10px;
}

h2 {
  margin: 0;
}

fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
  justify-items: start;
}

legend {
  padding: 0 0 3px;
  font-size: 12.5px;
  color: var(--ink2);
}

.word {
  display: grid;
  grid-template-columns: minmax(120px, auto) 70px 190px;
  gap: 10px;
  align-items: center;
}
</style>
