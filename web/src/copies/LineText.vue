<script setup lang="ts">
import { computed } from 'vue'
import { runsOf, type Placeholder } from './lineText'

/** A line as it reads, with its fields as what they are filled with. */
const props = defineProps<{ text: string; places: Placeholder[] }>()
const runs = computed(() => runsOf(props.text, props.places))
</script>

<template>
  <bdi>
    <template v-for="(run, i) in runs" :key="i"
      ><bdi v-if="run.field" class="filled">{{ run.text }}</bdi
      ><span
        v-else
        :class="{ bold: run.bold, italic: run.italic, to: run.link }"
        :title="run.link || undefined"
        >{{ run.text }}</span
      ></template
    >
  </bdi>
</template>

<style scoped>
.filled {
  border-radius: 3px;
  padding: 0 3px;
  background: #e3edf0;
  color: var(--deep2);
  font-weight: 600;
}

.bold {
  font-weight: 700;
}

.italic {
  font-style: italic;
}

.to {
  text-decoration: underline;
  color: var(--deep2);
}
</style>
