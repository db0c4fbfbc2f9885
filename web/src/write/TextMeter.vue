<script setup lang="ts">
import { computed } from 'vue'
import type { Plan } from '@/api/client'
import { count } from '@/composables/words'

/** What the text comes to in parts, and what would make it shorter. */
const props = defineProps<{ plan: Plan; text: string; stale: boolean }>()
const emit = defineEmits<{ swap: [text: string] }>()

const carried = computed(() => props.plan.channels.find((c) => c.channel === 'text'))
const meter = computed(() => props.plan.meter)
const each = computed(() => {
  const m = meter.value
  return m.least === m.most ? `${count(m.most, 'part', 'parts')} each` : `${m.least} to ${m.most} parts each`
})
const forcing = computed(() => meter.value.forces)
// A text in another script always needs the long alphabet; listing its letters helps nobody.
const worthwhile = computed(
  () =>
    forcing.value.length > 0 &&
    (forcing.value.length <= 6 || swappable.value.length === forcing.value.length),
)
const swappable = computed(() => forcing.value.filter((f) => f.replacement))

function swap() {
  emit('swap', meter.value.swapped)
}
</script>

<template>
  <div v-if="meter.most">
    <div class="meter small" :class="{ stale }" role="status">
      <b>{{ each }}</b>
      <span>{{ meter.alphabet === 'gsm7' ? 'short alphabet' : 'long alphabet' }}</span>
      <span>{{ meter.room }} left in the last part</span>
      <span v-if="carried">{{ count(meter.total, 'part', 'parts') }} in all, {{ carried.cost }}</span>
      <span v-else>nobody gets it by text yet</span>
    </div>
    <p v-if="meter.shorten" class="small shorten">
      {{ count(meter.shorten, 'character', 'characters') }} fewer {{ meter.shorten === 1 ? 'saves' : 'save' }}
      {{ count(meter.shortens, 'part', 'parts') }}.
    </p>
    <div v-if="worthwhile" class="tip small" role="note" aria-label="Characters that cost more">
      <span>
        <template v-for="(f, i) in forcing.slice(0, 6)" :key="f.character"
          ><template v-if="i">, </template
          ><bdi
            >“<b>{{ f.character }}</b
            >”</bdi
          ><template v-if="f.times > 1"> ×{{ f.times }}</template></template
        ><template v-if="forcing.length > 6"> and {{ forcing.length - 6 }} more</template>
        {{ forcing.length === 1 && forcing[0]?.times === 1 ? 'needs' : 'need' }} the long alphabet, which
        holds less than half as much.
        <template v-if="meter.saves"
          >Plain characters in their place save {{ count(meter.saves, 'part', 'parts') }}.</template
        >
        <template v-else-if="swappable.length < forcing.length"
          >Not all of them have a plain replacement.</template
        >
      </span>
      <button v-if="swappable.length && meter.swapped !== text.trim()" class="link" @click="swap">
        Swap
        {{
          swappable
            .map((f) => `${f.character} for ${f.replacement}`)
            .slice(0, 3)
            .join(', ')
        }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.shorten {
  color: #7a5200;
}

.meter {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  color: var(--ink2);
  font-variant-numeric: tabular-nums;
}

.meter b {
  color: var(--ink);
}

.stale {
  opacity: 0.7;
}

.tip {
  background: var(--lampsoft);
  border-left: 3px solid var(--lamp);
  border-radius: 0 4px 4px 0;
  padding: 5px 9px;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}
</style>
