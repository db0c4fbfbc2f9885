<script setup lang="ts">
import { onBeforeUnmount, ref } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { thousands } from '@/composables/words'

/** Writes a report, messages or a record to a file, shows how far it is, and saves it. */
const props = defineProps<{ what: Omit<Schemas['Write-fileRequest'], 'format'> }>()

type Format = Schemas['Write-fileRequest']['format']
const formats: { format: Format; name: string; for: string }[] = [
  { format: 'csv', name: 'CSV', for: 'for any program' },
  { format: 'xlsx', name: 'XLSX', for: 'a spreadsheet' },
  { format: 'pdf', name: 'PDF', for: 'to print' },
  { format: 'html', name: 'HTML', for: 'a page of its own' },
]

const open = ref(false)
const state = ref<Schemas['State']>()
const problem = ref('')
let timer: ReturnType<typeof setTimeout> | undefined

async function begin(format: Format) {
  problem.value = ''
  try {
    state.value = await take(api.POST('/exports', { body: { ...props.what, format } }))
    await look()
  } catch (error) {
    fail((error as Error).message)
  }
}

function fail(why: string) {
  state.value = undefined
  problem.value = why
}

/** How often it is asked how far a file is, in milliseconds. */
const often = 300

async function look() {
  const id = state.value?.id
  if (!id) return
  try {
    const now = await take(api.GET('/exports/{id}', { params: { path: { id } } }))
    if (state.value?.id !== id) return // it was given up meanwhile
    state.value = now
    if (now.failed) fail(now.failed)
    else if (now.done) save(now)
    else timer = setTimeout(() => void look(), often)
  } catch (error) {
    fail((error as Error).message)
  }
}

function save(file: Schemas['State']) {
  const link = document.createElement('a')
  link.href = `/api/exports/${file.id}/content`
  link.download = file.name
  link.click()
  state.value = undefined
  open.value = false
}

async function giveUp() {
  const id = state.value?.id
  clearTimeout(timer)
  state.value = undefined
  // A file that nobody comes for is dropped after a while all the same.
  if (id) await api.DELETE('/exports/{id}', { params: { path: { id } } }).catch(() => undefined)
}
onBeforeUnmount(() => void giveUp())
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false" location="bottom end">
    <template #activator="{ props: menu }">
      <slot :menu="menu"><v-btn v-bind="menu">Save as…</v-btn></slot>
    </template>
    <div class="sheet files" role="group" aria-label="Save as a file">
      <template v-if="state">
        <div class="small" role="status">
          {{ thousands(state.rows) }} of {{ thousands(state.all) }} rows written
        </div>
        <progress :value="state.rows" :max="Math.max(1, state.all)" aria-label="How far it is" />
        <button class="link small" @click="giveUp">Give it up</button>
      </template>
      <template v-else>
        <button v-for="f in formats" :key="f.format" class="format" @click="begin(f.format)">
          <b>{{ f.name }}</b> <span class="quiet small">{{ f.for }}</span>
        </button>
        <p v-if="problem" class="bad small" role="alert">{{ problem }}</p>
      </template>
    </div>
  </v-menu>
</template>

<style scoped>
.files {
  display: grid;
  gap: 2px;
  padding: 6px;
  width: 230px;
  box-shadow: 0 6px 18px #0b273033;
}

.format {
  display: grid;
  grid-template-columns: 52px 1fr;
  align-items: baseline;
  border: 0;
  border-radius: 4px;
  background: none;
  padding: 7px 9px;
  font: inherit;
  color: var(--ink);
  text-align: start;
  cursor: pointer;
}

.format:hover,
.format:focus-visible {
  background: var(--hair);
}

progress {
  width: 100%;
  accent-color: var(--sea);
}

p {
  margin: 4px 9px;
}
</style>
