<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import SelectField from '@/controls/SelectField.vue'
import { withWords } from './many'

/** How the threads of a desk are arranged, and which of them are shown. */
const props = defineProps<{ desk: number }>()
const byName = defineModel<boolean>('byName', { required: true })
const language = defineModel<string>('language', { required: true })
const area = defineModel<number>('area', { required: true })
const kind = defineModel<'' | Schemas['ThreadRow']['with']>('with', { required: true })

const { data } = useQuery({
  queryKey: ['desks', computed(() => props.desk), 'with-whom'],
  queryFn: () => take(api.GET('/desks/{id}/with-whom', { params: { path: { id: props.desk } } })),
})
const orders = [
  { value: false, title: 'owed first' },
  { value: true, title: 'by name' },
]
const kinds = [
  { value: '', title: 'With…' },
  ...Object.entries(withWords).map(([value, title]) => ({ value, title })),
]
const languages = computed(() => [
  { value: '', title: 'Language…' },
  ...(data.value?.languages.map((l) => ({ value: l.value, title: l.words })) ?? []),
])
const areas = computed(() => [
  { value: 0, title: 'Area…' },
  ...(data.value?.areas.map((a) => ({ value: a.id, title: a.name })) ?? []),
])
</script>

<template>
  <div class="filter" role="group" aria-label="Which threads">
    <SelectField v-model="byName" :items="orders" aria-label="Arranged" />
    <SelectField v-model="kind" :items="kinds" aria-label="With whom" />
    <SelectField v-if="languages.length > 2" v-model="language" :items="languages" aria-label="Language" />
    <SelectField v-if="areas.length > 2" v-model="area" :items="areas" aria-label="Area" />
  </div>
</template>

<style scoped>
.filter {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 5px;
  margin-top: 6px;
}

.filter > :last-child:nth-child(odd) {
  grid-column: 1 / 3;
}
</style>
