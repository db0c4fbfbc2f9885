<script setup lang="ts">
import { computed, ref, toRef } from 'vue'
import type { Draft, Plan } from '@/api/client'
import { copyWords, useDrafting } from '@/composables/copies'
import { useReadings } from '@/composables/readings'
import { people } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'
import AllFiles from './AllFiles.vue'
import CopyBar from './CopyBar.vue'
import CopyRules from './CopyRules.vue'

/** The message in the languages that these people read, one row each. */
const draft = defineModel<Draft>('draft', { required: true })
const props = defineProps<{
  plan: Plan
  message: number
  /** Keeps what was typed, so that copies are made of it. */
  keep: () => Promise<unknown>
}>()

const { drafting, done, all, said, withheld } = useDrafting(toRef(props, 'message'))
const ruling = ref(false)
const missing = computed(() => props.plan.copies.filter((c) => !c.filled || c.filled < c.lines))
const others = computed(() => props.plan.copies.reduce((n, c) => n + c.people, 0))
const { open } = useReadings(toRef(props, 'message'))
/** Who is reading a copy outside the desk now. */
const readers = (language: string) =>
  open.value
    .filter((r) => r.language === language)
    .map((r) => `${r.name} reads it: ${r.read} of ${r.lines}`)
    .join(', ')

async function fill(languages: string[], naming = false) {
  await props.keep()
  drafting.mutate({ languages, naming })
}
const state = (c: Plan['copies'][number]) =>
  !c.filled || c.filled < c.lines ? 'quiet' : c.checked < c.lines ? 'mind' : 'good'
</script>

<template>
  <article class="face sheet" aria-label="Copies" tabindex="-1">
    <header>
      <h2>Copies</h2>
      <span class="quiet small"
        >{{ people(others) }} {{ others === 1 ? 'reads' : 'read' }} another language</span
      >
      <button
        v-if="missing.length"
        class="link small push"
        :disabled="!message || drafting.isPending.value"
        @click="fill(missing.map((c) => c.language))"
      >
        Draft all missing lines
      </button>
      <button
        class="link small"
        :class="{ push: !missing.length }"
        :aria-expanded="ruling"
        @click="ruling = !ruling"
      >
        {{ ruling ? 'Done' : 'Who gets which' }}
      </button>
    </header>
    <div class="in">
      <progress
        v-if="drafting.isPending.value"
        :value="done"
        :max="all || 1"
        aria-label="Filling missing lines"
      />
      <SayNote v-if="drafting.error.value" kind="bad">{{ drafting.error.value.message }}</SayNote>
      <SayNote v-else-if="said" kind="good">{{ said }}</SayNote>
      <SayNote v-if="withheld.length" kind="mind">
        Lines that name somebody of the roster were not sent to the translation service.
        <button class="link" @click="fill(withheld, true)">Send them too</button>
      </SayNote>
      <CopyRules v-if="ruling" v-model="draft" :plan="plan" />
      <ul>
        <li v-for="c in plan.copies" :key="c.language">
          <router-link v-if="message" :to="`/write/${message}/copies/${c.language}`" class="name">{{
            c.name
          }}</router-link>
          <span v-else class="name">{{ c.name }}</span>
          <span class="num">{{ c.people }}</span>
          <CopyBar :copy="c" />
          <span class="small how" :class="state(c)">{{ copyWords(c) }}</span>
          <span v-if="readers(c.language)" class="small quiet read">{{ readers(c.language) }}</span>
          <span class="small quiet gets">{{
            !c.people ? 'nobody reads it here' : c.used ? 'they get it' : 'they get the original'
          }}</span>
        </li>
      </ul>
      <AllFiles v-if="message" :message="message" :languages="plan.copies.map((c) => c.language)" />
    </div>
  </article>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 140px 30px 110px 1fr auto;
  gap: 0 10px;
  align-items: center;
  padding: 4px 0;
  min-height: 31px;
  box-sizing: border-box;
  border-bottom: 1px solid var(--hair);
}

li:last-child {
  border: 0;
}

.name {
  font-weight: 600;
  color: var(--deep2);
  text-decoration: none;
}

.name:hover {
  text-decoration: underline;
}

.read {
  grid-column: 3 / -1;
  grid-row: 2;
}

.mind {
  color: var(--lampink);
}

progress {
  width: 100%;
  accent-color: var(--sea);
}

@media (max-width: 1100px) {
  li {
    grid-template-columns: 120px 30px 60px 1fr;
  }

  .gets {
    display: none;
  }
}
</style>
