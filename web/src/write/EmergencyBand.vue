<script setup lang="ts">
import type { Draft, Plan } from '@/api/client'
import { count, people } from '@/composables/words'

/** What an emergency changes, its reason, and the switch to only exercise it. */
const draft = defineModel<Draft>('draft', { required: true })
defineProps<{ plan?: Plan }>()

function exercise(on: boolean) {
  if (on) draft.value.practice = true
  else delete draft.value.practice
}
function reason(text: string) {
  if (text) draft.value.reason = text
  else delete draft.value.reason
}
</script>

<template>
  <section class="band" :class="{ exercise: draft.practice }" aria-label="Emergency">
    <b>{{
      draft.practice ? 'Exercise: it goes to the testers only' : 'Emergency: every usable address at once'
    }}</b>
    <span v-if="plan" class="small">
      <template v-if="plan.overridden"
        >{{ people(plan.overridden) }} who declined other messages get it.
      </template>
      <template v-if="plan.unquiet"
        >{{ count(plan.unquiet, 'delivery leaves', 'deliveries leave') }} in quiet hours.
      </template>
      <template v-if="!plan.overridden && !plan.unquiet"
        >No refusal and no quiet hours are overridden.</template
      >
    </span>
    <label class="why"
      >Why is it one?
      <input
        :value="draft.reason ?? ''"
        aria-label="Why it is an emergency"
        placeholder="It stands in the record"
        maxlength="500"
        @input="reason(($event.target as HTMLInputElement).value)"
    /></label>
    <label class="row"
      ><input
        type="checkbox"
        :checked="draft.practice"
        @change="exercise(($event.target as HTMLInputElement).checked)"
      />
      Only exercise it</label
    >
  </section>
</template>

<style scoped>
.band {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 16px;
  padding: 8px 16px;
  background: var(--brick);
  color: #fff;
}

.band.exercise {
  background: var(--ink2);
}

.why {
  flex: 1;
  min-width: 300px;
  display: flex;
  align-items: center;
  gap: 8px;
}

.why input {
  flex: 1;
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 0;
  border-radius: 4px;
  padding: 4px 8px;
}
</style>
