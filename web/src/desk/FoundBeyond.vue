<script setup lang="ts">
import { computed } from 'vue'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { people } from '@/composables/words'
import type { Beginning } from './beginning'

/** People, groups and areas by a few letters, with whom a thread can be begun. */
const props = defineProps<{ find: string }>()
defineEmits<{ begin: [how: Beginning] }>()

const { data } = useQuery({
  queryKey: ['find', computed(() => props.find)],
  queryFn: () => take(api.GET('/find', { params: { query: { search: props.find } } })),
  placeholderData: keepPreviousData,
})
const hits = computed(() => {
  if (!data.value) return []
  return [
    ...data.value.people.map((p) => ({
      name: p.name,
      note: p.detail,
      how: { with: 'one', person: p.id } satisfies Beginning as Beginning,
    })),
    ...data.value.units.map((u) => ({
      name: u.name,
      note: `area, ${people(u.people)}`,
      how: { with: 'area', unit: u.id } satisfies Beginning as Beginning,
    })),
    ...data.value.groups.map((g) => ({
      name: g.name,
      note: `group, ${people(g.people)}`,
      how: { with: 'group', group: g.id } satisfies Beginning as Beginning,
    })),
  ].slice(0, 12)
})
</script>

<template>
  <section v-if="hits.length" aria-label="On the roster">
    <h3>On the roster</h3>
    <ul>
      <li v-for="h in hits" :key="h.name + h.note">
        <button @click="$emit('begin', h.how)">
          <bdi>{{ h.name }}</bdi> <span class="quiet small">{{ h.note }}</span>
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h3 {
  font-size: 12px;
  color: var(--ink2);
  border-bottom: 1px solid var(--line);
  padding-bottom: 3px;
  margin: 12px 0 4px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

button {
  width: 100%;
  padding: 4px 10px;
  border: 0;
  border-radius: 6px;
  background: none;
  font: inherit;
  color: inherit;
  text-align: start;
  cursor: pointer;
}

button:hover {
  background: var(--pane);
}
</style>
