<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { runsOf, type Placeholder } from './lineText'

/** What differs between two texts: taken out, and put in. Places are those of the line. */
const props = defineProps<{ pieces: Schemas['Piece'][]; places: Placeholder[] }>()
const shown = computed(() =>
  props.pieces.map((p) => ({
    ...p,
    text: runsOf(p.text, props.places)
      .map((r) => r.text)
      .join(''),
  })),
)
</script>

<template>
  <span
    ><template v-for="(p, i) in shown" :key="i"
      ><del v-if="p.only === 'before'">{{ p.text }}</del
      ><mark v-else-if="p.only === 'now'">{{ p.text }}</mark
      ><template v-else>{{ p.text }}</template></template
    ></span
  >
</template>

<style scoped>
del {
  color: var(--ink2);
  text-decoration-color: var(--brick);
}

mark {
  background: var(--lampsoft);
  color: inherit;
  border-radius: 2px;
}
</style>
