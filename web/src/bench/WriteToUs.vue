<script setup lang="ts">
import { api, take } from '@/api/client'
import AnswerForm, { type Written } from '@/bench/AnswerForm.vue'

/** An address, and what can be done from it. */
export interface Way {
  channel: 'text' | 'email' | 'voice'
  from: string
}
/** Lets an address write to the organisation, or call it, though nothing came to it. */
defineProps<{ ways: Way[] }>()
const labels = { text: 'Text us…', email: 'Write to us…', voice: 'Call us…' }

/** What somebody writes of their own accord is headed by how it begins. */
const subject = (text: string) => text.split('\n', 1)[0]!.slice(0, 60)

function write(way: Way, { text, files }: Written) {
  return take(api.POST('/bench/write', { body: { ...way, subject: subject(text), text, files } }))
}
</script>

<template>
  <div class="write">
    <AnswerForm
      v-for="way in ways"
      :key="way.channel"
      :label="labels[way.channel]"
      :channel="way.channel"
      :post="(w) => write(way, w)"
    />
  </div>
</template>

<style scoped>
.write {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin-top: 6px;
}
</style>
