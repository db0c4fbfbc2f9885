<script setup lang="ts">
import './controls.css'

/** One line to type in. A label stands around it, or aria-label names it. */
defineProps<{ modelValue?: string | null }>()
defineEmits<{ 'update:modelValue': [typed: string] }>()
</script>

<template>
  <v-text-field
    class="control"
    :model-value="modelValue"
    @update:model-value="$emit('update:modelValue', $event ?? '')"
  />
</template>
