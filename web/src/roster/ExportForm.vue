<script setup lang="ts">
import { ref, watch } from 'vue'
import { useMutation, useQuery } from '@tanstack/vue-query'
import { api, download, take, type Schemas } from '@/api/client'
import { people as counted } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SelectField from '@/controls/SelectField.vue'

/** Saves people, their addresses or all groups as a file. */
const props = defineProps<{ people: number[] }>()
const emit = defineEmits<{ saved: [] }>()

const { data: columns } = useQuery({
  queryKey: ['roster', 'columns'],
  queryFn: () => take(api.GET('/export/columns')),
})
const what = ref<Schemas['ExportRequest']['what']>('people')
const format = ref<Schemas['ExportRequest']['format']>('csv')
const without = ref<string[]>([])
watch(what, (now) => now !== 'people' && format.value === 'vcf' && (format.value = 'csv'))
const save = useMutation({
  mutationFn: () =>
    download(
      api.POST('/export', {
        body: {
          people: props.people,
          what: what.value,
          format: format.value,
          columns: (columns.value ?? []).filter((c) => !without.value.includes(c)),
        },
        parseAs: 'blob',
      }),
    ),
  onSuccess: () => emit('saved'),
})
</script>

<template>
  <form @submit.prevent="save.mutate()">
    <SayNote v-if="save.error.value" kind="bad">{{ save.error.value.message }}</SayNote>
    <label class="field"
      ><span>List</span>
      <SelectField
        v-model="what"
        :items="[
          { value: 'people', title: 'people, a row each: can be loaded again' },
          { value: 'addresses', title: 'their addresses, a row each' },
          { value: 'groups', title: 'all groups, a row each' },
        ]"
    /></label>
    <label class="field"
      ><span>Format</span>
      <SelectField
        v-model="format"
        :items="[
          { value: 'csv', title: 'CSV (any spreadsheet)' },
          { value: 'xlsx', title: 'XLSX (workbook)' },
          ...(what === 'people' ? [{ value: 'vcf', title: 'vCard 4 (address books)' }] : []),
        ]"
    /></label>
    <fieldset v-if="what === 'people'">
      <legend>Columns</legend>
      <label v-for="c in columns" :key="c" class="tickbox"
        ><CheckBox
          :model-value="!without.includes(c)"
          @update:model-value="
            without = without.includes(c) ? without.filter((w) => w !== c) : [...without, c]
          "
        />
        {{ c.replace('attribute: ', '') }}</label
      >
    </fieldset>
    <div class="row">
      <v-btn type="submit" color="primary" variant="flat" :disabled="save.isPending.value"
        >Save {{ what === 'groups' ? 'the groups' : counted(people.length) }}</v-btn
      >
    </div>
  </form>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 14px;
}

fieldset {
  border: 1px solid var(--line);
  border-radius: 6px;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 3px 12px;
  padding: 8px 12px;
}

legend {
  font-size: 12px;
  font-weight: 600;
  color: var(--ink2);
}
</style>
