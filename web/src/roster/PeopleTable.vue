<script setup lang="ts">
import { mdiArrowDown, mdiArrowUp } from '@mdi/js'
import type { Person } from '@/api/client'
import { rowHeight, type Row } from '@/composables/pages'
import type { Column, Order } from '@/composables/peopleColumns'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSelection } from '@/composables/selection'
import { dayWords } from '@/composables/words'
import PersonAddresses from '@/person/PersonAddresses.vue'
import CheckBox from '@/controls/CheckBox.vue'

/** The rows of people that are on screen, with room for those before and after them. */
defineProps<{
  columns: Column[]
  rows: Row[]
  /** How many rows stand before those on screen. */
  first: number
  matching: number
}>()
const order = defineModel<Order>('order', { required: true })
const descending = defineModel<boolean>('descending', { required: true })
const selection = useSelection()
const { show } = usePersonDrawer()

function sort(by?: Order) {
  if (!by) return
  descending.value = order.value === by ? !descending.value : by === 'reached'
  order.value = by
}
const sorted = (by?: Order) =>
  by && order.value === by ? (descending.value ? 'descending' : 'ascending') : undefined

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
  <table class="plain" :aria-rowcount="matching + 1">
    <thead>
      <tr>
        <th class="tick"><span class="sr-only">Selected</span></th>
        <th :aria-sort="sorted('name')" class="name">
          <button class="sort" @click="sort('name')">
            Name
            <v-icon v-if="order === 'name'" :icon="descending ? mdiArrowUp : mdiArrowDown" size="13" />
          </button>
        </th>
        <th v-for="c in columns" :key="c.key" :aria-sort="sorted(c.order)" :class="c.key">
          <button v-if="c.order" class="sort" @click="sort(c.order)">
            {{ c.words }}
            <v-icon v-if="order === c.order" :icon="descending ? mdiArrowUp : mdiArrowDown" size="13" />
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
          <td v-for="c in columns" :key="c.key" :class="c.key" :title="cell(p, c.key)">
            <PersonAddresses v-if="c.key === 'addresses'" :person="p" />
            <bdi v-else>{{ cell(p, c.key) }}</bdi>
          </td>
        </template>
        <td v-else :colspan="columns.length + 2" class="quiet">…</td>
      </tr>
      <tr
        v-if="rows.length"
        aria-hidden="true"
        :style="{ height: `${Math.max(0, matching - first - rows.length) * rowHeight}px` }"
      />
    </tbody>
  </table>
</template>

<style scoped>
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
</style>
