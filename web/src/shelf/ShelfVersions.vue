<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Content } from '@/api/client'
import { useTimes } from '@/composables/session'

/** What a template or quick text said before, to be brought back. */
const props = defineProps<{ item: number; changeable: boolean }>()
const emit = defineEmits<{ bringBack: [content: Content] }>()

const times = useTimes()
const { data: versions } = useQuery({
  queryKey: computed(() => ['shelf-versions', props.item]),
  queryFn: () => take(api.GET('/shelf/{id}/versions', { params: { path: { id: props.item } } })),
})
const earlier = computed(() => versions.value?.slice(1) ?? [])
</script>

<template>
  <section v-if="earlier.length" aria-label="Earlier versions">
    <h2>Earlier versions</h2>
    <ul>
      <li v-for="v in earlier" :key="v.id" class="small">
        <b>{{ times.moment(v.at) }}</b> <span class="quiet">{{ v.by }}</span>
        <span class="quiet said" dir="auto">{{ v.plain }}</span>
        <button v-if="changeable" class="link" @click="emit('bringBack', v.content)">Bring back</button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h2 {
  font-size: 13.5px;
  margin-top: 16px;
}

ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 5px 0;
  border-bottom: 1px solid var(--hair);
}

.said {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
