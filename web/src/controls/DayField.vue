<script setup lang="ts">
import { computed } from 'vue'
import { api, take } from '@/api/client'
import { dayWords } from '@/composables/words'
import MomentField from './MomentField.vue'

/** A day, typed or chosen, such as 2026-11-28; empty is none. */
const day = defineModel<string>()

const isDay = /^\d{4}-\d{2}-\d{2}$/
const shown = computed(() => (isDay.test(day.value ?? '') ? dayWords(day.value) : (day.value ?? '')))

async function read(typed: string): Promise<string> {
  // What cannot be read stays as it was typed: whoever saves it is told.
  day.value = typed
  if (typed.trim()) day.value = (await take(api.GET('/days', { params: { query: { typed } } }))).day
  return ''
}
</script>

<template>
  <MomentField
    :shown="shown"
    :day="isDay.test(day ?? '') ? day! : ''"
    :read="read"
    placeholder="28 Nov 2026"
  />
</template>
