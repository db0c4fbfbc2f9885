<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Group, type Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { useRights, useTimes } from '@/composables/session'
import { people, thousands } from '@/composables/words'
import PageTurner from '@/components/PageTurner.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'
import GroupFill from './GroupFill.vue'
import GroupForm from './GroupForm.vue'

/** One group: who is in it, what it is, and what is done with it. */
const props = defineProps<{ group: Group }>()

const pageSize = 200
const router = useRouter()
const client = useQueryClient()
const may = useRights()
const { show } = usePersonDrawer()
const { done, tell } = useSaid()
const { moment } = useTimes()
const first = ref(0)
const doing = ref<'' | 'edit' | 'fill' | 'drop'>('')

const { data: inside } = useQuery({
  queryKey: ['roster', 'groups', () => props.group.id, 'people', first],
  queryFn: () =>
    take(
      api.GET('/groups/{id}/people', {
        params: { path: { id: props.group.id! }, query: { first: first.value, count: pageSize } },
      }),
    ),
  placeholderData: keepPreviousData,
})
const { data: use } = useQuery({
  queryKey: ['roster', 'groups', () => props.group.id, 'use'],
  queryFn: () => take(api.GET('/groups/{id}/use', { params: { path: { id: props.group.id! } } })),
  enabled: computed(() => doing.value === 'drop'),
})
const uses = computed(() =>
  use.value
    ? [
        ['groups that hold it', use.value.groups],
        ['rules that look at it', use.value.rules],
        ['kept filters', use.value.filters],
        ['messages not sent yet', use.value.messages],
      ].filter(([, list]) => list!.length)
    : [],
)

const SENT = [
  'name',
  'kind',
  'unit',
  'archived',
  'rule',
  'identity',
  'starts',
  'ends',
  'closed',
  'place',
  'reference',
  'inside',
  'unnamed',
] as const

/** The group as it is sent back, with something changed. */
function changed(over: Partial<Schemas['Group']>): Schemas['Group'] {
  const all = { ...props.group, ...over }
  return Object.fromEntries(
    SENT.map((key) => [key, all[key]]).filter(([, value]) => value !== undefined),
  ) as Schemas['Group']
}

const set = useMutation({
  mutationFn: (over: Partial<Schemas['Group']>) =>
    take(api.PUT('/groups/{id}', { params: { path: { id: props.group.id! } }, body: changed(over) })),
  onSuccess: () => client.invalidateQueries({ queryKey: ['roster'] }),
})
const drop = useMutation({
  mutationFn: () => take(api.DELETE('/groups/{id}', { params: { path: { id: props.group.id! } } })),
  onSuccess: async () => {
    tell(`The group ${props.group.name} was deleted. Its people are still on the roster.`)
    await client.invalidateQueries({ queryKey: ['roster'] })
    await router.replace({ query: {} })
  },
})
const out = useMutation({
  mutationFn: (person: number) =>
    take(
      api.POST('/groups/{id}/fill', {
        params: { path: { id: props.group.id! } },
        body: { people: [person], take: 'remove' },
      }),
    ),
  onSuccess: done,
})
const problem = computed(() => set.error.value ?? drop.error.value ?? out.error.value)
const ofItself = (detail: string) => detail === props.group.name
</script>

