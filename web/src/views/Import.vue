<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { count, people, thousands } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'

const props = defineProps<{ id?: string }>()
const router = useRouter()
const client = useQueryClient()
const number = computed(() => Number(props.id || 0))
const over = ref(false)

const { data, error } = useQuery({
  queryKey: ['import', number],
  queryFn: () => take(api.GET('/imports/{id}', { params: { path: { id: number.value } } })),
  enabled: computed(() => number.value > 0),
  // Events may be missed while loading.
  refetchInterval: (query) => (query.state.data?.state === 'loading' ? 1000 : false),
})

const keep = (view: Schemas['ImportView']) => client.setQueryData(['import', view.id], view)

const give = useMutation({
  mutationFn: (file: File) =>
    take(
      api.POST('/imports', {
        params: { query: { name: file.name } },
        body: file as unknown as string,
        bodySerializer: (body) => body as unknown as BodyInit,
        headers: { 'Content-Type': 'text/csv' },
      }),
    ),
  onSuccess: async (view) => {
    keep(view)
    await router.push(`/people/import/${view.id}`)
  },
})

const map = useMutation({
  mutationFn: (meanings: string[]) =>
    take(api.PUT('/imports/{id}/columns', { params: { path: { id: number.value } }, body: { meanings } })),
  onSuccess: keep,
})

const load = useMutation({
  mutationFn: () => take(api.POST('/imports/{id}/load', { params: { path: { id: number.value } } })),
  onSuccess: keep,
})

function mean(column: number, meaning: string) {
  const meanings = (data.value?.columns ?? []).map((c, i) => (i === column ? meaning : c.meaning))
  map.mutate(meanings)
}

function picked(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) give.mutate(file)
}

function dropped(event: DragEvent) {
  over.value = false
  const file = event.dataTransfer?.files[0]
  if (file) give.mutate(file)
}

const nothing = computed(
  () => data.value && !data.value.added && !data.value.changed && !data.value.groups.length,
)
const failed = computed(() =>
  [give.error.value, map.error.value, load.error.value, error.value].find(Boolean),
)
</script>

