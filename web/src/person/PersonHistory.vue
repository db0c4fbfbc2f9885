<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { useSaid } from '@/composables/said'
import { useTimes } from '@/composables/session'

/** What was changed of somebody, and the way back. */
const { person } = defineProps<{ person: Schemas['PersonDetailView'] }>()
const { undo } = useSaid()
const { moment } = useTimes()
</script>

<template>
  <section>
    <h3>History</h3>
    <p v-if="!person.history.length" class="quiet">Nothing was changed yet.</p>
    <ul class="list history">
      <li v-for="h in person.history" :key="h.edit" :class="{ undone: h.undone }">
        <span class="small"
          ><b>{{ h.by || (h.kind === 'update' ? 'they themselves' : 'the program') }}</b
          >, {{ moment(h.at) }}: {{ h.said }}{{ h.undone ? ' (undone)' : '' }}</span
        >
        <button
          v-if="person.editable && !h.undone && h.people === 1"
          class="link small push"
          @click="undo(h.edit)"
        >
          Undo
        </button>
        <span v-for="c in h.changes" :key="c.what" class="small under quiet"
          >{{ c.what }}: <del v-if="c.from">{{ c.from }}</del> {{ c.from && c.to ? '→' : '' }}
          <ins v-if="c.to">{{ c.to }}</ins></span
        >
      </li>
    </ul>
  </section>
</template>

<style scoped src="./lists.css"></style>

<style scoped>
.history .under {
  padding-inline-start: 10px;
  overflow-wrap: anywhere;
}

.undone {
  color: var(--ink2);
}
</style>
