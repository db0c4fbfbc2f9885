<script setup lang="ts">
import { computed, ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { useElementSize } from '@vueuse/core'
import { api, take } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { stateWords, channelWords } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import MarkLegend from '@/components/MarkLegend.vue'
import { readMarks } from './marks'

/** Everybody who gets a message, one mark each. */
const props = defineProps<{ message: number; undecided: boolean }>()
const { show } = usePersonDrawer()

const { data } = useQuery({
  queryKey: ['record', computed(() => props.message), 'marks'],
  queryFn: () => take(api.GET('/messages/{id}/marks', { params: { path: { id: props.message } } })),
  staleTime: 0,
})
const marks = computed(() => (data.value ? readMarks(data.value) : []))

const markWidth = 18
const rowHeight = 18
const field = ref<HTMLElement>()
const { width } = useElementSize(field)
const perRow = computed(() => Math.max(1, Math.floor((width.value - 14) / markWidth)))
const rows = computed(() =>
  Array.from({ length: Math.ceil(marks.value.length / perRow.value) }, (_, i) => i * perRow.value),
)
const height = computed(() => Math.min(rows.value.length, 10) * rowHeight)

const pointed = ref(-1)
const { data: found } = useQuery({
  queryKey: ['record', computed(() => props.message), 'recipient', pointed],
  queryFn: () => recipientAt(pointed.value),
  enabled: computed(() => pointed.value >= 0),
})

function recipientAt(first: number) {
  return take(
    api.GET('/messages/{id}/recipients', {
      params: { path: { id: props.message }, query: { first, count: 1 } },
    }),
  )
}

async function open(index: number) {
  const person = (await recipientAt(index)).recipients[0]?.person
  if (person) show(person)
}

const words = computed(() => {
  const mark = marks.value[pointed.value]
  if (!mark) return 'by step, then by name'
  const name = found.value?.recipients[0]?.name
  return `${name ?? '…'}: ${channelWords[mark.channel].toLowerCase()}, ${stateWords[mark.state]}`
})
</script>

<template>
  <section class="card sheet">
    <div class="cap">
      <h3>Everybody, one mark each</h3>
      <bdi class="quiet small">{{ words }}</bdi>
    </div>
    <div ref="field" class="marks" role="group" aria-label="Marks" @mouseleave="pointed = -1">
      <v-virtual-scroll :items="rows" :item-height="rowHeight" :height="height">
        <template #default="{ item: from }">
          <div class="strand">
            <button
              v-for="(mark, i) in marks.slice(from, from + perRow)"
              :key="from + i"
              class="dot"
              tabindex="-1"
              @mouseenter="pointed = from + i"
              @click="open(from + i)"
            >
              <ChannelMark :channel="mark.channel" :state="mark.state" />
            </button>
          </div>
        </template>
      </v-virtual-scroll>
    </div>
    <MarkLegend :undecided="undecided" />
  </section>
</template>

<style scoped>
.card {
  padding: 9px 12px;
}

.cap {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  margin-bottom: 6px;
}

.strand {
  display: flex;
  height: 18px;
}

.dot {
  border: 0;
  background: none;
  padding: 0;
  width: 18px;
  line-height: 0;
  cursor: pointer;
  text-align: start;
}
</style>
