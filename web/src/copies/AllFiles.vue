<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, asFile, download, take } from '@/api/client'
import { count } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'
import FilePick from '@/shelf/FilePick.vue'

/** The copies in all languages as files for translators, and files that come back. */
const props = defineProps<{ message: number; languages: string[] }>()
const client = useQueryClient()

const path = () => ({ id: props.message })
const save = useMutation({
  mutationFn: () =>
    download(
      api.GET('/messages/{id}/xliff', {
        params: { path: path(), query: { languages: props.languages } },
        parseAs: 'blob',
      }),
    ),
})
const load = useMutation({
  mutationFn: (file: File) =>
    take(
      api.POST('/messages/{id}/xliff', {
        params: { path: path(), query: { checked: true } },
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
  <div class="row files small" role="group" aria-label="All languages for translators">
    <span class="quiet">For translators:</span>
    <button class="link small" @click="save.mutate()">Save all languages as XLIFF</button>
    <FilePick
      label="Take files that came back"
      accept=".zip,.xlf,.xliff"
      :busy="load.isPending.value"
      @give="load.mutate($event)"
    />
  </div>
  <SayNote v-if="load.error.value ?? save.error.value" kind="bad">{{
    (load.error.value ?? save.error.value)?.message
  }}</SayNote>
  <SayNote v-else-if="load.data.value" kind="good">
    {{ load.data.value.map((t) => `${t.name}: ${count(t.lines, 'line', 'lines')} taken`).join(', ') }}.
  </SayNote>
</template>

<style scoped>
.files {
  padding-top: 7px;
  gap: 4px 14px;
  flex-wrap: wrap;
}
</style>
