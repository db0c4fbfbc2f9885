<script setup lang="ts">
import { ref } from 'vue'
import { useMutation } from '@tanstack/vue-query'
import type { Schemas } from '@/api/client'
import AreaField from '@/controls/AreaField.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SayNote from '@/components/SayNote.vue'

/** Lets somebody write or speak to the organisation. */
export interface Written {
  text: string
  files: Schemas['GatewayMedia'][]
  automatic: boolean
}
const props = defineProps<{
  label: string
  channel: 'text' | 'email' | 'voice'
  /** Whether it answers what came: an answering program does only that. */
  answers?: boolean
  post: (written: Written) => Promise<unknown>
}>()
const open = ref(false)
const text = ref('')
const automatic = ref(false)
const files = ref<Written['files']>([])

async function pick(event: Event) {
  const input = event.target as HTMLInputElement
  files.value = await Promise.all(
    [...(input.files ?? [])].map(async (f) => {
      const bytes = new Uint8Array(await f.arrayBuffer())
      let binary = ''
      for (const b of bytes) binary += String.fromCharCode(b)
      return { name: f.name, type: f.type, content: btoa(binary) }
    }),
  )
}
const send = useMutation({
  mutationFn: () => props.post({ text: text.value, files: files.value, automatic: automatic.value }),
  onSuccess: () => {
    open.value = automatic.value = false
    text.value = ''
    files.value = []
  },
})
</script>

<template>
  <button v-if="!open" class="link small" @click="open = true">{{ label }}</button>
  <form v-else @submit.prevent="send.mutate()">
    <AreaField
      v-model="text"
      rows="2"
      dir="auto"
      maxlength="5000"
      :aria-label="channel === 'voice' ? 'What they say after the beep' : 'What they write'"
    />
    <input v-if="channel !== 'voice'" type="file" multiple aria-label="Files" class="small" @change="pick" />
    <CheckBox
      v-if="channel === 'email' && answers"
      v-model="automatic"
      label="An answering program writes it"
    />
    <SayNote v-if="send.error.value" kind="bad">{{ send.error.value.message }}</SayNote>
    <div class="row">
      <v-btn type="submit" :disabled="(!text.trim() && !files.length) || send.isPending.value">{{
        channel === 'voice' ? 'Say it to us' : 'Send it to us'
      }}</v-btn>
      <button type="button" class="link small" @click="open = false">Never mind</button>
    </div>
  </form>
  <span v-if="send.isSuccess.value && !open" class="small quiet" role="status"> It is with the office.</span>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  flex: 1 0 100%;
  gap: 6px;
  margin-top: 6px;
}
</style>
