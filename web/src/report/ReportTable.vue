<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { writeSearch } from '@/outgoing/clauses'
import { isFigure, type Table } from './ask'

/** The figures of a report, each row leading to the messages that it counts. */
defineProps<{ table: Table; leads: boolean }>()

const place = (row: Schemas['Row']) => `/outgoing?find=${encodeURIComponent(writeSearch(row.to!) ?? '')}`
</script>

<template>
  <table class="plain sheet" :aria-label="table.title">
    <thead>
      <tr>
        <th v-for="(c, i) in table.columns" :key="i" :class="{ num: isFigure(c.kind) }" scope="col">
          {{ c.name }}
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, n) in table.rows" :key="n">
        <td v-for="(cell, i) in row.cells" :key="i" :class="{ num: isFigure(table.columns[i]!.kind) }">
          <router-link v-if="row.to && leads && i === 0" :to="place(row)" title="The messages that it counts"
            ><bdi>{{ cell.text }}</bdi></router-link
          >
          <bdi v-else>{{ cell.text }}</bdi>
        </td>
      </tr>
    </tbody>
    <tfoot v-if="table.total">
      <tr>
        <td
          v-for="(cell, i) in table.total.cells"
          :key="i"
          :class="{ num: isFigure(table.columns[i]!.kind) }"
        >
          {{ cell.text }}
        </td>
      </tr>
    </tfoot>
  </table>
</template>

<style scoped>
th {
  white-space: normal;
  vertical-align: bottom;
}

td {
  overflow-wrap: anywhere;
}

.num {
  white-space: nowrap;
}

th.num {
  white-space: normal;
}

tfoot td {
  font-weight: 650;
  border-top: 2px solid var(--line);
}
</style>
