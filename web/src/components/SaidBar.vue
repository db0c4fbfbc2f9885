<script setup lang="ts">
import { watch } from 'vue'
import { useTimeoutFn } from '@vueuse/core'
import { mdiClose } from '@mdi/js'
import { useSaid } from '@/composables/said'

const stays = 20_000 // ms
const { said, undo } = useSaid()
const { start } = useTimeoutFn(() => (said.value = undefined), stays, { immediate: false })
watch(said, (now) => now && start())
</script>

<template>
  <div v-if="said" class="said" :class="{ bad: said.bad }" :role="said.bad ? 'alert' : 'status'">
    <span>{{ said.words }}</span>
    <button v-if="said.edit" class="undo" @click="undo(said.edit)">Undo</button>
    <button class="close" aria-label="Close" @click="said = undefined">
      <v-icon :icon="mdiClose" size="15" />
    </button>
  </div>
</template>

<style scoped>
.said {
  position: fixed;
  z-index: 2600; /* what can be undone stands above a drawer */
  bottom: 52px;
  left: 16px;
  max-width: min(620px, 80vw);
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 9px 14px;
  background: var(--ink);
  color: #fff;
  border-radius: 6px;
}

.said.bad {
  background: #7d2418;
}

button {
  border: 0;
  background: none;
  color: #fff;
  font: inherit;
  cursor: pointer;
  padding: 2px;
}

.undo {
  font-weight: 650;
  text-decoration: underline;
}

.said :focus-visible {
  outline-color: #fff;
}
</style>
