<script setup lang="ts">
import { computed, ref } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Channel, type Schemas } from '@/api/client'
import { useRights, useTimes } from '@/composables/session'
import ChannelMark from '@/components/ChannelMark.vue'
import SayNote from '@/components/SayNote.vue'
import NumberField from '@/controls/NumberField.vue'
import SelectField from '@/controls/SelectField.vue'

/** How the stand-ins' world behaves: its weather, and which carriers are down. */
const client = useQueryClient()
const times = useTimes()
const may = useRights()
const changes = computed(() => may('change-settings'))

const { data: weather } = useQuery({
  queryKey: ['bench', 'weather'],
  queryFn: () => take(api.GET('/bench/weather')),
})
const { data: carriers } = useQuery({
  queryKey: ['carriers'],
  queryFn: () => take(api.GET('/bench/carriers')),
  refetchInterval: 10_000,
})

type Kind = Schemas['WeatherView']['kind']
const kinds: Record<Kind, string> = { calm: 'Calm', busy: 'Busy evening', storm: 'Storm' }
const means = computed(() => weather.value?.kinds.find((k) => k.kind === weather.value?.kind)?.words ?? [])

const set = useMutation({
  mutationFn: (body: { kind: Kind; seed: number }) => take(api.PUT('/bench/weather', { body })),
  onSuccess: (now) => client.setQueryData(['bench', 'weather'], now),
})
function turn(to: { kind?: Kind; seed?: number }) {
  const now = weather.value
  if (now) set.mutate({ kind: to.kind ?? now.kind, seed: to.seed ?? now.seed })
}

const names: Record<Channel, string> = {
  email: 'Mail server',
  text: 'Text gateway',
  voice: 'Voice gateway',
  push: 'Push service',
}
const minutes = ref(0)
const lengths = [
  { value: 0, title: 'until it is brought up' },
  ...[1, 5, 15, 60].map((n) => ({ value: n, title: n === 1 ? 'for 1 minute' : `for ${n} minutes` })),
]
const flip = useMutation({
  mutationFn: (c: Schemas['CarrierView']) =>
    take(
      api.PUT('/bench/carriers', {
        body: { channel: c.channel, down: !c.down, minutes: c.down ? 0 : minutes.value },
      }),
    ),
  onSuccess: (list) => client.setQueryData(['carriers'], list),
})
</script>

<template>
  <section class="bar" aria-label="Weather">
    <div class="row">
      <b>Weather</b>
      <div class="kinds" role="group" aria-label="Which weather">
        <button
          v-for="k in weather?.kinds"
          :key="k.kind"
          :aria-pressed="k.kind === weather?.kind"
          :disabled="!changes"
          @click="turn({ kind: k.kind })"
        >
          {{ kinds[k.kind] }}
        </button>
      </div>
      <label class="row small"
        >seed
        <NumberField
          class="seed"
          aria-label="Seed"
          :model-value="weather?.seed"
          :disabled="!changes"
          @update:model-value="turn({ seed: Math.round(Number($event)) || 1 })"
      /></label>
    </div>
    <ul class="means quiet small" aria-label="What it means">
      <li v-for="w in means" :key="w">{{ w }}</li>
    </ul>
    <div class="row carriers">
      <div v-for="c in carriers" :key="c.channel" class="carrier" :class="{ down: c.down }">
        <ChannelMark :channel="c.channel" />
        <span
          >{{ names[c.channel] }}: {{ c.down ? 'down' : 'up'
          }}<template v-if="c.until"> until {{ times.clock(c.until) }}</template></span
        >
        <v-btn v-if="changes" size="x-small" @click="flip.mutate(c)"
          >{{ c.down ? 'Bring up' : 'Take down'
          }}<span class="sr-only"> the {{ names[c.channel] }}</span></v-btn
        >
      </div>
      <SelectField
        v-if="changes"
        v-model="minutes"
        class="length"
        aria-label="For how long"
        :items="lengths"
      />
    </div>
    <SayNote v-if="set.error.value ?? flip.error.value" kind="bad">{{
      (set.error.value ?? flip.error.value)?.message
    }}</SayNote>
  </section>
</template>

<style scoped>
.bar {
  padding: 9px 16px;
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
  display: grid;
  gap: 6px;
}

.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 14px;
}

.kinds {
  display: flex;
  border: 1px solid var(--line);
  border-radius: 5px;
  overflow: hidden;
}

.kinds button {
  border: 0;
  background: var(--sheet);
  padding: 5px 12px;
  font: inherit;
  color: var(--ink);
  cursor: pointer;
}

.kinds button + button {
  border-inline-start: 1px solid var(--line);
}

.kinds button[aria-pressed='true'] {
  background: var(--deep2);
  color: #fff;
}

.seed {
  width: 84px;
}

.means {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
}

.carriers {
  --control-height: 28px;
}

.carrier {
  display: flex;
  align-items: center;
  gap: 6px;
}

.carrier .v-btn {
  height: 28px;
  padding-inline: 10px;
}

.carrier.down {
  color: var(--brick);
}

.length {
  width: 190px;
}
</style>
