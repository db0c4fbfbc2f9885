<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useQueryClient } from '@tanstack/vue-query'
import { mdiArrowDown, mdiArrowUp, mdiDragVertical } from '@mdi/js'
import { api, take, type Group } from '@/api/client'
import { useGroups } from '@/composables/choices'
import { moved, useDragOrder } from '@/composables/dragOrder'
import { useSaid } from '@/composables/said'
import { useRights } from '@/composables/session'
import { thousands } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'
import GroupForm from '@/roster/GroupForm.vue'
import GroupPane from '@/roster/GroupPane.vue'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'

const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const may = useRights()
const { fail } = useSaid()
const { data: groups, error } = useGroups()

const typed = ref('')
const archived = ref(false)
const ordering = ref(false)
const making = ref(false)

const open = computed(() => Number(route.query.group ?? 0))
const group = computed(() => groups.value?.find((g) => g.id === open.value))
const choose = (id: number) => {
  making.value = false
  void router.replace({ query: { group: id } })
}
watch(open, () => (making.value = false))

const hidden = (g: Group) => g.archived || Boolean(g.closed)
const shown = computed(() => {
  const wanted = typed.value.trim().toLowerCase()
  const list = (groups.value ?? []).filter(
    (g) => g.name.toLowerCase().includes(wanted) && (archived.value || !hidden(g) || g.id === open.value),
  )
  return ordering.value ? list.sort((a, b) => a.rank - b.rank) : list
})
const put = computed(() => (groups.value ?? []).filter(hidden).length)

const kinds = { picked: '', rule: 'by rule', job: 'job' }

const list = useTemplateRef('list')
const orderable = computed(() => (ordering.value ? list.value : undefined))
async function move(from: number, to: number) {
  const ids = moved(shown.value, from, to).map((g) => g.id!)
  try {
    await take(api.POST('/groups/order', { body: { groups: ids } }))
  } catch (problem) {
    fail(problem)
  }
  await client.invalidateQueries({ queryKey: ['roster', 'groups'] })
}
useDragOrder(orderable, (from, to) => void move(from, to))

function key(event: KeyboardEvent, i: number) {
  if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return
  event.preventDefault()
  void move(i, event.key === 'ArrowUp' ? i - 1 : i + 1)
}
</script>

<template>
  <div class="page">
    <PageHead title="Groups" :note="groups ? `${shown.length} of ${groups.length} groups` : ''">
      <template #beside>
        <TextField
          v-model="typed"
          class="search"
          placeholder="Group name"
          aria-label="Search groups"
          clearable
          @click:clear="typed = ''"
        />
      </template>
      <v-btn v-if="may('edit-people')" color="primary" variant="flat" @click="making = true"
        >New group…</v-btn
      >
    </PageHead>
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <EmptyNote v-if="groups && !groups.length && !making" title="There are no groups yet">
      A column of a roster file that names squads, classes or teams makes them: write “Junior squads &gt; U14”
      to put one inside another. Or make one here.
      <template #action
        ><v-btn color="primary" variant="flat" to="/people/import">Load a roster file…</v-btn></template
      >
    </EmptyNote>
    <div v-else class="panes">
      <div class="left">
        <div class="modes small">
          <div role="radiogroup" aria-label="How groups are listed" class="seg">
            <button role="radio" :aria-checked="!ordering" @click="ordering = false">Nested</button>
            <button role="radio" :aria-checked="ordering" @click="((ordering = true), (typed = ''))">
              In order
            </button>
          </div>
          <label v-if="put" class="tickbox push"
            ><CheckBox v-model="archived" />also the {{ put }} put away</label
          >
        </div>
        <p v-if="ordering" class="quiet small about">
          One order for the whole organisation. Somebody who is in several of the groups that a message goes
          to hears from the first of them: its sender name and numbers are used. Drag, or press Alt with the
          arrows.
        </p>
        <div class="scroll">
          <table class="plain">
            <thead>
              <tr>
                <th v-if="ordering" class="num">Place</th>
                <th>Group</th>
                <th class="num">Its own</th>
                <th class="num">All inside</th>
              </tr>
            </thead>
            <tbody ref="list">
              <tr
                v-for="(g, i) in shown"
                :key="g.id"
                class="go"
                :class="{ on: g.id === open, away: hidden(g) }"
                @click="choose(g.id!)"
              >
                <td v-if="ordering" class="num place">
                  <v-icon v-if="may('edit-people')" class="grip" :icon="mdiDragVertical" size="16" />{{
                    g.rank
                  }}
                </td>
                <td :style="{ paddingInlineStart: `${16 + (typed || ordering ? 0 : g.depth * 20)}px` }">
                  <button
                    class="link"
                    :aria-pressed="g.id === open"
                    @click.stop="choose(g.id!)"
                    @keydown="key($event, i)"
                  >
                    <bdi>{{ g.name }}</bdi>
                  </button>
                  <span v-if="kinds[g.kind]" class="kind small" :class="g.kind">{{ kinds[g.kind] }}</span>
                  <span v-if="g.closed" class="quiet small"> closed</span>
                  <span v-else-if="g.archived" class="quiet small"> archived</span>
                  <span v-if="g.identity?.name || g.identity?.number" class="quiet small">
                    as {{ g.identity.name || g.identity.number }}</span
                  >
                  <div v-if="g.beyond" class="mind small">
                    {{ thousands(g.beyond) }} more beyond your units
                  </div>
                  <span v-if="ordering && may('edit-people')" class="steps">
                    <button
                      class="icon"
                      aria-label="Earlier"
                      :disabled="i === 0"
                      @click.stop="move(i, i - 1)"
                    >
                      <v-icon :icon="mdiArrowUp" size="14" />
                    </button>
                    <button
                      class="icon"
                      aria-label="Later"
                      :disabled="i === shown.length - 1"
                      @click.stop="move(i, i + 1)"
                    >
                      <v-icon :icon="mdiArrowDown" size="14" />
                    </button>
                  </span>
                </td>
                <td class="num">{{ g.own ? thousands(g.own) : '–' }}</td>
                <td class="num">{{ thousands(g.people) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </div>
      <aside>
        <GroupForm v-if="making" @leave="making = false" @saved="choose" />
        <GroupPane v-else-if="group" :key="group.id" :group="group" />
        <EmptyNote v-else title="Choose a group">Its people, its rule and what uses it stand here.</EmptyNote>
      </aside>
    </div>
  </div>
</template>

<style scoped>
.search {
  flex: 0 1 240px;
}

.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(380px, 46%);
}

.left {
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--sheet);
  border-inline-end: 1px solid var(--line);
}

.modes {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 8px 16px;
  border-bottom: 1px solid var(--line);
}

.about {
  padding: 7px 16px;
  background: var(--pane);
  border-bottom: 1px solid var(--line);
}

.scroll {
  overflow: auto;
}

aside {
  overflow: auto;
  background: var(--pane);
  padding: 12px 16px 24px;
}

tr.on td {
  background: #e3edf0 !important;
}

.away td {
  color: var(--ink2);
}

.kind {
  margin-inline-start: 7px;
  padding: 0 6px;
  border: 1px solid var(--line);
  border-radius: 3px;
  color: var(--ink2);
}

.kind.job {
  border-style: dashed;
}

.place .grip {
  margin-inline-end: 4px;
}

.place {
  white-space: nowrap;
  width: 64px;
}

.steps {
  float: inline-end;
  visibility: hidden;
}

tr:hover .steps,
tr:focus-within .steps {
  visibility: visible;
}
</style>
