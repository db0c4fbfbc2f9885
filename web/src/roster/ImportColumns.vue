<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { thousands } from '@/composables/words'
import SelectField from '@/controls/SelectField.vue'

/** The first rows of a file, and what each column is taken for. */
defineProps<{ proposed: Schemas['ImportView'] }>()
defineEmits<{ mean: [column: number, meaning: string] }>()
</script>

<template>
  <div>
    <div class="grid sheet" tabindex="0" role="region" aria-label="The first rows of the file">
      <table class="plain">
        <thead>
          <tr>
            <th class="num">Line</th>
            <th v-for="(c, i) in proposed.columns" :key="i" :class="{ aside: !c.meaning }">
              <div class="heading" :title="c.heading">
                <bdi>{{ c.heading || 'no heading' }}</bdi>
              </div>
              <SelectField
                :model-value="c.meaning"
                :class="{ wide: c.meaning.startsWith('guardian ') }"
                :aria-label="`Meaning of column ${c.heading}`"
                :items="[
                  { value: '', title: 'left aside' },
                  ...proposed.meanings.map((m) => ({ value: m, title: m.replace('attribute: ', '') })),
                ]"
                @update:model-value="$emit('mean', i, $event)"
              />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(at, r) in proposed.places" :key="r">
            <td class="num quiet">{{ at.sheet ? `${at.sheet} ` : '' }}{{ at.line }}</td>
            <td v-for="(c, i) in proposed.columns" :key="i" :class="{ aside: !c.meaning }">
              <bdi>{{ c.first[r] }}</bdi>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="quiet small under">
      The first {{ proposed.places.length }} of {{ thousands(proposed.rows) }} rows.
    </p>
  </div>
</template>

<style scoped>
.grid {
  overflow-x: auto;
}

.heading {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
  color: var(--ink);
  margin-bottom: 4px;
}

.under {
  margin-top: 4px;
}

th .control {
  width: 136px;
  font-weight: 400;
}

th .control.wide {
  width: 186px;
}

td {
  white-space: nowrap;
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}

.aside {
  color: var(--ink3);
  background: var(--pane) !important;
}
</style>
