<script setup lang="ts">
import { ref } from 'vue'
import { useMutation } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import AreaField from '@/controls/AreaField.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SayNote from '@/components/SayNote.vue'

/** Lets somebody answer a text or an email that they got. */
const props = defineProps<{ person: number; item: string; channel: 'text' | 'email' }>()
const open = ref(false)
const text = ref('')
const automatic = ref(false)
const files = ref<{ name: string; type: string; content: string }[]>([])

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
  mutationFn: () =>
    take(
      api.POST('/bench/people/{id}/answer', {
        params: { path: { id: props.person } },
        body: { key: props.item, text: text.value, files: files.value, automatic: automatic.value },
      }),
    ),
  onSuccess: () => {
    open.value = automatic.value = false
    text.value = ''
    files.value = []
  },
})
</script>

<template>
  <button v-if="!open" class="link small" @click="open = true">Answer…</button>
  <form v-else @submit.prevent="send.mutate()">
    <AreaField v-model="text" rows="2" dir="auto" maxlength="5000" aria-label="What they answer" />
    <input type="file" multiple aria-label="Files" class="small" @change="pick" />
    <CheckBox v-if="channel === 'email'" v-model="automatic" label="An answering program writes it" />
    <SayNote v-if="send.error.value" kind="bad">{{ send.error.value.message }}</SayNote>
    <div class="row">
      <v-btn type="submit" :disabled="(!text.trim() && !files.length) || send.isPending.value"
        >Send it to us</v-btn
      >
      <button type="button" class="link small" @click="open = false">Never mind</button>
    </div>
  </form>
  <span v-if="send.isSuccess.value && !open" class="small quiet" role="status"> It is with the office.</span>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 6px;
  margin-top: 6px;
}
</style>
