<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { people } from '@/composables/words'
import { withWhom } from './many'

/** With whom a thread is, in sight above its ledger however long that is. */
const props = defineProps<{ view: Schemas['ThreadView'] }>()

const ofMany = computed(() => {
  const many = props.view.many
  if (!many) return ''
  const all = many.people.filter((p) => !p.left).length + many.beyond
  return [
    `with ${withWhom[props.view.thread.with]}`,
    people(all),
    props.view.thread.shared ? 'all see what is said' : 'each sees only what we write',
  ].join(' · ')
})
</script>

<template>
  <div class="cap">
    <h2>
      <bdi>{{ view.thread.name }}</bdi>
    </h2>
    <span class="quiet small">{{
      view.many
        ? ofMany
        : [
            view.person?.speaks ? `reads ${view.person.speaks}` : '',
            view.person?.about.length ? `guardian of ${view.person.about.join(', ')}` : '',
            `by ${view.thread.channel}`,
          ]
            .filter(Boolean)
            .join(' · ')
    }}</span>
  </div>
</template>

<style scoped>
.cap {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 12px;
  position: sticky;
  top: -12px;
  z-index: 1;
  background: var(--fog);
  padding: 12px 0 8px;
  margin: -12px 0 0;
}
</style>
