<script setup lang="ts">
import { ref } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, asFile, download, take } from '@/api/client'
import { count } from '@/composables/words'
import CheckBox from '@/controls/CheckBox.vue'
import SayNote from '@/components/SayNote.vue'
import FilePick from '@/shelf/FilePick.vue'

/** A copy as a file for translators, and the file that comes back. */
const props = defineProps<{ message: number; language: string; editable: boolean }>()
const client = useQueryClient()
const checked = ref(true)

const path = () => ({ id: props.message, language: props.language })
const save = useMutation({
  mutationFn: () =>
    download(
      api.GET('/messages/{id}/copies/{language}/xliff', { params: { path: path() }, parseAs: 'blob' }),
    ),
})
const load = useMutation({
  mutationFn: (file: File) =>
    take(
      api.POST('/messages/{id}/copies/{language}/xliff', {
        params: { path: path(), query: { checked: checked.value } },
        ...asFile(file),
      }),
    ),
  onSuccess: async () => {
    await client.invalidateQueries({ queryKey: ['copy', props.message] })
    await client.invalidateQueries({ queryKey: ['plan'] })
  },
})
</script>

<template>
  <section class="files" aria-label="Files for translators">
    <h3>For translators</h3>
    <button class="link small" @click="save.mutate()">Save as XLIFF</button>
    <template v-if="editable">
      <FilePick
        label="Take a file that came back"
        accept=".xlf,.xliff,.xml"
        :busy="load.isPending.value"
        @give="load.mutate($event)"
      />
      <label class="small"><CheckBox v-model="checked" /> what it calls reviewed is checked</label>
    </template>
    <SayNote v-if="load.error.value ?? save.error.value" kind="bad">{{
      (load.error.value ?? save.error.value)?.message
    }}</SayNote>
    <SayNote v-else-if="load.data.value" kind="good">
      {{ count(load.data.value.lines, 'line', 'lines') }} taken.
      <template v-if="load.data.value.gone.length"
        >No longer in the message: {{ load.data.value.gone.join('; ') }}.</template
      >
      <template v-if="load.data.value.changed.length">
        Of an older original: {{ load.data.value.changed.join('; ') }}.</template
      >
    </SayNote>
  </section>
</template>

<style scoped>
.files {
  margin-top: 14px;
  padding: 10px 10px 0;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 8px;
  justify-items: start;
}

h3 {
  font-size: 12px;
  color: var(--ink2);
}
</style>
