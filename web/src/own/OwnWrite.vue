<script setup lang="ts">
import { ref } from 'vue'
import type { Say } from './own'

/** Where somebody writes to the office. */
defineProps<{ label: string; say: Say }>()
const emit = defineEmits<{ send: [text: string]; file: [file: File] }>()
const text = ref('')
function send() {
  if (!text.value.trim()) return
  emit('send', text.value)
  text.value = ''
}
function pick(event: Event) {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  if (file) emit('file', file)
  input.value = ''
}
</script>

<template>
  <form class="write" @submit.prevent="send">
    <textarea v-model="text" dir="auto" rows="2" maxlength="20000" :placeholder="label" :aria-label="label" />
    <button type="submit" class="button" :disabled="!text.trim()">{{ say('own send') }}</button>
    <label class="link"
      >{{ say('own file') }}<input type="file" class="unseen" :aria-label="say('own file')" @change="pick"
    /></label>
  </form>
</template>

<style scoped>
.write {
  flex-direction: row !important;
  flex-wrap: wrap;
  align-items: flex-end;
  gap: 8px !important;
}

label {
  flex: 1 0 100%;
  cursor: pointer;
}

label:focus-within {
  outline: 2px solid var(--deep2);
}

.unseen {
  position: absolute;
  opacity: 0;
  width: 0;
  height: 0;
}

textarea {
  flex: 1;
  resize: vertical;
}
</style>
