<script setup lang="ts">
import { thousands } from '@/composables/words'

const first = defineModel<number>({ required: true })
defineProps<{ size: number; all: number }>()
</script>

<template>
  <div v-if="all > size" class="turner">
    <v-btn :disabled="first === 0" @click="first = Math.max(0, first - size)">Earlier</v-btn>
    <span class="num"
      >{{ thousands(first + 1) }} to {{ thousands(Math.min(first + size, all)) }} of
      {{ thousands(all) }}</span
    >
    <v-btn :disabled="first + size >= all" @click="first += size">Later</v-btn>
  </div>
</template>

<style scoped>
.turner {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 10px 16px;
}
</style>
