<script setup lang="ts">
import { ref } from 'vue'
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { together } from '@/composables/addresses'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { dayWords, thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PageTurner from '@/components/PageTurner.vue'
import PeopleTabs from '@/components/PeopleTabs.vue'
import SayNote from '@/components/SayNote.vue'

type Side = Schemas['TwinSide']

const pageSize = 50
const first = ref(0)
const client = useQueryClient()
const { show } = usePersonDrawer()
const { done, fail, tell } = useSaid()
const { data, error } = useQuery({
  queryKey: ['roster', 'twins', first],
  queryFn: () => take(api.GET('/twins', { params: { query: { first: first.value, count: pageSize } } })),
  placeholderData: keepPreviousData,
})

async function merge(keep: Side, other: Side) {
  try {
    await done(await take(api.POST('/people/merge', { body: { keep: keep.id, others: [other.id] } })))
  } catch (problem) {
    fail(problem)
  }
}

async function apart(a: Side, b: Side) {
  try {
    await take(api.POST('/twins/apart', { body: { a: a.id, b: b.id } }))
    tell(`${a.name} and ${b.name} are two people. They are not shown here again.`)
    await client.invalidateQueries({ queryKey: ['roster', 'twins'] })
  } catch (problem) {
    fail(problem)
  }
}

const rows: { words: string; of: (s: Side) => string }[] = [
  { words: 'Id', of: (s) => s.externalId },
  { words: 'Roles', of: (s) => s.roles.join(', ') },
  { words: 'Unit', of: (s) => s.unit },
  { words: 'Reads', of: (s) => s.speaks },
  { words: 'Born on', of: (s) => dayWords(s.bornOn) },
  { words: 'Groups', of: (s) => s.groups.join(', ') },
  {
    words: 'Ties',
    of: (s) => s.ties.map((t) => `${t.guardian ? 'guardian' : 'dependent'} ${t.name}`).join(', '),
  },
]
const shared = (p: Schemas['TwinView'], value: string) =>
  p.a.addresses.some((a) => a.value === value) && p.b.addresses.some((a) => a.value === value)
</script>

<template>
  <div class="page">
    <PageHead
      title="Likely twins"
      :note="data ? `${thousands(data.all)} ${data.all === 1 ? 'pair' : 'pairs'}, the likeliest first` : ''"
    >
      <template #beside><PeopleTabs /></template>
    </PageHead>
    <div class="body">
      <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
      <EmptyNote v-if="data && !data.all" title="Nobody seems to be here twice">
        People who share a number or a mailbox and whose names are alike would stand here side by side.
      </EmptyNote>
      <p v-else class="quiet lead">
        Merging keeps every address, tie, group and message of both, and can be undone. Two people who only
        look alike are told apart for good with “They are two”.
      </p>
      <article v-for="p in data?.pairs" :key="`${p.a.id} ${p.b.id}`" class="pair sheet">
        <header>
          <span class="why" :class="{ likely: p.likely }">{{ p.reasons.join(', ') }}</span>
          <v-btn size="small" @click="apart(p.a, p.b)">They are two</v-btn>
        </header>
        <div class="sides">
          <table>
            <thead>
              <tr>
                <th><span class="sr-only">What</span></th>
                <th v-for="s in [p.a, p.b]" :key="s.id" scope="col">
                  <button class="link" @click="show(s.id)">
                    <bdi>{{ s.name }}</bdi>
                  </button>
                </th>
              </tr>
            </thead>
            <tbody>
              <tr>
                <th scope="row">Addresses</th>
                <td v-for="s in [p.a, p.b]" :key="s.id">
                  <div v-for="a in together(s.addresses)" :key="a.value" class="address">
                    <ChannelMark v-for="c in a.channels" :key="c" :channel="c" />
                    <span :class="{ same: shared(p, a.value) }">{{ a.shown }}</span>
                  </div>
                  <span v-if="!s.addresses.length" class="quiet">none</span>
                </td>
              </tr>
              <tr
                v-for="r in rows.filter((x) => x.of(p.a) || x.of(p.b))"
                :key="r.words"
                :class="{ differs: r.of(p.a) && r.of(p.b) && r.of(p.a) !== r.of(p.b) }"
              >
                <th scope="row">{{ r.words }}</th>
                <td v-for="s in [p.a, p.b]" :key="s.id">
                  <bdi v-if="r.of(s)">{{ r.of(s) }}</bdi>
                  <span v-else class="quiet">–</span>
                </td>
              </tr>
              <tr class="acts">
                <th><span class="sr-only">Merge</span></th>
                <td>
                  <v-btn size="small" @click="merge(p.a, p.b)">Merge into this one</v-btn>
                </td>
                <td>
                  <v-btn size="small" @click="merge(p.b, p.a)">Merge into this one</v-btn>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </article>
      <PageTurner v-model="first" :size="pageSize" :all="data?.all ?? 0" />
    </div>
  </div>
</template>

<style scoped>
.body {
  gap: 12px;
}

.lead {
  max-width: 80ch;
}

.pair {
  max-width: 980px;
}

header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  padding: 7px 12px;
  border-bottom: 1px solid var(--line);
}

.why {
  color: var(--ink2);
  border-inline-start: 3px solid var(--line);
  padding-inline-start: 8px;
}

.likely {
  color: var(--ink);
  border-color: var(--sea);
}

table {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}

th:first-child {
  width: 96px;
}

th,
td {
  text-align: start;
  vertical-align: top;
  padding: 4px 12px;
  overflow-wrap: anywhere;
}

tbody th {
  font-weight: 500;
  font-size: 12px;
  color: var(--ink2);
  padding-top: 5px;
}

thead th {
  padding-top: 8px;
}

.differs td {
  background: var(--pane);
  box-shadow: inset 2px 0 0 var(--slate);
}

.address {
  display: flex;
  align-items: center;
  gap: 5px;
  font-variant-numeric: tabular-nums;
}

.address :deep(.mark) {
  color: var(--slate);
}

.same {
  font-weight: 650;
}

.acts td,
.acts th {
  padding-block: 8px 10px;
}
</style>
