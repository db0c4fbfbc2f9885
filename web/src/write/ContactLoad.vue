<script setup lang="ts">
import { computed } from 'vue'
import type { Draft, Schemas } from '@/api/client'
import { count, people } from '@/composables/words'
import CheckBox from '@/controls/CheckBox.vue'

/** How much the recipients were sent lately, and who would get too much. */
const props = defineProps<{ load: Schemas['LoadView'] }>()
const draft = defineModel<Draft>('draft', { required: true })
const emit = defineEmits<{ over: [] }>()

const all = computed(() => props.load.routine + props.load.timely + props.load.emergency)
const kinds = computed(() =>
  (['routine', 'timely', 'emergency'] as const)
    .filter((u) => props.load[u])
    .map((u) => `${props.load[u]} ${u}`)
    .join(', '),
)

function spare(on: boolean) {
  if (on) draft.value.spare = true
  else delete draft.value.spare
}
</script>

<template>
  <div v-if="all || draft.spare" class="load small">
    <p v-if="all" class="quiet">
      In the last 7 days they were sent {{ count(all, 'message', 'messages') }}: {{ kinds }}. Nobody got more
      than {{ load.most }}.
    </p>
    <p v-if="load.over">
      <button class="link" @click="emit('over')">
        {{ people(load.over) }} {{ load.over === 1 ? 'goes' : 'go' }} over the limit of {{ load.limit }}
      </button>
      with this one.
    </p>
    <label v-if="draft.urgency === 'routine' && (load.over || draft.spare)"
      ><CheckBox :model-value="draft.spare" @update:model-value="spare($event)" /> Spare them this routine
      message</label
    >
  </div>
</template>

<style scoped>
.load {
  margin-top: 10px;
  display: grid;
  gap: 4px;
}

label {
  display: flex;
  align-items: center;
  gap: 5px;
}
</style>
