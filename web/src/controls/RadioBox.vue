<script setup lang="ts" generic="T">
import './controls.css'

/** One of the choices of a group of labels. Its words stand in the label around it. */
defineProps<{ modelValue?: T }>()
defineEmits<{ 'update:modelValue': [chosen: T] }>()
</script>

<template>
  <v-radio
    class="control-tick"
    :model-value="modelValue"
    @update:model-value="$emit('update:modelValue', $event as T)"
  />
</template>
