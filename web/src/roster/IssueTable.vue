<script setup lang="ts">
import type { Schemas } from '@/api/client'
import PaneHead from '@/components/PaneHead.vue'

/** What cannot be taken as it stands, with its place and the reason. */
defineProps<{ title: string; note: string; why: string; issues: Schemas['Issue'][] }>()
</script>

<template>
  <section>
    <PaneHead :title="title" :note="note" />
    <table class="plain sheet">
      <thead>
        <tr>
          <th class="num">Line</th>
          <th>What it says</th>
          <th>{{ why }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(issue, i) in issues" :key="i">
          <td class="num at">{{ issue.sheet ? `${issue.sheet} ` : '' }}{{ issue.line }}</td>
          <td>
            <bdi>{{ issue.value }}</bdi>
            <span v-if="issue.column" class="quiet small column">{{ issue.column }}</span>
          </td>
          <td>{{ issue.reason }}</td>
        </tr>
      </tbody>
    </table>
    <p class="under"><slot /></p>
  </section>
</template>

<style scoped>
.at {
  white-space: nowrap;
}

td {
  overflow-wrap: anywhere;
}

.column {
  margin-inline-start: 6px;
}

.under {
  margin-top: 6px;
}
</style>
