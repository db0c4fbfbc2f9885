<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { refDebounced } from '@vueuse/core'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, asFile, download, take, type Schemas } from '@/api/client'
import { useChoices } from '@/composables/choices'
import { useTimes } from '@/composables/session'
import { thousands } from '@/composables/words'
import LineText from '@/copies/LineText.vue'
import AreaField from '@/controls/AreaField.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PageTurner from '@/components/PageTurner.vue'
import SayNote from '@/components/SayNote.vue'
import ShelfTabs from '@/components/ShelfTabs.vue'
import FilePick from '@/shelf/FilePick.vue'
import { loadedWords } from '@/shelf/loaded'

/** Every line that somebody checked, to be found, corrected and dropped. */
type Line = Schemas['MemoryLineView']

const pageSize = 100
const client = useQueryClient()
const times = useTimes()
const { data: choices } = useChoices()
const typed = ref('')
const search = refDebounced(typed, 150)
const language = ref('')
const unit = ref(0)
const by = ref('')
const older = ref(0)
const first = ref(0)
watch([search, language, unit, by, older], () => (first.value = 0))

const asked = computed(() => ({
  search: search.value,
  language: language.value,
  unit: unit.value,
  by: by.value,
  older: older.value,
  first: first.value,
  count: pageSize,
}))
const { data, error } = useQuery({
  queryKey: computed(() => ['memory', asked.value]),
  queryFn: () => take(api.GET('/memory', { params: { query: asked.value } })),
  placeholderData: keepPreviousData,
})

const said = ref('')
const undo = ref<() => Promise<unknown>>()
const again = () => client.invalidateQueries({ queryKey: ['memory'] })
function tell(words: string, back?: () => Promise<unknown>) {
  said.value = words
  undo.value = back
}

const editing = ref<Line>()
const text = ref('')
function edit(line: Line) {
  editing.value = line
  text.value = line.target
}

const put = (line: Line, was: string, now: string) =>
  take(
    api.PUT('/memory/{id}/{language}', {
      params: { path: { id: line.id, language: line.language } },
      body: { was, text: now },
    }),
  )
const correct = useMutation({
  mutationFn: async (line: Line) => ({
    line,
    now: text.value,
    ...(await put(line, line.target, text.value)),
  }),
  onSuccess: ({ line, now, saySo }) => {
    editing.value = undefined
    const still = saySo.map((m) => `“${m.title}”`).join(', ')
    tell(still ? `Corrected. ${still} still says it as it was.` : 'Corrected.', () =>
      put(line, now.trim(), line.target),
    )
    return again()
  },
})
const drop = useMutation({
  mutationFn: async (line: Line) => {
    await take(
      api.DELETE('/memory/{id}/{language}', { params: { path: { id: line.id, language: line.language } } }),
    )
    return line
  },
  onSuccess: ({ original, places, language: tag, target }) => {
    tell('Dropped.', () => take(api.POST('/memory', { body: { original, places, language: tag, target } })))
    return again()
  },
})
const back = useMutation({
  mutationFn: async () => undo.value?.(),
  onSuccess: () => {
    tell('It is as it was.')
    return again()
  },
})
const load = useMutation({
  mutationFn: (file: File) => take(api.POST('/memory/file', asFile(file))),
  onSuccess: (loaded) => {
    tell(loadedWords(loaded, 'line', 'lines'))
    return again()
  },
})
const save = useMutation({ mutationFn: () => download(api.GET('/memory.tmx', { parseAs: 'blob' })) })
const problem = computed(
  () =>
    error.value ??
    correct.error.value ??
    drop.error.value ??
    back.error.value ??
    load.error.value ??
    save.error.value,
)
const ages = [
  { value: 0, title: 'of any age' },
  { value: 90, title: 'older than 3 months' },
  { value: 365, title: 'older than a year' },
]
</script>

<template>
  <div class="page">
    <PageHead title="Memory" :note="data ? `${thousands(data.all)} lines` : ''">
      <template #beside><ShelfTabs /></template>
      <FilePick
        label="Load a file (TMX)"
        accept=".tmx,application/x-tmx+xml"
        :busy="load.isPending.value"
        @give="load.mutate($event)"
      />
      <v-btn :loading="save.isPending.value" @click="save.mutate()">Save as TMX</v-btn>
    </PageHead>
    <div class="filters" role="search">
      <TextField v-model="typed" type="search" placeholder="Words" aria-label="Search the memory" />
      <SelectField
        v-model="language"
        aria-label="Language"
        :items="[
          { value: '', title: 'every language' },
          ...(data?.languages ?? []).map((l) => ({ value: l.tag, title: l.name })),
        ]"
      />
      <SelectField
        v-model="by"
        aria-label="Checked by"
        :items="[
          { value: '', title: 'checked by anybody' },
          ...(data?.checkers ?? []).map((c) => ({ value: c, title: c })),
        ]"
      />
      <SelectField
        v-model="unit"
        aria-label="Unit"
        :items="[
          { value: 0, title: 'every unit' },
          ...(choices?.units ?? []).map((u) => ({ value: u.id, title: u.path })),
        ]"
      />
      <SelectField v-model="older" aria-label="Age" :items="ages" />
    </div>
    <SayNote v-if="problem" kind="bad" class="note">{{ problem.message }}</SayNote>
    <SayNote v-else-if="said" kind="good" class="note"
      >{{ said }} <button v-if="undo" class="link" @click="back.mutate()">Undo</button></SayNote
    >
    <EmptyNote v-if="data && !data.all" title="Nothing here">
      Every line of a copy that somebody checks is remembered, and comes back checked wherever it stands
      again.
    </EmptyNote>
    <div v-else class="scroll">
      <table class="plain">
        <thead>
          <tr>
            <th>Original</th>
            <th>Language</th>
            <th>How it is said</th>
            <th>Checked</th>
            <th><span class="sr-only">What to do</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in data?.lines" :key="`${l.id} ${l.language}`">
            <td class="words"><LineText :text="l.original" :places="l.places" /></td>
            <td>{{ l.name }}</td>
            <td class="words" :lang="l.language" dir="auto">
              <form
                v-if="editing === l"
                @submit.prevent="correct.mutate(l)"
                @keydown.esc.stop="editing = undefined"
              >
                <AreaField v-model="text" rows="2" maxlength="4000" dir="auto" aria-label="How it is said" />
                <div class="row" dir="ltr">
                  <v-btn type="submit" size="small" color="primary" variant="flat">Correct</v-btn>
                  <v-btn size="small" @click="editing = undefined">Never mind</v-btn>
                </div>
              </form>
              <LineText v-else :text="l.target" :places="l.places" />
            </td>
            <td class="small quiet">
              {{ l.checkedBy }}, {{ times.day(l.checkedAt)
              }}<template v-if="l.unit"> · {{ l.unit }}</template>
            </td>
            <td class="acts">
              <button class="link" @click="edit(l)">Correct</button>
              <button class="link" @click="drop.mutate(l)">Drop</button>
            </td>
          </tr>
        </tbody>
      </table>
      <PageTurner v-model="first" :size="pageSize" :all="data?.all ?? 0" />
    </div>
  </div>
</template>

<style scoped>
.filters {
  display: grid;
  grid-template-columns: 2fr repeat(4, 1fr);
  gap: 8px;
  padding: 10px 16px;
}

.note {
  margin: 0 16px 8px;
}

.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
  background: var(--sheet);
}

.words {
  width: 36%;
  overflow-wrap: anywhere;
}

form {
  display: grid;
  gap: 6px;
}
</style>
