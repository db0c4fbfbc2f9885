<script setup lang="ts">
import { thousands } from '@/composables/words'

defineProps<{ value: number | string; words: string; bad?: boolean }>()
</script>

<template>
  <div class="count sheet">
    <b class="figure" :class="{ bad }">{{ typeof value === 'number' ? thousands(value) : value }}</b>
    <span class="quiet small">{{ words }}</span>
  </div>
</template>

<style scoped>
.count {
  padding: 7px 11px;
  display: flex;
  flex-direction: column;
}

.figure {
  font-size: 20px;
  line-height: 1.3;
  font-variant-numeric: tabular-nums;
}
</style>
