<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { count, thousands } from '@/composables/words'

/** What loading a file would do, in figures. */
defineProps<{ proposed: Schemas['ImportView'] }>()
</script>

<template>
  <section class="figures sheet" aria-label="What loading would do">
    <span
      ><b class="num">{{ thousands(proposed.added) }}</b> added</span
    >
    <span
      ><b class="num">{{ thousands(proposed.changed) }}</b> changed</span
    >
    <span
      ><b class="num">{{ thousands(proposed.unchanged) }}</b> unchanged</span
    >
    <span
      ><b class="num">{{ thousands(proposed.missingAll) }}</b> not in the file</span
    >
    <span :class="{ bad: proposed.refusedAll }"
      ><b class="num">{{ thousands(proposed.refusedAll) }}</b> not loaded</span
    >
    <span :class="{ mind: proposed.notedAll }"
      ><b class="num">{{ thousands(proposed.notedAll) }}</b> cells left off</span
    >
    <span v-if="proposed.barsKept" class="mind"
      ><b class="num">{{ thousands(proposed.barsKept) }}</b>
      {{ proposed.barsKept === 1 ? 'barred contact stays' : 'barred contacts stay' }} barred</span
    >
    <span v-if="proposed.groups.length" class="groups quiet"
      >{{ count(proposed.groups.length, 'new group', 'new groups') }}: {{ proposed.groups.join(', ') }}</span
    >
  </section>
</template>

<style scoped>
.figures {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px 28px;
  padding: 8px 14px;
}

.figures b {
  font-size: 20px;
}

.groups {
  flex: 1 1 320px;
}

.mind {
  color: var(--lampink);
}
</style>
