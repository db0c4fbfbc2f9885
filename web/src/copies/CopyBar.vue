<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import TrustMark from './TrustMark.vue'
import type { Trust } from './lineText'

/** How far a copy is, a mark for each line; of many lines one stands for several. */
const props = defineProps<{ copy: Schemas['CopyUseView'] }>()

const mostMarks = 18

const marks = computed<Trust[]>(() => {
  const { lines, filled, checked, doubtful } = props.copy
  const all: Trust[] = [
    ...Array<Trust>(checked).fill('checked'),
    ...Array<Trust>(filled - checked - doubtful).fill('unread'),
    ...Array<Trust>(doubtful).fill('doubtful'),
    ...Array<Trust>(lines - filled).fill('missing'),
  ]
  const step = Math.max(1, all.length / mostMarks)
  return all.filter((_, i) => i === 0 || Math.floor(i / step) !== Math.floor((i - 1) / step))
})
</script>

<template>
  <span class="bar" aria-hidden="true"
    ><TrustMark v-for="(trust, i) in marks" :key="i" :trust="trust"
  /></span>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 2px;
}

.bar :deep(.mark) {
  flex: 1;
  min-width: 4px;
  max-width: 26px;
  height: 7px;
}
</style>
