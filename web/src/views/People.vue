<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { refDebounced, useElementSize, useLocalStorage } from '@vueuse/core'
import { mdiArrowDown, mdiArrowUp, mdiTableColumn } from '@mdi/js'
import { api, take, type Condition, type Person, type Schemas } from '@/api/client'
import { rowHeight, usePeoplePages } from '@/composables/pages'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { useSelection } from '@/composables/selection'
import { useRights } from '@/composables/session'
import { dayWords, thousands } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PeopleTabs from '@/components/PeopleTabs.vue'
import PersonAddresses from '@/person/PersonAddresses.vue'
import SayNote from '@/components/SayNote.vue'
import PeopleFilters from '@/roster/PeopleFilters.vue'
import SelectionBar from '@/roster/SelectionBar.vue'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'

type Order = NonNullable<Schemas['Query']['order']>
interface Column {
  key: string
  words: string
  order?: Order
}

const columns: Column[] = [
  { key: 'roles', words: 'Roles' },
  { key: 'unit', words: 'Unit', order: 'unit' },
  { key: 'addresses', words: 'Can be reached by' },
  { key: 'reads', words: 'Reads', order: 'language' },
  { key: 'groups', words: 'Groups' },
  { key: 'reached', words: 'Last reached', order: 'reached' },
  { key: 'status', words: 'Status', order: 'status' },
  { key: 'id', words: 'Id' },
]

const route = useRoute()
const may = useRights()
const selection = useSelection()
const { fail } = useSaid()
const { show, add } = usePersonDrawer()

const typed = ref(String(route.query.search ?? ''))
const search = refDebounced(typed, 150)
const rule = ref<Condition[]>(fromRoute())
const order = ref<Order>('name')
const descending = ref(false)
const visible = useLocalStorage('people columns', ['roles', 'unit', 'addresses', 'reads', 'groups'])
const shownColumns = computed(() => columns.filter((c) => visible.value.includes(c.key)))

/** A page that sends somebody here says whom it means. */
function fromRoute(): Condition[] {
  try {
    return JSON.parse(String(route.query.rule ?? '[]')) as Condition[]
  } catch {
    return []
  }
}
watch(
  () => route.query.rule,
  () => (rule.value = fromRoute()),
)

const query = computed<Schemas['Query']>(() => ({
  ...(search.value.trim() ? { search: search.value.trim() } : {}),
  ...(rule.value.length ? { rule: rule.value } : {}),
  order: order.value,
  descending: descending.value,
}))
const { head, rows, onScreen, first, top, height, error } = usePeoplePages(query)

const scroller = useTemplateRef('scroller')
const { height: inner } = useElementSize(scroller)
watch(inner, (now) => (height.value = Math.max(rowHeight, now - rowHeight)))
watch(query, () => scroller.value?.scrollTo({ top: 0 }))

const note = computed(() => {
  if (!head.value) return ''
  const { matching, all } = head.value
  return matching === all ? `${thousands(all)} people` : `${thousands(matching)} of ${thousands(all)} people`
})
const narrowed = computed(() => Boolean(search.value.trim()) || rule.value.length > 0)

function sort(by?: Order) {
  if (!by) return
  descending.value = order.value === by ? !descending.value : by === 'reached'
  order.value = by
}
const sorted = (by?: Order) =>
  by && order.value === by ? (descending.value ? 'descending' : 'ascending') : undefined

async function selectMatching() {
  try {
    const answer = await take(api.POST('/people/ids', { body: query.value }))
    selection.add(answer.ids)
  } catch (problem) {
    fail(problem)
  }
}

const cell = (p: Person, key: string) =>
  ({
    roles: p.roles.join(', '),
    unit: p.unit.split(' › ').at(-1),
    reads: p.speaks,
    groups: p.groups.join(', '),
    reached: dayWords(p.reachedOn),
    status: p.status === 'away' && p.awayUntil ? `away until ${dayWords(p.awayUntil)}` : p.status,
    id: p.externalId,
  })[key] ?? ''
</script>

