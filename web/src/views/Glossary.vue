<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, asFile, download, take, type Schemas } from '@/api/client'
import { useChoices } from '@/composables/choices'
import { count } from '@/composables/words'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'
import ShelfTabs from '@/components/ShelfTabs.vue'
import FilePick from '@/shelf/FilePick.vue'
import { loadedWords } from '@/shelf/loaded'

/** How terms of the organisation are said in each language, or that they stay. */
type Term = Schemas['KeptTermView']

const client = useQueryClient()
const { data: choices } = useChoices()
const { data, error } = useQuery({ queryKey: ['terms'], queryFn: () => take(api.GET('/terms')) })
const typed = ref('')
const said = ref('')
const form = reactive({ term: '', language: '', says: '', note: '' })

/** The terms that are looked for, each with all its languages. */
const terms = computed(() => {
  const found = new Map<string, Term[]>()
  const wanted = typed.value.trim().toLowerCase()
  for (const t of data.value?.terms ?? []) {
    if (!`${t.term} ${t.says} ${t.name}`.toLowerCase().includes(wanted)) continue
    found.set(t.term, [...(found.get(t.term) ?? []), t])
  }
  return [...found]
})
const languages = computed(() =>
  (choices.value?.languages ?? []).map((l) => ({ value: l.value, title: l.words })),
)

const put = useMutation({
  mutationFn: () =>
    take(
      api.PUT('/terms', {
        body: { ...form, says: form.says.trim() || form.term },
      }),
    ),
  onSuccess: (now) => {
    client.setQueryData(['terms'], now)
    said.value = `Kept: “${form.term}”.`
    Object.assign(form, { says: '', note: '' })
  },
})
const drop = useMutation({
  mutationFn: async (t: Term) => {
    await take(api.DELETE('/terms/{id}', { params: { path: { id: t.id } } }))
    return t
  },
  onSuccess: (t) => {
    Object.assign(form, { term: t.term, language: t.language, says: t.says, note: t.note })
    said.value = `Dropped “${t.says}”. It stands in the form, to be kept again.`
    return client.invalidateQueries({ queryKey: ['terms'] })
  },
})
const load = useMutation({
  mutationFn: (file: File) => take(api.POST('/terms/file', asFile(file))),
  onSuccess: (loaded) => {
    said.value = loadedWords(loaded, 'term', 'terms')
    return client.invalidateQueries({ queryKey: ['terms'] })
  },
})
const save = useMutation({
  mutationFn: (kind: 'csv' | 'tbx') =>
    kind === 'csv'
      ? download(api.GET('/terms.csv', { parseAs: 'blob' }))
      : download(api.GET('/terms.tbx', { parseAs: 'blob' })),
})
const problem = computed(
  () => error.value ?? put.error.value ?? drop.error.value ?? load.error.value ?? save.error.value,
)
const edit = (t: Term) =>
  Object.assign(form, { term: t.term, language: t.language, says: t.says, note: t.note })
</script>

<template>
  <div class="page">
    <PageHead title="Glossary" :note="data ? count(terms.length, 'term', 'terms') : ''">
      <template #beside><ShelfTabs /></template>
      <FilePick
        label="Load a file (CSV, TBX)"
        accept=".csv,.tbx,.xml,text/csv"
        :busy="load.isPending.value"
        @give="load.mutate($event)"
      />
      <v-btn @click="save.mutate('csv')">Save as CSV</v-btn>
      <v-btn @click="save.mutate('tbx')">Save as TBX</v-btn>
    </PageHead>
    <div class="panes">
      <aside>
        <h2>How a term is said</h2>
        <form @submit.prevent="put.mutate()">
          <label class="field"
            ><span>Term</span><TextField v-model="form.term" maxlength="200" required
          /></label>
          <label class="field"
            ><span>Language</span
            ><SelectField v-model="form.language" aria-label="Language" :items="languages"
          /></label>
          <label class="field"
            ><span>Is said; empty if it stays as it is</span
            ><TextField v-model="form.says" maxlength="200" dir="auto"
          /></label>
          <label class="field"><span>Note</span><TextField v-model="form.note" maxlength="200" /></label>
          <v-btn type="submit" color="primary" variant="flat" :disabled="!form.term.trim() || !form.language"
            >Keep it</v-btn
          >
        </form>
        <p class="quiet small">
          What the translation service gives is asked to use it; what people write is compared with it; names
          of groups and units are said so where a field fills them in.
        </p>
      </aside>
      <div class="main">
        <SayNote v-if="problem" kind="bad">{{ problem.message }}</SayNote>
        <SayNote v-else-if="said" kind="good">{{ said }}</SayNote>
        <TextField
          v-model="typed"
          type="search"
          placeholder="Find a term"
          aria-label="Find a term"
          class="find"
        />
        <EmptyNote v-if="data && !data.terms.length" title="No terms yet">
          Names of places and words of the trade belong here, so that every copy says them the same way.
        </EmptyNote>
        <section v-for="[term, list] in terms" :key="term" class="sheet term" :aria-label="term">
          <h3>{{ term }}</h3>
          <ul>
            <li v-for="t in list" :key="t.id">
              <span class="quiet">{{ t.name }}</span>
              <bdi :lang="t.language" :class="{ quiet: t.says === t.term }">{{
                t.says === t.term ? 'stays as it is' : t.says
              }}</bdi>
              <span class="small quiet note">{{ t.note }}</span>
              <button class="link small" @click="edit(t)">Change</button>
              <button class="link small" @click="drop.mutate(t)">Drop</button>
            </li>
          </ul>
        </section>
      </div>
    </div>
  </div>
</template>

<style scoped>
.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
}

aside {
  padding: 14px 16px;
  border-inline-end: 1px solid var(--line);
  background: var(--pane);
  overflow-y: auto;
}

form {
  display: grid;
  gap: 10px;
  margin: 10px 0 14px;
}

.main {
  padding: 14px 16px;
  overflow-y: auto;
  display: flex;
  flex-direction: column;
  gap: 10px;
}

.find {
  max-width: 300px;
}

.term {
  padding: 9px 12px;
}

ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}

li bdi {
  justify-self: start;
}

li {
  display: grid;
  grid-template-columns: 160px 1fr 1fr auto auto;
  gap: 12px;
  align-items: baseline;
  min-height: 26px;
  border-top: 1px solid var(--hair);
  padding-top: 3px;
}
</style>
