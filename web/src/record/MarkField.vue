<script setup lang="ts">
import { computed, ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { useElementSize } from '@vueuse/core'
import { api, take } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { stateWords, channelWords, thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import MarkLegend from '@/components/MarkLegend.vue'
import DensityField from './DensityField.vue'
import { mostMarks, readMarks, type Patch } from './marks'

/** Everybody who gets a message, one mark each. */
const props = defineProps<{ message: number; undecided: boolean }>()
const { show } = usePersonDrawer()

const { data } = useQuery({
  queryKey: ['record', computed(() => props.message), 'marks'],
  queryFn: () => take(api.GET('/messages/{id}/marks', { params: { path: { id: props.message } } })),
  staleTime: 0,
})
const everybody = computed(() => (data.value ? readMarks(data.value) : []))

/** Too many to be seen are put together; one patch of them is opened at a time. */
const patch = ref<Patch>()
const dense = computed(() => everybody.value.length > mostMarks && !patch.value)
const first = computed(() => patch.value?.from ?? 0)
const marks = computed(() => everybody.value.slice(first.value, patch.value?.to ?? everybody.value.length))
const pointedWords = ref('')

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
  queryFn: () => recipientAt(first.value + pointed.value),
  enabled: computed(() => pointed.value >= 0),
})

function recipientAt(at: number) {
  return take(
    api.GET('/messages/{id}/recipients', {
      params: { path: { id: props.message }, query: { first: at, count: 1 } },
    }),
  )
}

async function open(index: number) {
  const person = (await recipientAt(first.value + index)).recipients[0]?.person
  if (person) show(person)
}

const words = computed(() => {
  if (dense.value) return pointedWords.value || 'by step, then by name'
  const mark = marks.value[pointed.value]
  if (!mark) return 'by step, then by name'
  const name = found.value?.recipients[0]?.name
  return `${name ?? '…'}: ${channelWords[mark.channel].toLowerCase()}, ${stateWords[mark.state]}`
})
</script>

<template>
  <section class="card sheet">
    <div class="cap">
      <h3 v-if="dense">Everybody, many to a patch</h3>
      <h3 v-else-if="patch">
        {{ thousands(patch.from + 1) }} to {{ thousands(patch.to) }} of {{ thousands(everybody.length) }}
        <button class="link small" @click="patch = undefined">Everybody again</button>
      </h3>
      <h3 v-else>Everybody, one mark each</h3>
      <bdi class="quiet small">{{ words }}</bdi>
    </div>
    <div ref="field" class="marks" role="group" aria-label="Marks" @mouseleave="pointed = -1">
      <DensityField
        v-if="dense"
        :marks="everybody"
        :per-row="perRow"
        @open="((patch = $event), (pointed = -1))"
        @point="pointedWords = $event"
      />
      <v-virtual-scroll v-else :items="rows" :item-height="rowHeight" :height="height">
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
    <p v-if="dense" class="quiet small key">
      green reached, grey under way, red failed, slate stopped; a patch opens to its marks
    </p>
    <MarkLegend v-else :undecided="undecided" />
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

.key {
  margin: 6px 0 0;
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
