<script setup lang="ts">
import type { Channel } from '@/api/client'
import { channels } from '@/composables/steps'
import { channelWords } from '@/composables/words'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'

/** From when until when each channel is quiet. */
const quiet = defineModel<Record<Channel, { from: string; to: string } | undefined>>({ required: true })
</script>

<template>
  <h2>Quiet hours</h2>
  <p class="quiet small">On the recipient’s clocks; a message waits, an emergency does not.</p>
  <div
    v-for="c in channels"
    :key="c"
    class="hours"
    role="group"
    :aria-label="`Quiet hours, ${channelWords[c]}`"
  >
    <label
      ><CheckBox
        :model-value="Boolean(quiet[c])"
        @update:model-value="quiet[c] = quiet[c] ? undefined : { from: '21:00', to: '07:00' }"
      />
      {{ channelWords[c] }}</label
    >
    <template v-if="quiet[c]">
      from
      <TextField
        v-model="quiet[c]!.from"
        class="clock"
        required
        :aria-label="`Quiet from, ${channelWords[c]}`"
      />
      to
      <TextField
        v-model="quiet[c]!.to"
        class="clock"
        required
        :aria-label="`Quiet until, ${channelWords[c]}`"
      />
    </template>
  </div>
</template>

<style scoped>
h2 {
  margin: 0;
}

.hours {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  min-height: 28px;
}

.hours label {
  width: 82px;
}

.clock {
  width: 68px;
}
</style>
