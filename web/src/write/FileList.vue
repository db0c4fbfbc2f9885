<script setup lang="ts">
import { computed } from 'vue'
import { mdiClose } from '@mdi/js'
import type { Draft } from '@/api/client'
import { readersOf, type LanguageChoice } from '@/composables/languages'
import { bytes } from '@/composables/words'
import SelectField from '@/controls/SelectField.vue'

/** The files that go with an email, each for everybody or for readers of a language. */
const draft = defineModel<Draft>({ required: true })
const props = defineProps<{ languages: LanguageChoice[] }>()
const emit = defineEmits<{ add: [file: File] }>()

const files = computed(() => draft.value.files ?? [])
const total = computed(() => files.value.reduce((n, f) => n + f.size, 0))
const shown = (hash: string) => JSON.stringify(draft.value.email).includes(`file:${hash}`)

function picked(event: Event) {
  const input = event.target as HTMLInputElement
  for (const file of input.files ?? []) emit('add', file)
  input.value = ''
}

const choices = computed(() => [{ value: '', title: 'for everybody' }, ...readersOf(props.languages)])

function give(hash: string, language: string) {
  draft.value.files = files.value.map((f) => {
    if (f.hash !== hash) return f
    const { hash: same, name, type, size } = f
    return { hash: same, name, type, size, ...(language ? { language } : {}) }
  })
}

function drop(hash: string) {
  const left = files.value.filter((f) => f.hash !== hash)
  if (left.length) draft.value.files = left
  else delete draft.value.files
}
</script>

<template>
  <div class="files small" role="group" aria-label="Files">
    <label class="link"
      >Add files<input type="file" multiple aria-label="Add files" @change="picked"
    /></label>
    <span v-for="f in files" :key="f.hash" class="file">
      <a :href="`/api/files/${f.hash}`" target="_blank"
        ><bdi>{{ f.name }}</bdi></a
      >
      <span class="quiet">{{ bytes(f.size) }}</span>
      <span v-if="shown(f.hash)" class="quiet">in the text</span>
      <SelectField
        v-else-if="languages.length > 1 || f.language"
        :model-value="f.language ?? ''"
        :items="choices"
        :aria-label="`Who gets ${f.name}`"
        @update:model-value="give(f.hash, $event)"
      />
      <button v-if="!shown(f.hash)" :aria-label="`Take away ${f.name}`" @click="drop(f.hash)">
        <v-icon :icon="mdiClose" size="13" />
      </button>
    </span>
    <span v-if="files.length > 1" class="quiet">{{ files.length }} files, {{ bytes(total) }}</span>
  </div>
</template>

<style scoped>
.files {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 10px;
}

.files label input {
  position: absolute;
  width: 1px;
  opacity: 0;
}

.files label:focus-within {
  outline: 2px solid var(--deep2);
}

.file {
  display: inline-flex;
  align-items: baseline;
  gap: 5px;
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 1px 7px;
  max-width: 100%;
}

.file .control {
  --control-height: 24px;

  width: 190px;
  align-self: center;
}

.file a {
  color: var(--ink);
  font-weight: 600;
  overflow-wrap: anywhere;
}

.file button {
  border: 0;
  background: none;
  padding: 0;
  color: var(--ink2);
  cursor: pointer;
}
</style>
