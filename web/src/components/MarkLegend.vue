<script setup lang="ts">
import { computed } from 'vue'
import type { DeliveryState } from '@/api/client'
import { channels } from '@/composables/steps'
import { channelWords } from '@/composables/words'
import ChannelMark from './ChannelMark.vue'

const props = defineProps<{ undecided?: boolean }>()

const all: [DeliveryState, string][] = [
  ['queued', 'waiting'],
  ['undecided', 'not known'],
  ['carrier', 'with the carrier'],
  ['arrived', 'arrived'],
  ['answered', 'answered'],
  ['failed', 'failed'],
  ['stopped', 'stopped'],
]
const fills = computed(() => all.filter(([state]) => state !== 'undecided' || props.undecided))
</script>

<template>
  <div class="legend small quiet" aria-hidden="true">
    <span>shape is the channel:</span>
    <span v-for="c in channels" :key="c"
      ><ChannelMark :channel="c" />{{ channelWords[c].toLowerCase() }}</span
    >
    <span class="then">fill is how far it got:</span>
    <span v-for="[state, words] in fills" :key="state"
      ><ChannelMark channel="voice" :state="state" />{{ words }}</span
    >
  </div>
</template>

<style scoped>
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 11px;
  margin-top: 8px;
}

span {
  display: flex;
  gap: 5px;
  align-items: center;
  white-space: nowrap;
}

.then {
  margin-inline-start: 4px;
}
</style>
