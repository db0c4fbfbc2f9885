<script setup lang="ts">
import { computed } from 'vue'
import type { Person } from '@/api/client'
import { together } from '@/composables/addresses'
import ChannelMark from '@/components/ChannelMark.vue'

/** How somebody can be reached, in one line: the first addresses, and how many more. */
const props = defineProps<{ person: Person; most?: number }>()
const list = computed(() => together(props.person.addresses))
const declines = computed(
  () => list.value.length > 0 && list.value.every((a) => a.declinesRoutine || a.declinesTimely),
)
const shown = computed(() => list.value.slice(0, props.most ?? 2))
</script>

<template>
  <span class="addresses">
    <span v-if="!list.length && person.roles.includes('dependent')" class="quiet">none of their own</span>
    <span v-else-if="!list.length" class="bad">nothing on file</span>
    <span v-for="a in shown" :key="a.value" class="one" :class="{ dead: a.health === 'dead' }">
      <ChannelMark v-for="c in a.channels" :key="c" :channel="c" />
      <span class="value">{{ a.shown }}</span>
      <span v-if="a.health === 'dead'" class="bad small">dead</span>
      <span v-else-if="a.carrierStop" class="mind small">stopped</span>
      <span v-else-if="!declines && (a.declinesRoutine || a.declinesTimely)" class="mind small"
        >opted out</span
      >
    </span>
    <span v-if="declines" class="mind small">opted out</span>
    <span v-if="list.length > shown.length" class="quiet small">+{{ list.length - shown.length }}</span>
  </span>
</template>

<style scoped>
.addresses {
  display: flex;
  overflow: hidden;
  align-items: center;
  gap: 4px 14px;
  white-space: nowrap;
}

.one {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  flex: none;
}

.one + .one {
  flex: 0 1 auto;
  min-width: 60px;
}

.one :deep(.mark) {
  color: var(--slate);
}

.value {
  overflow: hidden;
  text-overflow: ellipsis;
  font-variant-numeric: tabular-nums;
}

.dead .value {
  overflow: hidden;
  text-overflow: ellipsis;
  text-decoration: line-through;
  color: var(--ink3);
}
</style>
