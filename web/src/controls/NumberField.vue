<script setup lang="ts">
import './controls.css'

/** A number to type in; undefined while nothing is typed. */
const number = defineModel<number | null>()

const take = (typed: string) => (number.value = typed === '' ? undefined : Number(typed))
</script>

<template>
  <v-text-field
    class="control control-number"
    type="number"
    :model-value="number"
    @update:model-value="take(String($event ?? ''))"
  />
</template>
