<script setup lang="ts">
import { computed, ref } from 'vue'
import { mdiClose } from '@mdi/js'
import { people } from '@/composables/words'
import TextField from '@/controls/TextField.vue'
import FindBox, { type Found } from '@/components/FindBox.vue'
import type { Beginning } from './beginning'

/** With whom a new thread is. */
defineProps<{ name: string }>()
const emit = defineEmits<{ begin: [how: Beginning] }>()

const chosen = ref<Found[]>([])
const called = ref('')

function pick(found: Found) {
  if (found.kind === 'group') emit('begin', { with: 'group', group: found.id })
  else if (found.kind === 'unit') emit('begin', { with: 'area', unit: found.id })
  else if (!chosen.value.some((c) => c.id === found.id)) chosen.value.push(found)
}
const with_ = computed(() => chosen.value.map((c) => c.id))
function begin() {
  const [first] = with_.value
  if (with_.value.length === 1 && first) emit('begin', { with: 'one', person: first })
  else emit('begin', { with: 'people', people: with_.value, name: called.value })
}
</script>

<template>
  <form class="new" aria-label="New thread" @submit.prevent="begin">
    <FindBox
      class="whom"
      :kinds="['person', 'group', 'unit']"
      label="People one after the other, or a group or an area"
      @pick="pick"
    />
    <span v-for="c in chosen" :key="c.id" class="chip small">
      <bdi>{{ c.name }}</bdi>
      <button
        type="button"
        class="icon"
        :aria-label="`Without ${c.name}`"
        @click="chosen = chosen.filter((o) => o.id !== c.id)"
      >
        <v-icon :icon="mdiClose" size="13" />
      </button>
    </span>
    <TextField
      v-if="chosen.length > 1"
      v-model="called"
      class="called"
      maxlength="120"
      aria-label="What it is called"
      placeholder="A name, or none: called after them"
    />
    <v-btn v-if="chosen.length" type="submit" color="primary" variant="flat">
      {{ chosen.length > 1 ? `Begin with ${people(chosen.length)}` : 'Begin' }}
    </v-btn>
    <button v-else type="button" class="link small" @click="$emit('begin', { with: 'everybody' })">
      With everybody whom {{ name }} reaches
    </button>
  </form>
</template>

<style scoped>
.new {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
  padding: 10px 20px;
  border-bottom: 1px solid var(--line);
  background: var(--pane);
}

.whom {
  flex: 0 1 360px;
}

.called {
  flex: 0 1 240px;
}

.chip {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 5px;
  padding: 3px 4px 3px 8px;
}
</style>
