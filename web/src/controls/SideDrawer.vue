<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'
import { mdiClose } from '@mdi/js'

/** A drawer from the end of the line; Escape closes it and the focus returns. */
const open = defineModel<boolean>({ required: true })
defineProps<{ title: string; note?: string; wide?: boolean }>()

const panel = ref<HTMLElement>()
let before: Element | null = null

async function turn(now: boolean) {
  if (!now) {
    if (before instanceof HTMLElement) before.focus()
    return
  }
  before = document.activeElement
  await nextTick()
  panel.value?.focus()
}
watch(open, turn, { immediate: true })
</script>

<template>
  <!-- The focus may leave it for what can be undone, which stands above it. -->
  <v-dialog
    v-model="open"
    class="beside"
    width="100%"
    max-width="100%"
    :aria-label="title"
    :retain-focus="false"
    transition="slide-x-reverse-transition"
  >
    <aside ref="panel" class="drawer" :class="{ wide }" tabindex="-1">
      <header>
        <div>
          <h2>
            <bdi>{{ title }}</bdi>
          </h2>
          <span class="quiet small">{{ note }}</span>
        </div>
        <span class="row acts"><slot name="actions" /></span>
        <v-btn :icon="mdiClose" variant="text" size="small" aria-label="Close" @click="open = false" />
      </header>
      <div class="inside"><slot /></div>
    </aside>
  </v-dialog>
</template>

<style scoped>
.drawer {
  position: absolute;
  inset: 0 0 0 auto;
  width: min(440px, 92vw);
  background: var(--sheet);
  border-left: 1px solid var(--line);
  color: var(--ink);
  font-family: var(--face);
  display: flex;
  flex-direction: column;
  outline: 0;
  pointer-events: auto;
}

.drawer.wide {
  width: min(560px, 94vw);
}

.acts {
  margin-inline-start: auto;
}

header {
  display: flex;
  gap: 12px;
  padding: 14px 16px 10px;
  border-bottom: 1px solid var(--line);
}

.inside {
  overflow-y: auto;
  padding: 12px 16px 20px;
}
</style>

<style>
.beside > .v-overlay__content {
  position: absolute;
  inset: 0;
  margin: 0;
  max-height: none;
  pointer-events: none;
}
</style>
