<script setup lang="ts">
import { computed } from 'vue'
import type { Channel, Draft, Plan } from '@/api/client'
import CheckBox from '@/controls/CheckBox.vue'
import SelectField from '@/controls/SelectField.vue'

/** Which copies are good enough for this message, and what others get. */
const draft = defineModel<Draft>({ required: true })
const props = defineProps<{ plan: Plan }>()

type Rules = NonNullable<Draft['copies']>

const rules = computed<Rules>(() => draft.value.copies ?? {})

function set(change: Partial<Rules>) {
  const next: Rules = { ...rules.value, ...change }
  if (!next.accept) delete next.accept
  if (!next.otherwise) delete next.otherwise
  if (!next.beneath?.length) delete next.beneath
  if (!next.voiceless) delete next.voiceless
  if (Object.keys(next).length) draft.value.copies = next
  else delete draft.value.copies
}

const usual = computed(() =>
  draft.value.urgency === 'emergency'
    ? 'As usual for an emergency: its readers'
    : 'As usual: nobody, they get the original',
)
const both: { channel: Channel; words: string }[] = [
  { channel: 'email', words: 'emails and letters' },
  { channel: 'push', words: 'pushes' },
  { channel: 'text', words: 'texts' },
]

function beneath(channel: Channel, on: boolean) {
  const now = rules.value.beneath ?? []
  set({ beneath: on ? [...now, channel] : now.filter((c) => c !== channel) })
}
const parts = computed(() => props.plan.channels.find((c) => c.channel === 'text')?.parts ?? 0)
</script>

<template>
  <div class="rules" role="group" aria-label="Who gets which copy">
    <label class="field"
      ><span>A copy that nobody has read goes to</span>
      <SelectField
        :model-value="rules.accept ?? ''"
        :items="[
          { value: '', title: usual },
          { value: 'checked', title: 'nobody: they get the original' },
          { value: 'unchecked', title: 'its readers all the same' },
        ]"
        @update:model-value="set({ accept: $event as Rules['accept'] })"
    /></label>
    <label class="field"
      ><span>Whose copy is not used gets</span>
      <SelectField
        :model-value="rules.otherwise ?? ''"
        :items="[
          { value: '', title: 'the original alone' },
          { value: 'lines', title: 'the original, and below it what is translated' },
        ]"
        @update:model-value="set({ otherwise: $event as Rules['otherwise'] })"
    /></label>
    <label class="field"
      ><span>A call whose copy no voice speaks</span>
      <SelectField
        :model-value="rules.voiceless ?? ''"
        :items="[
          { value: '', title: 'is heard in the original' },
          { value: 'next-step', title: 'is not made: their next step instead' },
        ]"
        @update:model-value="set({ voiceless: $event as Rules['voiceless'] })"
    /></label>
    <fieldset>
      <legend>The original stands beneath the copy in</legend>
      <label v-for="b in both" :key="b.channel"
        ><CheckBox
          :model-value="rules.beneath?.includes(b.channel) ?? false"
          @update:model-value="beneath(b.channel, Boolean($event))"
        />
        {{ b.words }}</label
      >
      <span v-if="rules.beneath?.includes('text')" class="small quiet">{{ parts }} text parts in all</span>
    </fieldset>
  </div>
</template>

<style scoped>
.rules {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 14px;
  padding: 4px 0 10px;
  border-bottom: 1px solid var(--hair);
  margin-bottom: 4px;
}

fieldset {
  grid-column: 1 / -1;
  border: 0;
  padding: 0;
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
}

legend {
  font-size: 12.5px;
  color: var(--ink2);
  margin-bottom: 3px;
}
</style>
