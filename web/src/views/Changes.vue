<script setup lang="ts">
import { ref } from 'vue'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useSaid } from '@/composables/said'
import { useTimes } from '@/composables/session'
import { thousands } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PeopleTabs from '@/components/PeopleTabs.vue'
import SayNote from '@/components/SayNote.vue'

const pageSize = 200
const first = ref(0)
const { moment } = useTimes()
const { undo } = useSaid()
const { data, error } = useQuery({
  queryKey: ['roster', 'edits', first],
  queryFn: () => take(api.GET('/edits', { params: { query: { first: first.value, count: pageSize } } })),
  placeholderData: keepPreviousData,
})
const kinds = {
  edit: 'changed',
  add: 'added',
  remove: 'removed',
  merge: 'merged',
  import: 'loaded',
  undo: 'undone',
  update: 'corrected',
  set: 'set',
}
</script>

<template>
  <div class="page">
    <PageHead title="Changes" note="what was done to the roster and the settings, the newest first">
      <template #beside><PeopleTabs /></template>
    </PageHead>
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <EmptyNote v-if="data && !data.length" title="Nothing was changed yet">
      Every edit, file and merge stands here with who did it, and can be undone.
    </EmptyNote>
    <div v-else class="scroll">
      <table class="plain">
        <thead>
          <tr>
            <th>When</th>
            <th>Who</th>
            <th>What</th>
            <th>Kind</th>
            <th class="num">People</th>
            <th><span class="sr-only">Undo</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="e in data" :key="e.id" :class="{ undone: e.undone }">
            <td class="when">{{ moment(e.at) }}</td>
            <td>{{ e.by || 'the program' }}</td>
            <td class="said">{{ e.said }}</td>
            <td class="quiet">{{ kinds[e.kind] }}</td>
            <td class="num">{{ thousands(e.people) }}</td>
            <td class="act">
              <span v-if="e.undone" class="quiet small">undone</span>
              <router-link v-else-if="e.kind === 'set'" to="/settings">Settings</router-link>
              <button v-else class="link" @click="undo(e.id)">Undo</button>
            </td>
          </tr>
        </tbody>
      </table>
      <div class="row turn">
        <v-btn v-if="first" @click="first = Math.max(0, first - pageSize)">Newer</v-btn>
        <v-btn v-if="data?.length === pageSize" @click="first += pageSize">Older</v-btn>
      </div>
    </div>
  </div>
</template>

<style scoped>
.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
  background: var(--sheet);
}

.when {
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}

.said {
  overflow-wrap: anywhere;
}

.undone td {
  color: var(--ink2);
}

.undone .said {
  text-decoration: line-through;
}

.act {
  text-align: end;
}

.turn {
  padding: 10px 16px;
}
</style>