<template>
  <div class="page">
    <PageHead title="People" :note="note">
      <template #beside><PeopleTabs /></template>
      <v-menu :close-on-content-click="false">
        <template #activator="{ props: menu }">
          <v-btn v-bind="menu" :prepend-icon="mdiTableColumn">Columns</v-btn>
        </template>
        <div class="columns sheet">
          <label v-for="c in columns" :key="c.key"
            ><CheckBox v-model="visible" :value="c.key" /> {{ c.words }}</label
          >
        </div>
      </v-menu>
      <v-btn v-if="may('edit-people')" color="primary" variant="flat" @click="add()">Add somebody…</v-btn>
    </PageHead>
    <SayNote v-if="error" kind="bad" class="note">{{ error }}</SayNote>
    <EmptyNote v-if="head && head.all === 0" title="Nobody is on the roster yet">
      Load a file from your member list or school office: names, roles, languages, numbers, mail addresses,
      groups and guardians. Or add people one by one.
      <template v-if="may('edit-people')" #action
        ><v-btn color="primary" variant="flat" to="/people/import">Load a roster file…</v-btn></template
      >
    </EmptyNote>
    <div v-else class="panes">
      <aside class="side">
        <TextField
          v-model="typed"
          placeholder="Name, number, mail or id"
          aria-label="Search people"
          clearable
          @click:clear="typed = ''"
        />
        <PeopleFilters v-model="rule" :filters="head?.filters ?? []" />
      </aside>
      <div class="main">
        <EmptyNote v-if="head && head.matching === 0" title="Nobody matches">
          The search looks at names, ids, numbers and mail addresses; each filter narrows down what the ones
          before it left.
          <template #action
            ><v-btn v-if="narrowed" @click="((typed = ''), (rule = []))">Show everybody</v-btn></template
          >
        </EmptyNote>
        <div
          v-else
          ref="scroller"
          class="scroll"
          tabindex="0"
          role="region"
          aria-label="People"
          @scroll.passive="top = ($event.target as HTMLElement).scrollTop"
        >
          <table class="plain" :aria-rowcount="(head?.matching ?? 0) + 1">
            <thead>
              <tr>
                <th class="tick"><span class="sr-only">Selected</span></th>
                <th :aria-sort="sorted('name')" class="name">
                  <button class="sort" @click="sort('name')">
                    Name
                    <v-icon
                      v-if="order === 'name'"
                      :icon="descending ? mdiArrowUp : mdiArrowDown"
                      size="13"
                    />
                  </button>
                </th>
                <th v-for="c in shownColumns" :key="c.key" :aria-sort="sorted(c.order)" :class="c.key">
                  <button v-if="c.order" class="sort" @click="sort(c.order)">
                    {{ c.words }}
                    <v-icon
                      v-if="order === c.order"
                      :icon="descending ? mdiArrowUp : mdiArrowDown"
                      size="13"
                    />
                  </button>
                  <template v-else>{{ c.words }}</template>
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-if="first" aria-hidden="true" :style="{ height: `${first * rowHeight}px` }" />
              <tr
                v-for="{ index, person: p } in rows"
                :key="index"
                class="go"
                :class="{ on: p && selection.has(p.id) }"
                :aria-rowindex="index + 2"
                @click="p && show(p.id)"
              >
                <template v-if="p">
                  <td class="tick" @click.stop>
                    <CheckBox
                      :model-value="selection.has(p.id)"
                      :aria-label="`Select ${p.name}`"
                      @update:model-value="selection.toggle(p.id)"
                    />
                  </td>
                  <td class="name">
                    <button class="link" @click.stop="show(p.id)">
                      <bdi>{{ p.name }}</bdi>
                    </button>
                    <span v-if="p.knownAs" class="quiet small"
                      >“<bdi>{{ p.knownAs }}</bdi
                      >”</span
                    >
                    <span v-if="p.status !== 'active'" class="mind small">{{ p.status }}</span>
                    <span v-if="p.guest" class="quiet small">of another unit</span>
                  </td>
                  <td v-for="c in shownColumns" :key="c.key" :class="c.key" :title="cell(p, c.key)">
                    <PersonAddresses v-if="c.key === 'addresses'" :person="p" />
                    <bdi v-else>{{ cell(p, c.key) }}</bdi>
                  </td>
                </template>
                <td v-else :colspan="shownColumns.length + 2" class="quiet">…</td>
              </tr>
              <tr
                v-if="head && rows.length"
                aria-hidden="true"
                :style="{ height: `${Math.max(0, head.matching - first - rows.length) * rowHeight}px` }"
              />
            </tbody>
          </table>
        </div>
        <SelectionBar
          :on-screen="onScreen"
          :matching="head?.matching ?? 0"
          :narrowed="narrowed"
          @matching="selectMatching"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.note {
  margin: 12px 16px;
}

.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template: minmax(0, 1fr) / 256px minmax(0, 1fr);
}

.side {
  overflow-y: auto;
  padding: 12px 14px;
  border-inline-end: 1px solid var(--line);
  display: flex;
  flex-direction: column;
  gap: 4px;
}

.side .control {
  flex: none;
  margin-bottom: 10px;
}

.main {
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
  background: var(--sheet);
}

.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
  outline-offset: -2px;
}

table.plain {
  table-layout: fixed;
  min-width: 880px;
}

table.plain th {
  z-index: 2;
  height: 33px;
  box-sizing: border-box;
}

table.plain td {
  height: 33px;
  box-sizing: border-box;
  padding-block: 0;
  vertical-align: middle;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}

table.plain .tick {
  width: 40px;
  overflow: visible;
}

th.name {
  width: 19%;
}

th.addresses {
  width: 31%;
}

th.reads {
  width: 13.5%;
}

th.roles,
th.unit {
  width: 100px;
}

th.status,
th.reached {
  width: 110px;
}

td.name {
  display: flex;
  align-items: center;
  gap: 7px;
}

td.name .link {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

tr.on td {
  background: #e3edf0 !important;
}

.sort {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  color: inherit;
  cursor: pointer;
  display: inline-flex;
  align-items: center;
  gap: 3px;
}

.columns {
  padding: 8px 14px;
  display: flex;
  flex-direction: column;
  gap: 4px;
}
</style>
