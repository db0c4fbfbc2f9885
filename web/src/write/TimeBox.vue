<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Channel, Draft, Plan } from '@/api/client'
import { channels } from '@/composables/steps'
import { useSession, useTimes } from '@/composables/session'
import { channelWords, count, things } from '@/composables/words'
import NumberField from '@/controls/NumberField.vue'
import TimeField from '@/controls/TimeField.vue'

/** When a message leaves: now or at a time, by channel, spread over a while. */
const draft = defineModel<Draft>('draft', { required: true })
const props = defineProps<{ plan: Plan }>()

const { data: session } = useSession()
const times = useTimes()
const timed = ref(false)
const more = ref(false)

const atItsTime = computed(() => timed.value || Boolean(draft.value.sendAt))
const details = computed(
  () =>
    more.value ||
    Boolean(draft.value.until) ||
    Boolean(draft.value.spread) ||
    Object.keys(draft.value.times ?? {}).length > 0,
)

function sendAt(instant: string | undefined) {
  if (instant) draft.value.sendAt = instant
  else delete draft.value.sendAt
}

function channelAt(c: Channel, instant: string | undefined) {
  const next = { ...draft.value.times }
  if (instant) next[c] = instant
  else delete next[c]
  if (Object.keys(next).length) draft.value.times = next
  else delete draft.value.times
}

function spread(minutes: number) {
  if (minutes > 0) draft.value.spread = Math.min(1440, Math.round(minutes))
  else delete draft.value.spread
}

function until(instant: string | undefined) {
  if (instant) draft.value.until = instant
  else delete draft.value.until
}

function now() {
  timed.value = false
  sendAt(undefined)
}

const rate = computed(() =>
  draft.value.spread ? Math.max(1, Math.round(props.plan.deliveries / draft.value.spread)) : 0,
)
</script>

<template>
  <section class="sheet time" aria-label="When it leaves" tabindex="-1">
    <div class="row line">
      <small>Leaves</small>
      <span v-if="!atItsTime"
        ><b>now</b> <span class="small">after {{ session?.holdSeconds }} s hold</span></span
      >
      <TimeField
        v-else
        :model-value="draft.sendAt"
        :aria-label="`When it leaves, ${times.zone.value}`"
        @update:model-value="sendAt"
      />
      <span class="push row">
        <button v-if="!atItsTime" class="link small" @click="timed = true">At another time</button>
        <button v-else class="link small" @click="now">Now instead</button>
        <button v-if="!details" class="link small" @click="more = true">More</button>
      </span>
    </div>
    <template v-if="details">
      <div v-for="c in channels" :key="c" class="row line small">
        <span class="name">{{ channelWords[c] }}</span>
        <TimeField
          :model-value="draft.times?.[c]"
          :aria-label="`When ${channelWords[c]} leaves`"
          @update:model-value="channelAt(c, $event)"
        />
        <button v-if="draft.times?.[c]" class="link small" @click="channelAt(c, undefined)">
          With the rest
        </button>
        <span v-else class="quiet">with the rest</span>
      </div>
      <div class="row line small">
        <span class="name">Not after</span>
        <TimeField
          :model-value="draft.until"
          aria-label="After when nothing leaves any more"
          @update:model-value="until"
        />
        <button v-if="draft.until" class="link small" @click="until(undefined)">However late</button>
        <span v-else class="quiet">however late</span>
      </div>
      <label class="row line small"
        >Spread over
        <NumberField
          min="0"
          max="1440"
          :model-value="draft.spread"
          placeholder="0"
          aria-label="Spread over minutes"
          @update:model-value="spread(Number($event))"
        />
        minutes <span v-if="rate" class="quiet">about {{ rate }} a minute</span></label
      >
    </template>
    <p v-for="w in plan.waits" :key="w.channel + w.until" class="small">
      <b>{{ count(w.deliveries, `${things[w.channel][0]} waits`, `${things[w.channel][1]} wait`) }}</b>
      until {{ times.moment(w.until) }}: quiet hours
    </p>
  </section>
</template>

<style scoped>
.time {
  padding: 6px 9px;
  margin-top: 9px;
  display: grid;
  gap: 4px;
}

.line {
  flex-wrap: wrap;
  gap: 4px 8px;
}

small {
  color: var(--ink2);
  font-size: 11.5px;
}

.name {
  width: 52px;
}

.time {
  --control-height: 28px;
}
</style>
