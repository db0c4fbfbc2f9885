<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { refDebounced, useElementSize, useLocalStorage } from '@vueuse/core'
import { mdiTableColumn } from '@mdi/js'
import { api, take, type Condition, type Schemas } from '@/api/client'
import { rowHeight, usePeoplePages } from '@/composables/pages'
import { columns, type Order } from '@/composables/peopleColumns'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { useSelection } from '@/composables/selection'
import { useRights } from '@/composables/session'
import { thousands } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PeopleTabs from '@/components/PeopleTabs.vue'
import SayNote from '@/components/SayNote.vue'
import PeopleFilters from '@/roster/PeopleFilters.vue'
import PeopleTable from '@/roster/PeopleTable.vue'
import SelectionBar from '@/roster/SelectionBar.vue'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'

const route = useRoute()
const may = useRights()
const selection = useSelection()
const { fail } = useSaid()
const { add } = usePersonDrawer()

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

async function selectMatching() {
  try {
    const answer = await take(api.POST('/people/ids', { body: query.value }))
    selection.add(answer.ids)
  } catch (problem) {
    fail(problem)
  }
}
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
          <PeopleTable
            v-model:order="order"
            v-model:descending="descending"
            :columns="shownColumns"
            :rows="rows"
            :first="first"
            :matching="head?.matching ?? 0"
          />
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

.columns {
  padding: 8px 14px;
  display: flex;
  flex-direction: column;
  gap: 4px;
}
</style>
