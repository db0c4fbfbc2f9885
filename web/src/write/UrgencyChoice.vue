<script setup lang="ts">
import type { Draft } from '@/api/client'
import { useRights } from '@/composables/session'

/** How urgent a message is; not everybody writes emergencies. */
const urgency = defineModel<Draft['urgency']>({ required: true })
const may = useRights()
const urgencies = ['routine', 'timely', 'emergency'] as const
</script>

<template>
  <div class="urgency" role="radiogroup" aria-label="Urgency">
    <button
      v-for="u in urgencies"
      :key="u"
      role="radio"
      :aria-checked="urgency === u"
      :class="{ on: urgency === u, [u]: true }"
      :disabled="u === 'emergency' && !may('write-emergencies')"
      :title="u === 'emergency' && !may('write-emergencies') ? 'Your account may not write emergencies' : ''"
      @click="urgency = u"
    >
      {{ u }}
    </button>
  </div>
</template>

<style scoped>
.urgency {
  display: flex;
  flex: none;
  border: 1px solid var(--line);
  border-radius: 6px;
  overflow: hidden;
}

.urgency button {
  border: 0;
  background: var(--sheet);
  color: var(--ink2);
  font: inherit;
  font-size: 12.5px;
  padding: 5px 11px;
  cursor: pointer;
  text-transform: capitalize;
}

.urgency button:disabled {
  color: var(--ink3);
  cursor: default;
  text-decoration: line-through;
}

.urgency .on {
  background: var(--ink);
  color: #fff;
}

.urgency .on.emergency {
  background: var(--brick);
}
</style>
