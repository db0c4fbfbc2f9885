<script setup lang="ts">
import { computed } from 'vue'
import { useMutation, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useTimes } from '@/composables/session'
import DifferenceText from './DifferenceText.vue'
import LineText from './LineText.vue'
import type { LineView } from './lineText'

/** What helps with one line: reading back, the memory, the glossary, what it was before. */
const props = defineProps<{
  message: number
  language: string
  rtl: boolean
  line: LineView
  number: number
  editable: boolean
}>()
const emit = defineEmits<{ take: [text: string] }>()
const times = useTimes()

const path = computed(() => ({ id: props.message, language: props.language, key: props.line.key }))
const back = useMutation({
  mutationFn: (of: { stands: string; path: typeof path.value }) =>
    take(api.GET('/messages/{id}/copies/{language}/lines/{key}/back', { params: { path: of.path } })),
})
// What was read back belongs to one line as it stood then.
const stands = computed(() => props.line.key + props.line.target)
const shown = computed(() => (back.variables.value?.stands === stands.value ? back.data.value : undefined))
const failed = computed(() => (back.variables.value?.stands === stands.value ? back.error.value : undefined))
const readBack = () => back.mutate({ stands: stands.value, path: path.value })
defineExpose({ readBack, first: () => like.value?.lines[0]?.target })

const { data: like } = useQuery({
  queryKey: computed(() => ['like', props.message, props.language, props.line.key]),
  queryFn: () =>
    take(api.GET('/messages/{id}/copies/{language}/lines/{key}/like', { params: { path: path.value } })),
  staleTime: 60_000,
})
const faces: Record<string, string> = {
  subject: 'the subject',
  email: 'the email',
  text: 'the text',
  call: 'the call',
  push: 'the push',
  question: 'an answer to choose',
  signature: 'what the unit adds',
}
const where = computed(() => props.line.faces.map((f) => faces[f] ?? f).join(', '))
</script>

<template>
  <section class="help" :aria-label="`Help with line ${number}`">
    <header class="row">
      <h2>Line {{ number }}</h2>
      <span class="quiet small push">in {{ where }}</span>
    </header>
    <div v-if="line.was" class="sheet card">
      <h3>Before the original changed</h3>
      <p :dir="rtl ? 'rtl' : 'ltr'" :lang="language">
        <LineText :text="line.was.target" :places="line.places" />
      </p>
      <button v-if="editable" class="link small" @click="emit('take', line.was.target)">Begin with it</button>
    </div>
    <div class="sheet card">
      <h3>Read back</h3>
      <p v-if="shown"><DifferenceText :pieces="shown.difference" :places="line.places" /></p>
      <p v-else-if="failed" class="small bad" role="alert">{{ failed.message }}</p>
      <p v-else class="small quiet">Shows what this line says, in the language of the original.</p>
      <button class="link small" :disabled="!line.target || back.isPending.value" @click="readBack">
        {{ shown ? 'Read it back again' : 'Read it back' }}
      </button>
    </div>
    <div class="sheet card">
      <h3>From the memory</h3>
      <p v-if="!like?.lines.length" class="small quiet">Nothing like it was checked before.</p>
      <div v-for="l in like?.lines" :key="l.original + l.target" class="memory">
        <p :dir="rtl ? 'rtl' : 'ltr'" :lang="language"><LineText :text="l.target" :places="line.places" /></p>
        <p class="small quiet">
          {{ l.likeness }} of 100: <DifferenceText :pieces="l.difference" :places="line.places" /> ·
          {{ l.checkedBy }},
          {{ times.day(l.checkedAt) }}
        </p>
        <button v-if="editable" class="link small" @click="emit('take', l.target)">Take it</button>
      </div>
    </div>
    <div v-if="line.terms.length" class="sheet card">
      <h3>In the glossary</h3>
      <p v-for="t in line.terms" :key="t.term">
        <b>{{ t.term }}</b> <template v-if="t.says === t.term">stays as it is</template
        ><bdi v-else>{{ t.says }}</bdi>
        <span v-if="t.note" class="small quiet"> · {{ t.note }}</span>
      </p>
    </div>
  </section>
</template>

<style scoped>
.help {
  padding: 12px 14px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.card {
  padding: 8px 10px;
}

h3 {
  font-size: 12px;
  color: var(--ink2);
  margin-bottom: 4px;
}

.memory + .memory {
  border-top: 1px solid var(--hair);
  padding-top: 6px;
  margin-top: 6px;
}
</style>
