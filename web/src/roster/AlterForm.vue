<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { people } from '@/composables/words'
import DayField from '@/controls/DayField.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

/** One thing that is set for many people. */
const props = defineProps<{ choices: Schemas['ChoicesView']; count: number }>()
type Alteration = Schemas['Alteration']
const emit = defineEmits<{ alter: [alteration: Alteration] }>()

const what = ref<Alteration['do']>('attribute')
const attribute = ref(props.choices.attributes[0]?.id ?? 0)
const value = ref('')
const until = ref('')
const chosen = computed(() => props.choices.attributes.find((a) => a.id === attribute.value))
watch([what, attribute], () => (value.value = what.value === 'status' ? 'away' : ''))

const alteration = computed<Alteration>(() => {
  switch (what.value) {
    case 'attribute':
      return { do: 'attribute', attribute: attribute.value, value: value.value }
    case 'status':
      return {
        do: 'status',
        value: value.value,
        ...(value.value === 'away' && until.value ? { until: until.value } : {}),
      }
    case 'unit':
      return { do: 'unit', unit: Number(value.value) || 0 }
    default:
      return { do: what.value, value: value.value }
  }
})
</script>

<template>
  <form @submit.prevent="emit('alter', alteration)">
    <label class="field"
      ><span>What</span>
      <SelectField
        v-model="what"
        :items="[
          { value: 'attribute', title: 'an attribute' },
          { value: 'status', title: 'status' },
          { value: 'role', title: 'give a role' },
          { value: 'no-role', title: 'take a role away' },
          { value: 'unit', title: 'unit' },
          { value: 'language', title: 'language' },
        ]"
    /></label>
    <label v-if="what === 'attribute'" class="field"
      ><span>Attribute</span>
      <SelectField
        v-model="attribute"
        :items="choices.attributes.map((a) => ({ value: a.id, title: a.name }))"
    /></label>
    <label class="field"
      ><span>To</span>
      <SelectField
        v-if="what === 'attribute' && chosen?.kind === 'choice'"
        v-model="value"
        :items="[
          { value: '', title: 'nothing' },
          ...(chosen.choices ?? []).map((c) => ({ value: c, title: c })),
        ]"
      />
      <SelectField
        v-else-if="what === 'attribute' && chosen?.kind === 'yes-no'"
        v-model="value"
        :items="[
          { value: '', title: 'nothing' },
          { value: 'yes', title: 'yes' },
          { value: 'no', title: 'no' },
        ]"
      />
      <DayField v-else-if="what === 'attribute' && chosen?.kind === 'date'" v-model="value" />
      <TextField v-else-if="what === 'attribute'" v-model="value" />
      <SelectField
        v-else-if="what === 'status'"
        v-model="value"
        :items="[
          { value: 'active', title: 'active' },
          { value: 'away', title: 'away' },
          { value: 'left', title: 'left' },
        ]"
      />
      <SelectField
        v-else-if="what === 'unit'"
        v-model="value"
        :items="[
          { value: '', title: 'the whole organisation' },
          ...choices.units.map((u) => ({ value: String(u.id), title: u.path })),
        ]"
      />
      <SelectField
        v-else-if="what === 'language'"
        v-model="value"
        :items="choices.languages.map((l) => ({ value: l.value, title: l.words }))"
      />
      <SelectField v-else v-model="value" :items="choices.roles.map((r) => ({ value: r, title: r }))" />
    </label>
    <label v-if="what === 'status' && value === 'away'" class="field"
      ><span>Last day away, if it is known</span><DayField v-model="until"
    /></label>
    <div class="row">
      <v-btn type="submit" color="primary" variant="flat">Set it for {{ people(count) }}</v-btn>
    </div>
  </form>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 14px;
}
</style>
