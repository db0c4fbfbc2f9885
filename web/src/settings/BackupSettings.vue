<script setup lang="ts">
import { computed } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useTimes } from '@/composables/session'
import { bytes } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import SayNote from '@/components/SayNote.vue'

/** Where everything is kept a second time, and since when. */
const client = useQueryClient()
const { whole } = useTimes()
const key = ['backups']
const { data, error } = useQuery({
  queryKey: key,
  queryFn: () => take(api.GET('/backups')),
  refetchInterval: (query) => (query.state.data?.running ? 1000 : 60_000),
  staleTime: 0,
})
const make = useMutation({
  mutationFn: () => take(api.POST('/backups')),
  onSuccess: (state) => {
    client.setQueryData(key, state)
    void client.invalidateQueries({ queryKey: ['strip'] })
  },
})
const last = computed(() => data.value?.list[0])
const running = computed(() => make.isPending.value || data.value?.running)
</script>

<template>
  <SayNote v-if="error ?? make.error.value" kind="bad">{{ (error ?? make.error.value)?.message }}</SayNote>
  <EmptyNote v-if="data && !data.on" title="No backups are made here">
    Name a folder for them with --backups when the program is started.
  </EmptyNote>
  <div v-else-if="data" class="cols">
    <section class="sheet">
      <h2>Backups</h2>
      <SayNote v-if="data.problem" kind="bad">The last one failed: {{ data.problem }}.</SayNote>
      <SayNote v-else-if="data.missing && !running" kind="mind">
        There is no backup of the last two days.
      </SayNote>
      <p v-if="last">
        The last good one was made on <b>{{ whole(last.at) }}</b>. Each stands here only if it is whole and
        was read back.
      </p>
      <table v-if="data.list.length" class="plain">
        <thead>
          <tr>
            <th>Made</th>
            <th class="num">Size</th>
            <th>File</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="b in data.list" :key="b.name">
            <td>{{ whole(b.at) }}</td>
            <td class="num">{{ bytes(b.size) }}</td>
            <td class="quiet name">{{ b.name }}</td>
          </tr>
        </tbody>
      </table>
      <p v-else class="quiet">There is none yet.</p>
      <div class="row">
        <v-btn color="primary" variant="flat" :disabled="running" @click="make.mutate()">
          {{ running ? 'A backup is being made…' : 'Make one now' }}
        </v-btn>
      </div>
    </section>
    <section class="sheet">
      <h2>How it works</h2>
      <p class="small">
        One is made every day while the program runs. Those of the last 14 days are kept, and one of each of
        the last 8 weeks.
      </p>
      <h3>In</h3>
      <p class="small path">{{ data.folder }}</p>
      <p class="small quiet">
        A folder on another machine outlives this one: name it with --backups when the program is started.
        {{
          data.encrypted
            ? 'They are encrypted: only the secret key that belongs to yours opens them.'
            : 'They are not encrypted, and hold everything: keep them as safe as the program itself.'
        }}
      </p>
      <h3>To restore one</h3>
      <p class="small path">upper-lantern restore FILE FOLDER</p>
      <p class="small quiet">
        It makes a new data folder. What was under way when the backup was made may have left since: it waits
        there until somebody sends or stops it.
      </p>
    </section>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 12px;
  align-items: start;
}

section {
  padding: 12px 14px;
  display: grid;
  gap: 10px;
}

h2,
h3 {
  margin: 0;
}

h3 {
  font-size: 12.5px;
  color: var(--ink2);
}

.path,
.name {
  overflow-wrap: anywhere;
}

.path {
  background: var(--pane);
  border-radius: 4px;
  padding: 5px 9px;
}
</style>
