<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { mdiClose, mdiPlus } from '@mdi/js'
import { api, take } from '@/api/client'
import { useRights } from '@/composables/session'
import FileMenu from '@/components/FileMenu.vue'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'
import DayField from '@/controls/DayField.vue'
import SelectField from '@/controls/SelectField.vue'
import ClauseForm from '@/outgoing/ClauseForm.vue'
import KeepForm from '@/report/KeepForm.vue'
import ReportTable from '@/report/ReportTable.vue'
import { narrows, readAsk, spans, whole, type Ask } from '@/report/ask'

const ReportChart = defineAsyncComponent(() => import('@/report/ReportChart.vue'))

/** What messages came to; what is asked for stands in the page's address. */
const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const may = useRights()
const sees = computed(() => may('write') || may('read-records'))

const ask = computed(() => readAsk(route.query.ask))
function change(to: Partial<Ask>) {
  const next = { ...ask.value, ...to }
  if (!narrows(next)) delete next.conditions
  void router.replace({ query: { ask: JSON.stringify(next) } })
}

const { data: offered } = useQuery({
  queryKey: ['reports'],
  queryFn: () => take(api.GET('/reports')),
})
const { data: searches } = useQuery({
  queryKey: ['searches'],
  queryFn: () => take(api.GET('/searches')),
  enabled: sees,
})
const {
  data: table,
  error,
  isFetching,
} = useQuery({
  queryKey: ['reports', 'run', ask],
  queryFn: () => take(api.POST('/reports/run', { body: ask.value })),
  enabled: computed(() => whole(ask.value)),
  placeholderData: keepPreviousData,
  staleTime: 0,
  retry: false,
})

const conditions = computed(() => ask.value.conditions ?? [])
const words = (i: number) => table.value?.about[i + 1] ?? '…'
const adding = ref(false)
const keeping = ref(false)

const here = (of: Ask) => JSON.stringify(of) === JSON.stringify(ask.value)
const keptHere = computed(() => offered.value?.kept.find((k) => k.own && here(k.ask)))
const forget = useMutation({
  mutationFn: (id: number) => take(api.DELETE('/reports/{id}', { params: { path: { id } } })),
  onSettled: () => client.invalidateQueries({ queryKey: ['reports'] }),
})
</script>

<template>
  <div class="page">
    <PageHead :title="table?.title ?? 'Reports'" :note="table?.about[0]">
      <FileMenu v-if="whole(ask)" :what="{ report: ask }" />
      <v-btn @click="keeping = true">Keep and mail…</v-btn>
    </PageHead>
    <div class="sides">
      <nav class="list" aria-label="Reports">
        <PaneHead title="Reports" />
        <button
          v-for="k in offered?.kinds"
          :key="k.by"
          class="kind"
          :class="{ on: ask.by === k.by }"
          :aria-current="ask.by === k.by ? 'true' : undefined"
          @click="change({ by: k.by })"
        >
          {{ k.title }}
        </button>
        <template v-if="offered?.kept.length">
          <PaneHead title="Kept" class="kept" />
          <div v-for="k in offered.kept" :key="k.id" class="one">
            <button class="kind" :class="{ on: here(k.ask) }" @click="change({ conditions: [], ...k.ask })">
              <bdi>{{ k.name }}</bdi>
              <span v-if="k.readers.length" class="quiet small"
                >mailed to {{ k.readers.length }} each month</span
              >
            </button>
            <button v-if="k.own" class="drop" :aria-label="`Forget ${k.name}`" @click="forget.mutate(k.id)">
              <v-icon :icon="mdiClose" size="14" />
            </button>
          </div>
        </template>
      </nav>
      <div class="body" :aria-busy="isFetching">
        <div class="row asked">
          <SelectField
            :model-value="ask.span.of"
            class="span"
            aria-label="Which days"
            :items="spans"
            @update:model-value="change({ span: { of: $event } })"
          />
          <template v-if="ask.span.of === 'days'">
            <DayField
              :model-value="ask.span.from"
              aria-label="The first day"
              @update:model-value="change({ span: { ...ask.span, from: $event } })"
            />
            to
            <DayField
              :model-value="ask.span.until"
              aria-label="The last day"
              @update:model-value="change({ span: { ...ask.span, until: $event } })"
            />
          </template>
          <button v-if="sees && narrows(ask) && !adding" class="link more" @click="adding = true">
            <v-icon :icon="mdiPlus" size="15" /> Only some messages
          </button>
          <span v-for="(c, i) in conditions" :key="i" class="clause sheet">
            <bdi>{{ words(i) }}</bdi>
            <button
              class="drop"
              :aria-label="`Take away: ${words(i)}`"
              @click="change({ conditions: conditions.filter((o) => o !== c) })"
            >
              <v-icon :icon="mdiClose" size="14" />
            </button>
          </span>
        </div>
        <ClauseForm
          v-if="adding"
          :senders="searches?.senders ?? []"
          @close="adding = false"
          @add="((adding = false), change({ conditions: [...conditions, $event] }))"
        />
        <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
        <template v-else-if="table">
          <ReportChart :table="table" />
          <ReportTable :table="table" :leads="sees" />
          <ul v-if="table.notes.length" class="quiet small notes">
            <li v-for="n in table.notes" :key="n">{{ n }}</li>
          </ul>
        </template>
      </div>
    </div>
    <KeepForm
      v-if="keeping"
      v-model="keeping"
      :ask="ask"
      :readers="offered?.readers ?? []"
      :kept="keptHere"
    />
  </div>
</template>

<style scoped>
.sides {
  display: grid;
  grid-template-columns: 216px minmax(0, 1fr);
  min-height: 100%;
}

.list {
  padding: 12px 10px;
  background: var(--pane);
  border-inline-end: 1px solid var(--line);
  display: flex;
  flex-direction: column;
  gap: 1px;
}

.kind {
  display: grid;
  width: 100%;
  border: 0;
  border-inline-start: 3px solid transparent;
  background: none;
  padding: 6px 9px;
  font: inherit;
  color: var(--ink);
  text-align: start;
  cursor: pointer;
}

.kind:hover {
  background: var(--hair);
}

.kind.on {
  border-color: var(--lamp);
  background: var(--sheet);
  font-weight: 650;
}

.kept {
  margin-top: 14px;
}

.one {
  display: flex;
  align-items: center;
}

.body {
  padding: 12px 16px 24px;
  overflow-x: auto;
}

.asked {
  flex-wrap: wrap;
  gap: 8px 12px;
}

.span {
  width: 200px;
}

.more {
  display: inline-flex;
  align-items: center;
  gap: 3px;
}

.clause {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  padding: 3px 6px 3px 10px;
}

.drop {
  border: 0;
  background: none;
  padding: 0 4px;
  color: var(--ink2);
  cursor: pointer;
}

.notes {
  list-style: none;
  margin: 0;
  padding: 0 2px;
  display: grid;
  gap: 3px;
}
</style>
