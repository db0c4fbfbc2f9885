<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Channel, Draft, Plan } from '@/api/client'
import { channelWords, thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import StepEditor from './StepEditor.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SelectField from '@/controls/SelectField.vue'
import NumberField from '@/controls/NumberField.vue'

const props = defineProps<{ plan: Plan; stale: boolean }>()
const draft = defineModel<Draft>('draft', { required: true })
const emit = defineEmits<{ open: [step: number]; wished: [] }>()

const editing = ref(false)
const steps = computed({
  get: () => (draft.value.steps ?? props.plan.steps.map((s) => s.channels)) as Channel[][],
  set: (now) => (draft.value.steps = now),
})

const on = computed(() => draft.value.moveOn ?? {})
function moveOn(change: NonNullable<Draft['moveOn']>) {
  const next = { ...on.value, ...change }
  if (!next.failed) delete next.failed
  if (!next.minutes) delete next.minutes
  if (!next.answered || !next.minutes) delete next.answered
  if (Object.keys(next).length) draft.value.moveOn = next
  else delete draft.value.moveOn
}

const bars = computed(() => {
  const all = Math.max(1, props.plan.recipients)
  let from = 0
  return props.plan.steps.map((s) => {
    const bar = { left: `${(from / all) * 100}%`, width: `${(s.people / all) * 100}%` }
    from += s.people
    return bar
  })
})
</script>

<template>
  <div class="ladder" role="group" aria-label="Steps">
    <div
      v-for="(s, i) in plan.steps"
      :key="i"
      class="rung"
      :class="{ stale }"
      role="group"
      :aria-label="`Step ${i + 1}`"
    >
      <span class="n">{{ i + 1 }}</span>
      <span class="ch"
        ><span v-for="c in s.channels" :key="c" class="row one"
          ><ChannelMark :channel="c as Channel" />{{ channelWords[c as Channel]
          }}<span v-if="plan.off.includes(c)" class="quiet small" title="Nothing carries it yet"
            >off</span
          ></span
        ></span
      >
      <span class="bar" aria-hidden="true"><s :style="bars[i]" /></span>
      <button
        class="link num"
        :disabled="!s.people"
        :aria-label="`${s.people} people on step ${i + 1}: see who`"
        @click="emit('open', i + 1)"
      >
        {{ thousands(s.people) }}
      </button>
    </div>
    <p v-if="plan.wished" class="wished quiet small">
      <button class="link" @click="emit('wished')">{{ thousands(plan.wished) }} of them</button> by the
      channel they asked for first, before the steps
    </p>
    <p v-if="!plan.steps.length" class="bad">Every channel is switched off.</p>
    <div class="change small">
      <button class="link" :aria-expanded="editing" @click="editing = !editing">
        {{ editing ? 'Done with steps' : 'Change steps' }}
      </button>
      <span v-if="!plan.defaultSteps" class="quiet"
        >differs from the default for {{ draft.urgency }} ·
        <button class="link" @click="delete draft.steps">use the default</button></span
      >
      <span v-else class="quiet">the default for {{ draft.urgency }} messages</span>
    </div>
    <div v-if="editing" class="edit sheet">
      <StepEditor v-model="steps" name="" />
      <p class="quiet small">
        Drag a channel, or move it with the arrow keys. Step 1 is tried first; a person is reached on the
        first step for which they have an address; channels on the same step are used together.
      </p>
      <label class="small"
        ><CheckBox v-model="draft.firstOnly" /> Only the first address of each channel</label
      >
      <fieldset v-if="steps.length > 1" class="small">
        <legend>Try the next step</legend>
        <label
          ><CheckBox :model-value="on.failed" @update:model-value="moveOn({ failed: $event })" /> if
          everything on a step failed</label
        >
        <label
          ><CheckBox
            :model-value="Boolean(on.minutes)"
            @update:model-value="moveOn({ minutes: $event ? 30 : 0 })"
          />
          if nothing
          <SelectField
            :model-value="on.answered ? 'answered' : ''"
            aria-label="What confirms it"
            :items="[
              { value: '', title: 'arrived' },
              { value: 'answered', title: 'was answered' },
            ]"
            @update:model-value="moveOn({ answered: Boolean($event) })"
          />
          in
          <NumberField
            min="1"
            max="1440"
            :model-value="on.minutes || undefined"
            placeholder="30"
            aria-label="Minutes without confirmation"
            @update:model-value="moveOn({ minutes: Number($event) })"
          />
          minutes</label
        >
      </fieldset>
      <label v-if="draft.urgency === 'routine'" class="small"
        ><CheckBox :model-value="!draft.unwished" @update:model-value="draft.unwished = !$event" /> Honour
        wishes: whoever asked for a channel first is tried there first</label
      >
    </div>
  </div>
</template>

<style scoped>
.rung {
  display: grid;
  grid-template-columns: 20px 118px 1fr 46px;
  align-items: center;
  gap: 8px;
  padding: 6px 0;
  border-bottom: 1px dotted #c3cfd4;
}

.n {
  width: 20px;
  height: 20px;
  box-sizing: border-box;
  border-radius: 50%;
  border: 1.5px solid var(--ink);
  display: grid;
  place-items: center;
  font-size: 11.5px;
  font-weight: 650;
}

.ch {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  font-weight: 600;
}

.one {
  gap: 5px;
}

.bar {
  height: 14px;
  background: #dfe7ea;
  border-radius: 3px;
  position: relative;
  overflow: hidden;
}

.bar s {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--deep2);
}

.num {
  font-weight: 650;
  text-align: end;
}

.stale .num {
  opacity: 0.7;
}

.wished {
  margin-top: 6px;
}

.change {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin-top: 6px;
}

.edit {
  margin-top: 6px;
  padding: 8px 10px;
  display: flex;
  flex-direction: column;
  gap: 5px;
}

fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
}

legend {
  padding: 0;
  font-weight: 600;
}

fieldset label {
  flex-wrap: wrap;
  white-space: nowrap;
}

label {
  display: flex;
  gap: 6px;
  align-items: center;
  min-height: 24px;
}

fieldset {
  --control-height: 26px;
}
</style>
