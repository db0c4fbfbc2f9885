<script setup lang="ts">
import { trustWords, type Trust } from './lineText'

/** How far a line of a copy can be trusted: full, hatched, grey, amber-edged or empty. */
defineProps<{ trust: Trust }>()
</script>

<template>
  <i class="mark" :class="trust" role="img" :aria-label="trustWords[trust]" :title="trustWords[trust]" />
</template>

<style scoped>
.mark {
  display: inline-block;
  width: 10px;
  height: 10px;
  border-radius: 2px;
  border: 1px solid #8fa5ae;
  flex: none;
}

.checked {
  background: var(--sea);
  border-color: var(--sea);
}

.adapted {
  background: repeating-linear-gradient(45deg, var(--sea) 0 2px, var(--seasoft) 2px 4px);
  border-color: var(--sea);
}

.unread {
  background: #b9c8cd;
}

.doubtful {
  background: var(--lampsoft);
  border-color: #9a6500;
}
</style>