<template>
  <div class="page">
    <PageHead title="Load a roster file" :note="data ? data.fileName : ''">
      <v-btn to="/people">{{ data?.state === 'loaded' ? 'See people' : 'Back to people' }}</v-btn>
      <v-btn v-if="data" to="/people/import">Another file…</v-btn>
      <v-btn
        v-if="data?.state === 'proposed'"
        color="primary"
        variant="flat"
        :disabled="Boolean(data.problem) || Boolean(nothing) || load.isPending.value"
        @click="load.mutate()"
        >{{ data.added + data.changed ? `Load ${people(data.added + data.changed)}` : 'Load' }}</v-btn
      >
    </PageHead>
    <div class="body">
      <SayNote v-if="failed" kind="bad">{{ failed.message }}</SayNote>
      <label
        v-if="!number"
        class="drop sheet"
        :class="{ over }"
        @dragover.prevent="over = true"
        @dragleave="over = false"
        @drop.prevent="dropped"
      >
        <h2>Choose a CSV file, or drop it here</h2>
        <span class="quiet">
          People with their roles, language, numbers, mail addresses and groups; for dependents, their
          guardians. Commas, semicolons or tabs; UTF-8 or Windows. Nothing is loaded before you have seen how
          it was understood.
        </span>
        <input type="file" accept=".csv,.txt,.tsv,text/csv" @change="picked" />
        <span v-if="give.isPending.value" class="quiet">Reading…</span>
      </label>

      <template v-else-if="data?.state === 'loading'">
        <section class="sheet progress">
          <h2>Loading {{ data.fileName }}</h2>
          <progress :value="data.done" :max="data.total || 1" aria-label="Loading" />
          <span class="quiet num"
            >{{ thousands(data.done) }} of {{ thousands(data.total) }} people. You can leave this page; it
            goes on.</span
          >
        </section>
      </template>

      <EmptyNote v-else-if="data?.state === 'loaded'" :title="data.result">
        Every row of {{ data.fileName }} went in together. Loading the same file again changes nothing.
        <template #action><v-btn color="primary" variant="flat" to="/people">See people</v-btn></template>
      </EmptyNote>

      <template v-else-if="data">
        <SayNote v-if="data.result" kind="bad">{{ data.result }}</SayNote>
        <SayNote v-if="data.problem" kind="bad">{{ data.problem }}</SayNote>
        <SayNote v-else-if="nothing" kind="good"
          >Everybody in this file is on the roster already, just so. Loading it would change nothing.</SayNote
        >
        <section v-else class="figures sheet">
          <span
            ><b class="num">{{ thousands(data.added) }}</b> added</span
          >
          <span
            ><b class="num">{{ thousands(data.changed) }}</b> changed</span
          >
          <span
            ><b class="num">{{ thousands(data.unchanged) }}</b> unchanged</span
          >
          <span :class="{ bad: data.refusedAll }"
            ><b class="num">{{ thousands(data.refusedAll) }}</b> not loaded</span
          >
          <span :class="{ mind: data.notedAll }"
            ><b class="num">{{ thousands(data.notedAll) }}</b> cells left off</span
          >
          <span v-if="data.groups.length" class="groups quiet"
            >{{ count(data.groups.length, 'new group', 'new groups') }}: {{ data.groups.join(', ') }}</span
          >
        </section>

        <section>
          <PaneHead title="How the columns were understood" :note="data.read" />
          <div class="grid sheet">
            <table class="plain">
              <thead>
                <tr>
                  <th class="num">Line</th>
                  <th v-for="(c, i) in data.columns" :key="i" :class="{ aside: !c.meaning }">
                    <div class="heading" :title="c.heading">
                      <bdi>{{ c.heading || 'no heading' }}</bdi>
                    </div>
                    <select
                      :value="c.meaning"
                      :aria-label="`Meaning of column ${c.heading}`"
                      @change="mean(i, ($event.target as HTMLSelectElement).value)"
                    >
                      <option value="">left aside</option>
                      <option v-for="m in data.meanings" :key="m" :value="m">{{ m }}</option>
                    </select>
                  </th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="(line, r) in data.lines" :key="line">
                  <td class="num quiet">{{ line }}</td>
                  <td v-for="(c, i) in data.columns" :key="i" :class="{ aside: !c.meaning }">
                    <bdi>{{ c.first[r] }}</bdi>
                  </td>
                </tr>
              </tbody>
            </table>
          </div>
          <p class="quiet small under">
            The first {{ data.lines.length }} of {{ thousands(data.rows) }} rows.
          </p>
        </section>

        <div class="issues">
          <section v-if="data.refused.length">
            <PaneHead title="Rows that will not load" :note="count(data.refusedAll, 'row', 'rows')" />
            <table class="plain sheet">
              <thead>
                <tr>
                  <th class="num">Line</th>
                  <th>What it says</th>
                  <th>Why not</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="(issue, i) in data.refused" :key="i">
                  <td class="num">{{ issue.line }}</td>
                  <td>
                    <bdi>{{ issue.value }}</bdi>
                  </td>
                  <td>{{ issue.reason }}</td>
                </tr>
              </tbody>
            </table>
          </section>
          <section v-if="data.noted.length">
            <PaneHead title="Loaded, with something left off" :note="count(data.notedAll, 'cell', 'cells')" />
            <table class="plain sheet">
              <thead>
                <tr>
                  <th class="num">Line</th>
                  <th>Column</th>
                  <th>What it says</th>
                  <th>What is wrong</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="(issue, i) in data.noted" :key="i">
                  <td class="num">{{ issue.line }}</td>
                  <td>{{ issue.column }}</td>
                  <td>
                    <bdi>{{ issue.value }}</bdi>
                  </td>
                  <td>{{ issue.reason }}</td>
                </tr>
              </tbody>
            </table>
          </section>
          <section v-if="data.changes.length">
            <PaneHead title="People who change" :note="people(data.changed)" />
            <table class="plain sheet">
              <tbody>
                <tr v-for="c in data.changes" :key="c.line">
                  <td class="num">{{ c.line }}</td>
                  <td>
                    <bdi>{{ c.name }}</bdi>
                  </td>
                  <td>{{ c.changes.join('; ') }}</td>
                </tr>
              </tbody>
            </table>
          </section>
        </div>
      </template>
    </div>
  </div>
</template>

<style scoped>
.drop {
  border-style: dashed;
  border-width: 1.5px;
  padding: 44px;
  display: flex;
  flex-direction: column;
  gap: 10px;
  align-items: center;
  text-align: center;
}

.drop .quiet {
  max-width: 62ch;
}

.drop.over,
.drop:focus-within {
  border-color: var(--deep2);
  background: var(--pane);
}

.figures {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px 28px;
  padding: 8px 14px;
}

.figures b {
  font-size: 20px;
}

.mind {
  color: var(--lampink);
}

.groups {
  flex: 1 1 320px;
}

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

select {
  font: inherit;
  font-weight: 400;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid #8fa5ae;
  border-radius: 5px;
  padding: 3px 4px;
  min-width: 96px;
}

td {
  white-space: nowrap;
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}

.issues td {
  white-space: normal;
}

.aside {
  color: var(--ink3);
  background: var(--pane) !important;
}

.under {
  margin-top: 4px;
}

.issues {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(480px, 100%), 1fr));
  gap: 16px;
  align-items: start;
}

.progress {
  padding: 28px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}

.progress progress {
  width: 100%;
  accent-color: var(--sea);
}

.progress .num {
  text-align: start;
}
</style>
