<script setup lang="ts">
import type { Look } from './answers'

/** One person on the board: the number of what they answered, or how it stands. */
defineProps<{ look: Look; number: number }>()
</script>

<template>
  <span class="mark num" :class="look" aria-hidden="true">{{
    number || { wrote: '“', missed: '×', 'on-the-way': '·' }[look as string]
  }}</span>
</template>

<style scoped>
.mark {
  display: inline-grid;
  place-items: center;
  width: 1.35em;
  height: 1.35em;
  flex: none;
  border-radius: 3px;
  border: 1px solid var(--slate);
  font-weight: 700;
  font-size: 0.86em;
  line-height: 1;
  color: var(--ink2);
  background: var(--sheet);
}

.counts {
  background: var(--sea);
  border-color: var(--sea);
  color: #fff;
}

.attend {
  background: var(--brick);
  border-color: var(--brick);
  color: #fff;
}

.plain {
  background: var(--slate);
  color: #fff;
}

.wrote {
  background: var(--lamp);
  border-color: var(--lampink);
  color: #2a1c00;
}

.missed {
  border-color: var(--brick);
  color: var(--brick);
  background: var(--bricksoft);
}

.on-the-way {
  border-style: dashed;
}
</style>
