<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { refDebounced, useElementSize, useLocalStorage } from '@vueuse/core'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
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
import PaneHead from '@/components/PaneHead.vue'
import PeopleTabs from '@/components/PeopleTabs.vue'
import PersonAddresses from '@/components/PersonAddresses.vue'
import RuleStack from '@/components/RuleStack.vue'
import SayNote from '@/components/SayNote.vue'
import SelectionBar from '@/roster/SelectionBar.vue'

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
const router = useRouter()
const client = useQueryClient()
const may = useRights()
const selection = useSelection()
const { done, fail } = useSaid()
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

const { data: kept } = useQuery({
  queryKey: ['roster', 'filters'],
  queryFn: () => take(api.GET('/filters')),
})
const keepName = ref('')
const naming = ref<'filters' | 'group'>()

async function name() {
  try {
    if (naming.value === 'filters') {
      await take(api.POST('/filters', { body: { name: keepName.value, rule: rule.value } }))
    } else {
      const group = await take(
        api.POST('/groups', { body: { name: keepName.value, kind: 'rule', rule: rule.value } }),
      )
      await done({ said: `made the group ${keepName.value}`, edit: 0 })
      await router.push({ name: 'groups', query: { group: group.id } })
    }
    await client.invalidateQueries({ queryKey: ['roster'] })
    naming.value = undefined
    keepName.value = ''
  } catch (problem) {
    fail(problem)
  }
}

async function forget(id: number) {
  await take(api.DELETE('/filters/{id}', { params: { path: { id } } })).catch(fail)
  await client.invalidateQueries({ queryKey: ['roster', 'filters'] })
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
            ><input v-model="visible" type="checkbox" :value="c.key" /> {{ c.words }}</label
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
        <v-text-field
          v-model="typed"
          placeholder="Name, number, mail or id"
          aria-label="Search people"
          clearable
          @click:clear="typed = ''"
        />
        <PaneHead
          title="Filters"
          :note="rule.length ? 'people left after each' : 'none: everybody is shown'"
        />
        <RuleStack v-model="rule" :filters="head?.filters ?? []" />
        <div v-if="rule.length && may('edit-people')" class="keep">
          <form v-if="naming" class="sheet" @submit.prevent="name" @keydown.esc.stop="naming = undefined">
            <input
              v-model="keepName"
              :aria-label="naming === 'group' ? 'Name of the group' : 'Name of the filters'"
              :placeholder="naming === 'group' ? 'Name of the group' : 'Name of the filters'"
              maxlength="100"
            />
            <div class="row">
              <v-btn type="submit" color="primary" variant="flat" :disabled="!keepName.trim()">{{
                naming === 'group' ? 'Make the group' : 'Keep'
              }}</v-btn>
              <v-btn @click="naming = undefined">Never mind</v-btn>
            </div>
          </form>
          <template v-else>
            <button class="link" @click="naming = 'group'">Make a group by this rule…</button>
            <button class="link" @click="naming = 'filters'">Keep these filters…</button>
            <button class="link" @click="rule = []">Take all away</button>
          </template>
        </div>
        <template v-if="kept?.length">
          <PaneHead title="Kept filters" :note="String(kept.length)" class="gap" />
          <ul>
            <li v-for="k in kept" :key="k.id">
              <button class="link" :title="k.words" @click="rule = [...k.rule]">
                <bdi>{{ k.name }}</bdi>
              </button>
              <button
                v-if="may('edit-people')"
                class="link small forget"
                :aria-label="`Forget ${k.name}`"
                @click="forget(k.id)"
              >
                Forget
              </button>
            </li>
          </ul>
        </template>
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
                    <input
                      type="checkbox"
                      :checked="selection.has(p.id)"
                      :aria-label="`Select ${p.name}`"
                      @change="selection.toggle(p.id)"
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

.side .v-text-field {
  flex: none;
  margin-bottom: 10px;
}

.keep {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 5px;
  margin-top: 12px;
  border-top: 1px solid var(--line);
  padding-top: 10px;
}

.keep form {
  padding: 10px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  align-self: stretch;
}

.gap {
  margin-top: 18px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 3px 0;
}

.forget {
  font-weight: 500;
  color: var(--ink2);
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

.tick {
  width: 40px;
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
