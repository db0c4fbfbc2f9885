<script setup lang="ts">
import type { Draft, Plan } from '@/api/client'
import { count, people } from '@/composables/words'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'

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
      <TextField
        :model-value="draft.reason ?? ''"
        aria-label="Why it is an emergency"
        placeholder="It stands in the record"
        maxlength="500"
        @update:model-value="reason($event)"
    /></label>
    <label class="row"
      ><CheckBox :model-value="draft.practice" @update:model-value="exercise($event)" /> Only exercise
      it</label
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

.why .control {
  flex: 1;
}

/* On the red of the band. */
.band :deep(.control-tick .v-icon) {
  color: #fff;
}
</style>
