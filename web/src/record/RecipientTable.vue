<script setup lang="ts">
import { computed, ref } from 'vue'
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { api, take } from '@/api/client'
import { useTimes } from '@/composables/session'
import { count, stateWords, thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import TextField from '@/controls/TextField.vue'
import StoryDrawer from './StoryDrawer.vue'

/** What became of a message for each of its recipients. */
const props = defineProps<{ message: number; recipients: number }>()
const told = ref(0)
const telling = ref(false)
const times = useTimes()

const outcomes = [
  { is: '', words: 'everybody' },
  { is: 'reached', words: 'reached' },
  { is: 'waiting', words: 'waiting' },
  { is: 'not-reached', words: 'not reached' },
  { is: 'stopped', words: 'stopped' },
] as const

const only = ref<(typeof outcomes)[number]['is']>('')
const typed = ref('')
const words = refDebounced(typed, 200)
const pageSize = 100

const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({
  queryKey: ['record', computed(() => props.message), 'recipients', only, words],
  queryFn: ({ pageParam }) =>
    take(
      api.GET('/messages/{id}/recipients', {
        params: {
          path: { id: props.message },
          query: { first: pageParam, count: pageSize, outcome: only.value, words: words.value },
        },
      }),
    ),
  initialPageParam: 0,
  getNextPageParam: (last, pages) => {
    const known = pages.reduce((sum, page) => sum + page.recipients.length, 0)
    return known < last.all ? known : undefined
  },
  placeholderData: keepPreviousData,
  staleTime: 0,
})
const rows = computed(() => data.value?.pages.flatMap((page) => page.recipients) ?? [])
const all = computed(() => data.value?.pages[0]?.all ?? 0)
</script>

<template>
  <section class="card sheet">
    <div class="tools">
      <TextField v-model="typed" type="search" placeholder="Name or address" aria-label="Search recipients" />
      <div class="only" role="group" aria-label="Show only">
        <button v-for="o in outcomes" :key="o.is" :aria-pressed="only === o.is" @click="only = o.is">
          {{ o.words }}
        </button>
      </div>
      <span class="quiet small push num">{{ thousands(all) }} of {{ thousands(recipients) }}</span>
    </div>
    <p v-if="error" class="bad">{{ error.message }}</p>
    <div class="scroll">
      <table class="plain">
        <thead>
          <tr>
            <th>Person</th>
            <th>Went to</th>
            <th>Reads</th>
            <th>Last heard</th>
            <th class="num">When</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="r in rows" :key="r.id">
            <tr v-for="(d, i) in r.deliveries" :key="i" :class="{ more: i > 0 }">
              <td v-if="i === 0" :rowspan="r.deliveries.length">
                <button class="link" :title="r.why" @click="((told = r.id), (telling = true))">
                  <bdi>{{ r.name }}</bdi>
                </button>
              </td>
              <td>
                <span class="line"><ChannelMark :channel="d.channel" :state="d.state" />{{ d.address }}</span>
              </td>
              <td v-if="i === 0" :rowspan="r.deliveries.length">{{ r.speaks }}</td>
              <td :class="{ bad: d.state === 'failed' || d.state === 'expired' }">
                {{ d.detail || stateWords[d.state]
                }}<template v-if="d.state === 'retrying'"
                  >; tried {{ count(d.attempts, 'time', 'times') }}, will be again</template
                >
              </td>
              <td class="num">{{ times.exact(d.at) }}</td>
            </tr>
          </template>
        </tbody>
      </table>
      <button v-if="hasNextPage" class="link further" :disabled="isFetchingNextPage" @click="fetchNextPage()">
        Show more
      </button>
      <p v-if="data && !rows.length" class="quiet further">Nobody here.</p>
    </div>
    <StoryDrawer v-model="telling" :message="message" :recipient="told" />
  </section>
</template>

<style scoped>
.card {
  padding: 9px 12px;
}

.tools {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 6px;
}

.only {
  display: flex;
  border: 1px solid var(--line);
  border-radius: 6px;
  overflow: hidden;
}

.only button {
  border: 0;
  background: none;
  font: inherit;
  font-size: 12.5px;
  padding: 4px 10px;
  color: var(--ink2);
  cursor: pointer;
}

.only button[aria-pressed='true'] {
  background: var(--deep2);
  color: #fff;
}

.scroll {
  overflow-x: auto;
}

td:first-child bdi {
  overflow-wrap: normal;
}

.line {
  display: flex;
  align-items: center;
  gap: 6px;
}

tr.more td:first-child {
  padding-inline-start: 10px;
}

tr:has(+ tr.more) td:not([rowspan]) {
  border-bottom-color: transparent;
}

.further {
  padding: 10px;
}

.tools .control {
  width: 200px;
}
</style>
