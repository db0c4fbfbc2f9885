<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import SelectField from '@/controls/SelectField.vue'

/** In which encoding a file is read, and which of its lines has the headings. */
const props = defineProps<{ proposed: Schemas['ImportView'] }>()
defineEmits<{ read: [how: Schemas['Reading']] }>()

const lines = computed(() =>
  props.proposed.top.map((t) => ({ value: t.line, title: `${t.line}: ${t.words || 'empty'}` })),
)
const encodings = computed(() => props.proposed.encodings.map((e) => ({ value: e, title: e })))
</script>

<template>
  <div v-if="lines.length > 1" class="reading">
    <label class="field line"
      ><span>The headings stand in line</span>
      <SelectField
        :model-value="proposed.heading"
        :items="lines"
        @update:model-value="$emit('read', { heading: Number($event) })"
    /></label>
    <label v-if="encodings.length" class="field"
      ><span>If letters look wrong, it is in</span>
      <SelectField
        :model-value="proposed.encoding"
        :items="encodings"
        @update:model-value="$emit('read', { encoding: String($event) })"
    /></label>
  </div>
</template>

<style scoped>
.reading {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 24px;
  margin-bottom: 10px;
}

.line {
  flex: 1 1 300px;
  max-width: 620px;
}
</style>
