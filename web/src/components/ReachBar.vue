<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** One bar for all recipients: reached, waiting, not reached, stopped. */
const props = defineProps<{ figures: Schemas['Figures'] }>()

const parts = computed(() => {
  const f = props.figures
  return [
    { name: 'reached', n: f.reached },
    { name: 'waiting', n: f.waiting },
    { name: 'not reached', n: f.notReached },
    { name: 'stopped', n: f.stopped },
  ]
})
const words = computed(() => parts.value.map((p) => `${p.n} ${p.name}`).join(', '))
</script>

<template>
  <div class="reach" role="img" :aria-label="words" :title="words">
    <span v-for="p in parts" :key="p.name" :class="p.name.replace(' ', '-')" :style="{ flexGrow: p.n }" />
  </div>
</template>

<style scoped>
.reach {
  display: flex;
  height: 10px;
  border-radius: 3px;
  overflow: hidden;
  background: #dfe7ea;
  gap: 1px;
}

span {
  flex-basis: 0;
}

.reached {
  background: var(--sea);
}

.waiting {
  background: #b9c8ce;
}

.not-reached {
  background: repeating-linear-gradient(135deg, var(--brick) 0 3px, #fff 3px 5px);
}

.stopped {
  background: repeating-linear-gradient(90deg, var(--slate) 0 3px, #fff 3px 6px);
}
</style>
