<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useChoices, useGroups } from '@/composables/choices'
import FindBox, { type Found } from '@/components/FindBox.vue'
import CheckBox from '@/controls/CheckBox.vue'
import DayField from '@/controls/DayField.vue'
import FindField from '@/controls/FindField.vue'
import NumberField from '@/controls/NumberField.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'
import { complete, options, subjects, type Clause, type On } from './clauses'

/** One more condition on the messages that are looked for. */
const props = defineProps<{ senders: Schemas['Colleague'][] }>()
const emit = defineEmits<{ add: [clause: Clause]; close: [] }>()

const { data: choices } = useChoices()
const { data: groups } = useGroups()

const clause = ref<Clause>({ on: 'sender' })
const person = ref('')

function choose(on: On) {
  person.value = ''
  clause.value = { on, ...(options[on] ? { value: options[on][0]!.value } : {}) }
  if (on === 'last') clause.value.days = 30
}

const named = computed(() => {
  if (clause.value.on === 'sender') return props.senders.map((s) => ({ value: s.id, title: s.name }))
  if (clause.value.on === 'unit')
    return choices.value?.units.map((u) => ({ value: u.id, title: u.path })) ?? []
  if (clause.value.on === 'group')
    return groups.value?.filter((g) => !g.unnamed).map((g) => ({ value: g.id ?? 0, title: g.name })) ?? []
  return undefined
})

function pick(found: Found) {
  clause.value.id = found.id
  person.value = found.name
}

function add() {
  if (complete(clause.value)) emit('add', clause.value)
}
</script>

<template>
  <form class="form sheet" @submit.prevent="add" @keydown.esc.stop="emit('close')">
    <SelectField
      :model-value="clause.on"
      aria-label="What the condition looks at"
      :items="subjects.map((s) => ({ value: s.on, title: s.words }))"
      @update:model-value="choose($event)"
    />
    <FindField v-if="named" v-model="clause.id" :items="named" placeholder="which?" aria-label="Which" />
    <SelectField
      v-else-if="options[clause.on]"
      v-model="clause.value"
      :items="options[clause.on]!"
      aria-label="Which"
    />
    <template v-else-if="clause.on === 'person'">
      <span v-if="person" class="row"
        ><b
          ><bdi>{{ person }}</bdi></b
        >
        <button type="button" class="link small" @click="((person = ''), delete clause.id)">
          Another
        </button></span
      >
      <FindBox v-else :kinds="['person']" label="A person's name" @pick="pick" />
    </template>
    <TextField
      v-else-if="clause.on === 'address'"
      v-model="clause.value"
      aria-label="Number or mailbox"
      placeholder="+44 7700 900417"
      maxlength="300"
    />
    <template v-else-if="clause.on === 'days'">
      <DayField v-model="clause.from" aria-label="The first day" />
      <span class="quiet">to</span>
      <DayField v-model="clause.until" aria-label="The last day" />
    </template>
    <NumberField
      v-else-if="clause.on === 'last'"
      v-model="clause.days"
      min="1"
      max="3660"
      aria-label="How many days"
    />
    <label class="row small"
      ><CheckBox v-model="clause.not" /> those instead for which it does not hold</label
    >
    <span class="row push">
      <v-btn type="submit" color="primary" variant="flat" :disabled="!complete(clause)">Add</v-btn>
      <v-btn @click="emit('close')">Never mind</v-btn>
    </span>
  </form>
</template>

<style scoped>
.form {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 8px 10px;
}

.form > .control {
  width: 210px;
}
</style>
