<script setup lang="ts" generic="T">
import './controls.css'

/** One of a few choices. A label stands around it, or aria-label names it. */
defineProps<{
  modelValue?: T
  items: readonly { value: T; title: string; props?: { disabled?: boolean } }[]
}>()
defineEmits<{ 'update:modelValue': [chosen: T] }>()
</script>

<template>
  <v-select
    class="control"
    :items="items"
    :model-value="modelValue"
    @update:model-value="$emit('update:modelValue', $event as T)"
  />
</template>
