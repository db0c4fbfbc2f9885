<script setup lang="ts">
import { computed } from 'vue'
import { patches, patchWords, standings, type Mark, type Patch } from './marks'

/** Many marks, put together into patches; each opens to its marks. */
const props = defineProps<{ marks: Mark[]; perRow: number }>()
const emit = defineEmits<{ open: [patch: Patch]; point: [words: string] }>()

const rows = 8
/** However few were not reached, they are seen. */
const leastSeen = 0.16
const list = computed(() => patches(props.marks, props.perRow * rows))

/** How high each standing is in a patch, from the bottom. */
function bands(p: Patch): string {
  const colours = {
    reached: 'var(--sea)',
    'under way': '#b9c9cf',
    failed: 'var(--brick)',
    stopped: '#7d9199',
  }
  const heights = standings.map((s) => {
    const share = p.counts[s] / (p.to - p.from)
    return s === 'reached' || !share ? share : Math.max(share, leastSeen)
  })
  const all = heights.reduce((a, b) => a + b)
  let at = 0
  const stops = standings.map((s, i) => {
    const from = at
    at += (100 * heights[i]!) / all
    return `${colours[s]} ${from}% ${at}%`
  })
  return `linear-gradient(to top, ${stops.join(', ')})`
}
</script>

<template>
  <div class="patches" role="group" aria-label="Patches" @mouseleave="emit('point', '')">
    <button
      v-for="p in list"
      :key="p.from"
      :style="{ background: bands(p) }"
      :title="patchWords(p)"
      :aria-label="patchWords(p)"
      @mouseenter="emit('point', patchWords(p))"
      @focus="emit('point', patchWords(p))"
      @click="emit('open', p)"
    />
  </div>
</template>

<style scoped>
.patches {
  display: flex;
  flex-wrap: wrap;
}

button {
  border: 1px solid var(--sheet);
  border-radius: 3px;
  padding: 0;
  width: 18px;
  height: 22px;
  cursor: pointer;
}

button:hover,
button:focus-visible {
  outline: 2px solid var(--lamp);
  outline-offset: -1px;
}
</style>
