<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Draft, Schemas } from '@/api/client'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

/** The fields that can be put into a text, with words for when nothing fills them. */
const props = defineProps<{ fields: string[]; quick?: Schemas['ShelfView'][] }>()
const emit = defineEmits<{ insert: [text: string]; put: [body: Draft['email']] }>()

const atHand = 4
const open = ref(false)
const name = ref('')
const otherwise = ref('')
const chosen = computed(() => name.value || props.fields[0] || '')

const field = (of: string, words: string) => (words ? `{{${of}, else ${words}}}` : `{{${of}}}`)

function quickly(id: number) {
  const item = props.quick?.find((q) => q.id === id)
  if (item) emit('put', item.content.email)
}

function insert() {
  emit('insert', field(chosen.value, otherwise.value.trim()))
  otherwise.value = ''
}
</script>

<template>
  <div class="fields small" role="group" aria-label="Fields">
    <span class="quiet">Insert:</span>
    <button v-for="f in fields.slice(0, atHand)" :key="f" class="chip" @click="emit('insert', field(f, ''))">
      {{ f }}
    </button>
    <button class="link" :aria-expanded="open" @click="open = !open">
      {{ open ? 'Fewer' : 'More fields' }}
    </button>
    <SelectField
      v-if="quick?.length"
      class="push"
      aria-label="Quick text"
      :model-value="0"
      :items="[{ value: 0, title: 'Quick text…' }, ...quick.map((q) => ({ value: q.id, title: q.name }))]"
      @update:model-value="quickly"
    />
    <form v-if="open" @submit.prevent="insert">
      <SelectField
        :model-value="chosen"
        aria-label="Field"
        :items="fields.map((f) => ({ value: f, title: f }))"
        @update:model-value="name = $event"
      />
      <label
        >or, if there is nothing to fill it,
        <TextField v-model="otherwise" placeholder="other words" size="14"
      /></label>
      <button type="submit" class="link">Insert</button>
    </form>
  </div>
</template>

<style scoped>
.fields,
form {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: center;
}

form {
  width: 100%;
}

.chip {
  border: 0;
  border-radius: 3px;
  background: #e3edf0;
  color: var(--deep2);
  font: inherit;
  font-weight: 600;
  padding: 1px 6px;
  cursor: pointer;
}

.chip:hover {
  background: #d0e0e5;
}

.fields {
  --control-height: 26px;
}
</style>
