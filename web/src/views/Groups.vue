<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { people, thousands } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PageTurner from '@/components/PageTurner.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'

const pageSize = 200
const route = useRoute()
const router = useRouter()
const { show } = usePersonDrawer()
const typed = ref('')
const first = ref(0)

const { data: groups, error } = useQuery({ queryKey: ['groups'], queryFn: () => take(api.GET('/groups')) })

const shown = computed(() => {
  const wanted = typed.value.trim().toLowerCase()
  return (groups.value ?? []).filter((g) => g.name.toLowerCase().includes(wanted))
})
const open = computed(() => Number(route.query.group ?? 0))
const group = computed(() => groups.value?.find((g) => g.id === open.value))
watch(open, () => (first.value = 0))

const { data: inside } = useQuery({
  queryKey: ['groups', open, 'people', first],
  queryFn: () =>
    take(
      api.GET('/groups/{id}/people', {
        params: { path: { id: open.value }, query: { first: first.value, count: pageSize } },
      }),
    ),
  enabled: computed(() => open.value > 0),
  placeholderData: keepPreviousData,
})

const choose = (id: number) => router.replace({ query: { group: id } })
</script>

<template>
  <div class="page">
    <PageHead title="Groups" :note="groups ? `${shown.length} of ${groups.length} groups` : ''">
      <template #beside>
        <v-text-field
          v-model="typed"
          class="search"
          placeholder="Group name"
          aria-label="Search groups"
          clearable
          @click:clear="typed = ''"
        />
      </template>
      <v-btn v-if="group" :to="{ path: '/write/new', query: { group: group.id } }"
        >Write to {{ group.name }}</v-btn
      >
    </PageHead>
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <EmptyNote v-if="groups && !groups.length" title="There are no groups yet">
      A column of a roster file that names squads, classes or teams makes them: write “Junior squads &gt; U14”
      to put one inside another.
      <template #action
        ><v-btn color="primary" variant="flat" to="/people/import">Load a roster file…</v-btn></template
      >
    </EmptyNote>
    <div v-else class="panes">
      <div class="scroll">
        <table class="plain">
          <thead>
            <tr>
              <th>Group</th>
              <th class="num">Picked for it</th>
              <th class="num">With groups inside</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="g in shown"
              :key="g.id"
              class="go"
              :class="{ on: g.id === open }"
              @click="choose(g.id)"
            >
              <td :style="{ paddingInlineStart: `${16 + (typed ? 0 : g.depth * 20)}px` }">
                <button class="link" :aria-pressed="g.id === open" @click.stop="choose(g.id)">
                  <bdi>{{ g.name }}</bdi>
                </button>
                <span v-if="g.inside.length" class="quiet small"> holds {{ g.inside.length }} groups</span>
              </td>
              <td class="num">{{ g.own ? thousands(g.own) : '–' }}</td>
              <td class="num">{{ thousands(g.people) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <aside>
        <template v-if="group">
          <PaneHead :title="group.name" :note="people(group.people)" />
          <table class="plain">
            <tbody>
              <tr v-for="p in inside?.people" :key="p.id" class="go" @click="show(p.id)">
                <td>
                  <button class="link" @click.stop="show(p.id)">
                    <bdi>{{ p.name }}</bdi>
                  </button>
                </td>
                <td class="quiet small">
                  {{ p.detail === group.name ? '' : p.detail.replace(`${group.name} › `, '') }}
                </td>
              </tr>
            </tbody>
          </table>
          <PageTurner v-model="first" :size="pageSize" :all="inside?.all ?? 0" />
        </template>
        <EmptyNote v-else title="Choose a group"
          >Its people stand here, each once, with the group that holds them.</EmptyNote
        >
      </aside>
    </div>
  </div>
</template>

<style scoped>
.search {
  flex: 0 1 260px;
}

.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(300px, 42%);
}

.scroll {
  overflow: auto;
  background: var(--sheet);
  border-right: 1px solid var(--line);
}

aside {
  overflow: auto;
  background: var(--pane);
  padding: 12px 16px;
}

aside table.plain {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-bottom: 0;
}

tr.on td {
  background: #e3edf0 !important;
}
</style>
