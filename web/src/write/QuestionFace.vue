<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { mdiFormatListNumbered } from '@mdi/js'
import type { Draft } from '@/api/client'
import NumberField from '@/controls/NumberField.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'
import { jobsQuery } from '@/jobs/jobs'
import { beginnings, freeKeys, meanings, mostChoices, type Means, type Question } from './asking'

/** The fixed answers that recipients choose from, in every channel. */
const draft = defineModel<Draft>({ required: true })
const question = computed(() => draft.value.question)
const counts = computed(() =>
  question.value?.choices.some((c) => c.means === 'counts' || c.means === 'minutes'),
)
const box = ref<HTMLElement>()

async function begin(with_: Question) {
  draft.value.question = with_
  freeKeys(draft.value)
  await nextTick()
  box.value?.querySelector('input')?.focus()
}

async function add() {
  question.value?.choices.push({ words: '' })
  freeKeys(draft.value)
  await nextTick()
  const inputs = box.value?.querySelectorAll<HTMLInputElement>('li input[maxlength]')
  inputs?.[inputs.length - 1]?.focus()
}

function means(at: number, to: Means) {
  const choice = question.value?.choices[at]
  if (!choice) return
  if (to) choice.means = to
  else delete choice.means
}

const needed = computed({
  get: () => question.value?.needed,
  set: (n) => {
    if (!question.value) return
    if (n) question.value.needed = n
    else delete question.value.needed
  },
})

const { data: known } = useQuery({ ...jobsQuery, enabled: () => Boolean(question.value) })
const jobs = computed(() => [
  { value: 0, title: 'none' },
  ...(known.value?.jobs ?? [])
    .filter((j) => j.stands !== 'closed' || j.id === job.value)
    .map((j) => ({ value: j.id, title: j.stands === 'closed' ? `${j.name} (closed)` : j.name })),
])
const job = computed({
  get: () => question.value?.job ?? 0,
  set: (id) => {
    if (!question.value) return
    if (id) question.value.job = id
    else delete question.value.job
  },
})
</script>

<template>
  <article class="face sheet" aria-label="Answers to choose from">
    <header>
      <v-icon :icon="mdiFormatListNumbered" size="15" />
      <h2>Answers to choose from</h2>
      <template v-if="!question">
        <span class="quiet small">begin with</span>
        <button
          v-for="b in beginnings"
          :key="b.words"
          type="button"
          class="link small"
          @click="begin(b.question())"
        >
          {{ b.words }}
        </button>
      </template>
      <template v-else>
        <span class="quiet small">by number, key or button, in every channel</span>
        <button type="button" class="link small push" @click="delete draft.question">Ask nothing</button>
      </template>
    </header>
    <div v-if="question" ref="box" class="in">
      <ol>
        <li v-for="(c, i) in question.choices" :key="i">
          <b class="num">{{ i + 1 }}</b>
          <TextField
            v-model="c.words"
            class="words"
            dir="auto"
            maxlength="60"
            placeholder="What they answer"
            :aria-label="`Answer ${i + 1}`"
          />
          <SelectField
            class="means"
            :model-value="c.means ?? ''"
            :items="meanings"
            :aria-label="`What answer ${i + 1} means`"
            @update:model-value="means(i, $event)"
          />
          <button
            type="button"
            class="link small"
            :disabled="question.choices.length < 3"
            :aria-label="`Take answer ${i + 1} away`"
            @click="question.choices.splice(i, 1)"
          >
            Take away
          </button>
        </li>
      </ol>
      <button v-if="question.choices.length < mostChoices" type="button" class="link small add" @click="add">
        Another answer
      </button>
      <div v-if="counts" class="needed small">
        <label class="row">
          Stop asking once
          <NumberField
            v-model="needed"
            class="n"
            min="0"
            max="10000"
            placeholder="all"
            aria-label="So many"
          />
          answers count
        </label>
        <template v-if="needed">
          <span>and tell the others</span>
          <TextField
            v-model="question.filled"
            class="filled"
            dir="auto"
            maxlength="300"
            aria-label="What the others are told"
          />
        </template>
        <span v-else class="quiet">(empty: everybody is asked)</span>
      </div>
      <div v-if="counts && jobs.length > 1" class="needed small">
        <span>Whoever comes is in the job</span>
        <SelectField v-model="job" class="job" :items="jobs" aria-label="Into which job they come" />
      </div>
    </div>
  </article>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 5px;
}

li {
  display: grid;
  grid-template-columns: 16px minmax(0, 1fr) 178px auto;
  gap: 8px;
  align-items: center;
}

.add {
  align-self: start;
  margin-inline-start: 24px;
}

.needed {
  display: flex;
  flex-wrap: wrap;
  gap: 5px 8px;
  align-items: center;
  padding-top: 4px;
}

.n {
  width: 66px;
}

.job {
  flex: 0 1 240px;
}

.filled {
  flex: 1 1 240px;
}
</style>
