<script setup lang="ts" generic="T">
import './controls.css'

/** A box to tick; with a value, one of a list of ticked values. Its words stand in the label around it. */
defineProps<{ modelValue?: T }>()
defineEmits<{ 'update:modelValue': [ticked: T] }>()
</script>

<template>
  <v-checkbox-btn
    class="control-tick"
    :model-value="modelValue"
    @update:model-value="$emit('update:modelValue', $event as T)"
  />
</template>
