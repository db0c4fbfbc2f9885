<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'
import { mdiClose } from '@mdi/js'

/** A drawer from the right; Escape closes it and the focus returns. */
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
  <Teleport to="body">
    <div v-if="open" class="veil" @click.self="open = false">
      <aside
        ref="panel"
        class="drawer"
        :class="{ wide }"
        role="dialog"
        aria-modal="true"
        :aria-label="title"
        tabindex="-1"
        @keydown.esc.stop="open = false"
      >
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
    </div>
  </Teleport>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  z-index: 1500;
  background: rgb(11 39 48 / 35%);
  color: var(--ink);
  font-family: var(--face);
}

.drawer {
  position: absolute;
  inset: 0 0 0 auto;
  width: min(440px, 92vw);
  background: var(--sheet);
  border-left: 1px solid var(--line);
  display: flex;
  flex-direction: column;
  outline: 0;
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
