<script setup lang="ts" generic="T">
import './controls.css'

/** One of many choices, found by typing some of its words. A label stands around it, or aria-label names it. */
defineProps<{ modelValue?: T; items: readonly { value: T; title: string }[] }>()
const emit = defineEmits<{ 'update:modelValue': [chosen: T] }>()

// Emptied, it keeps what was chosen.
const choose = (value: unknown) => value !== null && emit('update:modelValue', value as T)
</script>

<template>
  <v-autocomplete
    class="control"
    :items="items"
    :model-value="modelValue || undefined"
    auto-select-first
    no-data-text="Nothing like that"
    @focus="($event.target as HTMLInputElement).select()"
    @update:model-value="choose"
  />
</template>
