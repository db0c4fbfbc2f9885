<script setup lang="ts">
import { ref } from 'vue'
import type { Say } from './own'

/** Where somebody writes to the office. */
defineProps<{ label: string; say: Say }>()
const emit = defineEmits<{ send: [text: string] }>()
const text = ref('')
function send() {
  if (!text.value.trim()) return
  emit('send', text.value)
  text.value = ''
}
</script>

<template>
  <form class="write" @submit.prevent="send">
    <textarea v-model="text" dir="auto" rows="2" maxlength="20000" :placeholder="label" :aria-label="label" />
    <button type="submit" class="button" :disabled="!text.trim()">{{ say('own send') }}</button>
  </form>
</template>

<style scoped>
.write {
  flex-direction: row !important;
  align-items: flex-end;
  gap: 8px !important;
}

textarea {
  flex: 1;
  resize: vertical;
}
</style>
