<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { people } from '@/composables/words'

/** Who is in a group or an area, with each of whom a thread can be begun. */
const props = defineProps<{ on: 'group' | 'unit'; id: number }>()
defineEmits<{ begin: [person: number] }>()
const shown = 30

const { data } = useQuery({
  queryKey: ['people', 'inside', computed(() => `${props.on} ${props.id}`)],
  queryFn: () =>
    take(
      api.POST('/people/search', {
        params: { query: { count: shown } },
        body: { rule: [{ on: props.on, test: 'is', id: props.id }] },
      }),
    ),
})
</script>

<template>
  <ul v-if="data" class="inside">
    <li v-for="p in data.people" :key="p.id">
      <button class="link small" @click="$emit('begin', p.id)">
        <bdi>{{ p.name }}</bdi>
      </button>
    </li>
    <li v-if="data.matching > data.people.length" class="quiet small">
      and {{ people(data.matching - data.people.length) }} more; their names find them
    </li>
  </ul>
</template>

<style scoped>
ul.inside {
  list-style: none;
  margin: 0;
  padding: 0 0 4px 22px;
}

.inside .link {
  font-weight: 500;
}
</style>
