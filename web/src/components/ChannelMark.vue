<script setup lang="ts">
import { computed } from 'vue'
import type { Channel, DeliveryState } from '@/api/client'
import { channelWords, stageOf, stateWords } from '@/composables/words'

/** Shape is the channel; with a state, fill is how far it got. */
const props = defineProps<{ channel: Channel; state?: DeliveryState; label?: string }>()

const shapes: Record<Channel, string> = {
  email: 'M7 .9 13.1 7 7 13.1 .9 7z',
  text: 'M4 1.5h6a2.5 2.5 0 0 1 2.5 2.5v6a2.5 2.5 0 0 1-2.5 2.5H4a2.5 2.5 0 0 1-2.5-2.5V4A2.5 2.5 0 0 1 4 1.5z',
  voice: 'M7 1.4a5.6 5.6 0 1 1 0 11.2A5.6 5.6 0 0 1 7 1.4z',
  push: 'M7 1.6 13 12.4H1z',
}

const looks = {
  plain: { fill: 'currentColor', stroke: 'currentColor' },
  waiting: { fill: 'none', stroke: '#5f7680' },
  undecided: { fill: 'none', stroke: '#9a6a00' },
  carrier: { fill: '#b9c8ce', stroke: '#5f7680' },
  arrived: { fill: '#14765a', stroke: '#14765a' },
  answered: { fill: '#12252f', stroke: '#12252f' },
  failed: { fill: 'none', stroke: '#b23a2a' },
  stopped: { fill: 'none', stroke: '#5f7680' },
}

const stage = computed(() => (props.state ? stageOf(props.state) : 'plain'))
const look = computed(() => looks[stage.value])
const words = computed(
  () =>
    props.label ??
    (props.state
      ? `${channelWords[props.channel]}, ${stateWords[props.state]}`
      : channelWords[props.channel]),
)
</script>

<template>
  <svg class="mark" viewBox="0 0 14 14" role="img" :aria-label="words">
    <title>{{ words }}</title>
    <path :d="shapes[channel]" :fill="look.fill" :stroke="look.stroke" stroke-width="1.5" />
    <path
      v-if="stage === 'answered'"
      d="M4.3 7.2 6.3 9.2 9.8 5"
      fill="none"
      stroke="#fff"
      stroke-width="1.5"
    />
    <circle v-if="stage === 'undecided'" cx="7" cy="7.3" r="1.5" fill="#9a6a00" />
    <path v-if="stage === 'failed'" d="M2 12 12 2" :stroke="look.stroke" stroke-width="1.7" />
    <path v-if="stage === 'stopped'" d="M4.5 7h5" :stroke="look.stroke" stroke-width="1.7" />
  </svg>
</template>

<style scoped>
.mark {
  width: 14px;
  height: 14px;
  flex: none;
  vertical-align: -2px;
}
</style>
