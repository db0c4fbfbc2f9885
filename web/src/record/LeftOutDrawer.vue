<script setup lang="ts">
import { computed } from 'vue'
import { useInfiniteQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import SideDrawer from '@/controls/SideDrawer.vue'

/** Who was named and got nothing, or was told through a guardian. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ message: number; title: string; note: string; told?: boolean }>()
const { show } = usePersonDrawer()
const pageSize = 200

const { data, error, hasNextPage, fetchNextPage } = useInfiniteQuery({
  queryKey: ['record', computed(() => props.message), 'left-out', computed(() => props.told)],
  queryFn: ({ pageParam }) =>
    take(
      api.GET('/messages/{id}/left-out', {
        params: {
          path: { id: props.message },
          query: { first: pageParam, count: pageSize, told: props.told ?? false },
        },
      }),
    ),
  initialPageParam: 0,
  getNextPageParam: (last, pages) =>
    pages.length * pageSize < last.all ? pages.length * pageSize : undefined,
  enabled: open,
})
const people = computed(() => data.value?.pages.flatMap((page) => page.people) ?? [])
</script>

<template>
  <SideDrawer v-model="open" :title="title" :note="note">
    <p v-if="error" class="bad">{{ error.message }}</p>
    <ul class="out">
      <li v-for="l in people" :key="l.name + l.reason + l.detail">
        <button class="link" :disabled="!l.person" @click="((open = false), show(l.person))">
          <bdi>{{ l.name }}</bdi>
        </button>
        <span :class="{ quiet: told }">{{ l.detail }}</span>
        <span v-if="!told" class="quiet small">{{ l.wayOut }}</span>
      </li>
    </ul>
    <button v-if="hasNextPage" class="link" @click="fetchNextPage()">Show more</button>
  </SideDrawer>
</template>

<style scoped>
.out {
  list-style: none;
  margin: 0;
  padding: 0;
}

.out li {
  display: flex;
  flex-direction: column;
  padding: 7px 0;
  border-bottom: 1px solid var(--hair);
}
</style>
