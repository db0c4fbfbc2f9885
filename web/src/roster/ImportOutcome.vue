<script setup lang="ts">
import { api, download, type Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { count, people, thousands } from '@/composables/words'
import PaneHead from '@/components/PaneHead.vue'
import IssueTable from './IssueTable.vue'

/** What loading a file would do: which rows do not load, who changes, is new or missing. */
const props = defineProps<{ proposed: Schemas['ImportView'] }>()
const { show } = usePersonDrawer()
const { fail } = useSaid()

const refused = () =>
  download(
    api.GET('/imports/{id}/refused', { params: { path: { id: props.proposed.id } }, parseAs: 'blob' }),
  ).catch(fail)
</script>

<template>
  <div class="issues">
    <IssueTable
      v-if="proposed.refused.length"
      title="Rows that will not load"
      why="Why not"
      :note="count(proposed.refusedAll, 'row', 'rows')"
      :issues="proposed.refused"
    >
      <button class="link" @click="refused">Save them with their reasons…</button>
    </IssueTable>
    <IssueTable
      v-if="proposed.noted.length"
      title="Loaded, with something left off"
      why="What is wrong"
      :note="count(proposed.notedAll, 'cell', 'cells')"
      :issues="proposed.noted"
    />
    <section v-if="proposed.changes.length">
      <PaneHead title="People who change, field by field" :note="people(proposed.changed)" />
      <table class="plain sheet">
        <tbody>
          <tr v-for="c in proposed.changes" :key="c.person">
            <td>
              <button class="link" @click="show(c.person)">
                <bdi>{{ c.name }}</bdi>
              </button>
            </td>
            <td>
              <div v-for="(f, i) in c.changes" :key="i">
                <span class="quiet">{{ f.what }}:</span> <del v-if="f.from">{{ f.from }}</del>
                {{ f.from && f.to ? '→' : '' }} <ins v-if="f.to">{{ f.to }}</ins>
              </div>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section v-if="proposed.new.length">
      <PaneHead title="People who are new" :note="people(proposed.added)" />
      <table class="plain sheet">
        <tbody>
          <tr v-for="(p, i) in proposed.new.slice(0, 50)" :key="i">
            <td>
              <bdi>{{ p.name }}</bdi>
            </td>
            <td class="quiet">{{ p.detail }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="proposed.added > 50" class="quiet small under">
        and {{ thousands(proposed.added - 50) }} more
      </p>
    </section>
    <section v-if="proposed.missing.length">
      <PaneHead title="Not in the file" :note="proposed.markLeft ? 'will be marked as left' : 'left alone'" />
      <table class="plain sheet">
        <tbody>
          <tr v-for="p in proposed.missing.slice(0, 50)" :key="p.id">
            <td>
              <button class="link" @click="show(p.id)">
                <bdi>{{ p.name }}</bdi>
              </button>
            </td>
            <td class="quiet">{{ p.detail }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="proposed.missingAll > 50" class="quiet small under">
        and {{ thousands(proposed.missingAll - 50) }} more
      </p>
    </section>
  </div>
</template>

<style scoped>
td {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}

.issues {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(480px, 100%), 1fr));
  gap: 16px;
  align-items: start;
}
</style>