<template>
  <GroupForm v-if="doing === 'edit'" :group="group" @leave="doing = ''" @saved="doing = ''" />
  <GroupFill v-else-if="doing === 'fill'" :group="group" @leave="doing = ''" />
  <div v-else>
    <PaneHead :title="group.name" :note="people(group.people)" />
    <SayNote v-if="problem" kind="bad">{{ problem.message }}</SayNote>
    <SayNote v-if="group.beyond" kind="mind"
      >{{ people(group.beyond) }} in it are beyond your units: a message of yours leaves them out.</SayNote
    >
    <p class="quiet what">
      <template v-if="group.kind === 'rule'">By rule: {{ group.words.join(', and ') }}.</template>
      <template v-else-if="group.kind === 'job'"
        >Job<template v-if="group.place"> at {{ group.place }}</template
        ><template v-if="group.starts">, from {{ moment(group.starts) }}</template
        ><template v-if="group.ends"> to about {{ moment(group.ends) }}</template
        >{{ group.closed ? `; closed ${moment(group.closed)}` : '' }}.</template
      >
      <template v-else>Picked.</template>
      {{ group.unitPath ? `Belongs to ${group.unitPath}.` : 'Belongs to the whole organisation.' }}
      <template v-if="group.within.length">Inside {{ group.within.join(', ') }}.</template>
      <template v-if="group.identity?.name || group.identity?.number || group.identity?.caller"
        >Writes as
        {{
          [group.identity.name, group.identity.number, group.identity.caller].filter(Boolean).join(', ')
        }}.</template
      >
    </p>
    <div class="acts">
      <v-btn
        v-if="may('write') && !group.closed"
        size="small"
        :to="{ path: '/write/new', query: { group: group.id } }"
        >Write to them</v-btn
      >
      <template v-if="group.editable">
        <v-btn v-if="group.kind !== 'rule' && !group.closed" size="small" @click="doing = 'fill'"
          >Fill…</v-btn
        >
        <v-btn size="small" @click="doing = 'edit'">Change…</v-btn>
        <v-btn
          v-if="group.kind === 'job' && !group.closed"
          size="small"
          @click="set.mutate({ closed: new Date().toISOString() })"
          >Close the job</v-btn
        >
        <v-btn v-else-if="group.kind === 'job'" size="small" @click="set.mutate({ closed: undefined })"
          >Open it again</v-btn
        >
        <v-btn size="small" @click="set.mutate({ archived: !group.archived || undefined })">{{
          group.archived ? 'Take out of the archive' : 'Archive'
        }}</v-btn>
        <v-btn size="small" @click="doing = doing === 'drop' ? '' : 'drop'">Delete…</v-btn>
      </template>
    </div>
    <SayNote v-if="doing === 'drop' && use" kind="bad">
      <b>Delete {{ group.name }}?</b> {{ thousands(use.people) }} of its own stay on the roster.
      <template v-if="uses.length">It is used by:</template>
      <ul v-if="uses.length">
        <li v-for="[words, list] in uses" :key="String(words)">
          {{ words }}: {{ (list as string[]).join(', ') }}
        </li>
      </ul>
      <template v-else> Nothing uses it.</template>
      <div class="row">
        <v-btn size="small" @click="drop.mutate()">Delete it</v-btn>
        <v-btn size="small" @click="doing = ''">Keep it</v-btn>
      </div>
    </SayNote>
    <table class="plain sheet">
      <tbody>
        <tr v-for="p in inside?.people" :key="p.id" class="go" @click="show(p.id)">
          <td>
            <button class="link" @click.stop="show(p.id)">
              <bdi>{{ p.name }}</bdi>
            </button>
          </td>
          <td class="quiet small">
            {{ ofItself(p.detail) ? '' : p.detail.replace(`${group.name} › `, '') }}
          </td>
          <td class="end">
            <button
              v-if="group.editable && group.kind !== 'rule' && ofItself(p.detail)"
              class="link small"
              :aria-label="`Take ${p.name} out`"
              @click.stop="out.mutate(p.id)"
            >
              Take out
            </button>
          </td>
        </tr>
        <tr v-if="inside && !inside.all">
          <td class="quiet">Nobody is in it yet.</td>
        </tr>
      </tbody>
    </table>
    <PageTurner v-model="first" :size="pageSize" :all="inside?.all ?? 0" />
  </div>
</template>

<style scoped>
.what {
  margin-bottom: 10px;
  overflow-wrap: anywhere;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 12px;
}

.say {
  margin-bottom: 10px;
}

ul {
  margin: 4px 0;
  padding-inline-start: 18px;
}

.end {
  text-align: end;
}

.end .link {
  visibility: hidden;
  color: var(--ink2);
  font-weight: 500;
}

tr:hover .end .link,
tr:focus-within .end .link {
  visibility: visible;
}
</style>
