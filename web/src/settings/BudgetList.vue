<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import NumberField from '@/controls/NumberField.vue'
import SelectField from '@/controls/SelectField.vue'

/** What messages of each unit may cost in a month; unit 0 is the whole organisation. */
const budgets = defineModel<{ unit: number; month: number }[]>({ required: true })
const props = defineProps<{ units: Schemas['SettingsView']['units']; currency: string }>()

const unitLeft = computed(() =>
  [0, ...props.units.map((u) => u.id!)].find((id) => !budgets.value.some((b) => b.unit === id)),
)

function add() {
  if (unitLeft.value !== undefined) budgets.value.push({ unit: unitLeft.value, month: 10 })
}
</script>

<template>
  <h2>Monthly budgets</h2>
  <p class="quiet small">
    What messages of a unit’s accounts may cost, in {{ currency }}. Going over it warns.
  </p>
  <ul>
    <li v-for="(b, i) in budgets" :key="i">
      <SelectField
        v-model="b.unit"
        class="whose"
        :aria-label="`Whose budget ${i + 1} is`"
        :items="[
          { value: 0, title: 'The whole organisation' },
          ...units.map((u) => ({ value: u.id, title: u.path })),
        ]"
      />
      <NumberField v-model="b.month" min="0.01" step="0.01" :aria-label="`Budget ${i + 1}`" />
      <button type="button" class="link small" @click="budgets.splice(i, 1)">Take away</button>
    </li>
  </ul>
  <button v-if="unitLeft !== undefined" type="button" class="link" @click="add">Add a budget</button>
</template>

<style scoped>
h2 {
  margin: 0;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  padding: 4px 0;
  border-bottom: 1px solid var(--hair);
}

.whose {
  width: 190px;
}
</style>
