<script setup lang="ts">
import { computed, ref } from 'vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useGroups } from '@/composables/choices'
import { count } from '@/composables/words'
import AreaField from '@/controls/AreaField.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

/** Where people of the office look after what comes back. */
const props = defineProps<{
  settings: Schemas['SettingsView']
  change: (request: () => Promise<unknown>) => Promise<boolean>
}>()
const client = useQueryClient()
const { data } = useQuery({ queryKey: ['desks', 'all'], queryFn: () => take(api.GET('/settings/desks')) })
const { data: groups } = useGroups()

type Desk = Schemas['Desk']
const open = ref<Desk>()
const days = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday']
const week = [1, 2, 3, 4, 5, 6, 0]

function edit(d?: Desk) {
  const fresh: Desk = { id: 0, name: '', units: [], groups: [], members: [], hours: [], outside: '' }
  open.value = JSON.parse(JSON.stringify(d ?? fresh)) as Desk
}
async function save() {
  const body = open.value!
  if (!(await props.change(() => take(api.POST('/settings/desks', { body }))))) return
  open.value = undefined
  await client.invalidateQueries({ queryKey: ['desks'] })
}
const into = ref<Record<number, number>>({})
async function drop(d: Desk) {
  const other = data.value?.desks.find((o) => o.id !== d.id)?.id ?? 0
  const query = { into: into.value[d.id] ?? other }
  await props.change(() =>
    take(api.DELETE('/settings/desks/{id}', { params: { path: { id: d.id }, query } })),
  )
  await client.invalidateQueries({ queryKey: ['desks'] })
}

const flip = (list: number[], id: number, on: boolean) => (on ? [...list, id] : list.filter((x) => x !== id))
const hoursOf = (day: number) => open.value?.hours.find((h) => h.day === day)
function setHours(day: number, change: { from?: string; to?: string } | undefined) {
  const d = open.value!
  const now = hoursOf(day) ?? { day, from: '08:00', to: '16:00' }
  d.hours = d.hours.filter((h) => h.day !== day)
  if (change) d.hours.push({ ...now, ...change })
}
const units = computed(() => [...props.settings.units].sort((a, b) => a.path.localeCompare(b.path)))
const groupItems = computed(() =>
  (groups.value ?? []).filter((g) => !g.archived).map((g) => ({ value: g.id!, title: g.name })),
)
const nameOf = (id: number) => data.value?.accounts.find((a) => a.id === id)?.name ?? ''
const answersFor = (d: Desk) =>
  [
    ...d.units.map((u) => units.value.find((x) => x.id === u)?.path ?? ''),
    ...d.groups.map((g) => groupItems.value.find((x) => x.value === g)?.title ?? ''),
  ]
    .filter(Boolean)
    .join(', ') || 'everything that no other desk does'
const fields = /^([01]?\d|2[0-3]):[0-5]\d$/
const wrong = computed(() => open.value?.hours.some((h) => !fields.test(h.from) || !fields.test(h.to)))
</script>

<template>
  <section class="narrow">
    <p class="quiet">
      At a desk, people of the office look after what comes back: answers to texts and emails stand there in
      threads, read once for all who sit there. Nobody else sees them. While there is no desk, replies to
      emails go to the organisation’s mailbox.
    </p>
    <table class="plain sheet">
      <thead>
        <tr>
          <th>Desk</th>
          <th>Answers for</th>
          <th>Who sits there</th>
          <th>Hours</th>
          <th><span class="sr-only">Change</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="d in data?.desks" :key="d.id">
          <td>
            <bdi>{{ d.name }}</bdi>
          </td>
          <td>{{ answersFor(d) }}</td>
          <td>{{ d.members.map(nameOf).join(', ') || 'nobody yet' }}</td>
          <td>{{ d.hours.length ? count(d.hours.length, 'day', 'days') : 'always' }}</td>
          <td class="acts">
            <button class="link" @click="edit(d)">Change</button>
            <button class="link" @click="drop(d)">Delete</button>
          </td>
        </tr>
        <tr v-if="data && !data.desks.length">
          <td colspan="5" class="quiet">No desk yet.</td>
        </tr>
      </tbody>
    </table>
    <form v-if="open" class="sheet" @submit.prevent="save">
      <label class="field wide"
        ><span>Name</span><TextField v-model="open.name" required maxlength="80"
      /></label>
      <fieldset>
        <legend>Who sits there</legend>
        <CheckBox
          v-for="a in data?.accounts"
          :key="a.id"
          :model-value="open.members.includes(a.id)"
          :label="a.name"
          @update:model-value="open.members = flip(open.members, a.id, Boolean($event))"
        />
      </fieldset>
      <fieldset>
        <legend>Answers for these units</legend>
        <CheckBox
          v-for="u in units"
          :key="u.id"
          :model-value="open.units.includes(u.id!)"
          :label="u.path"
          @update:model-value="open.units = flip(open.units, u.id!, Boolean($event))"
        />
        <p v-if="!units.length" class="quiet small">There are no units.</p>
      </fieldset>
      <fieldset class="wide">
        <legend>And for messages to these groups</legend>
        <p v-for="g in open.groups" :key="g">
          {{ groupItems.find((x) => x.value === g)?.title ?? 'a group that is gone' }}
          <button type="button" class="link small" @click="open.groups = flip(open.groups, g, false)">
            Take it out
          </button>
        </p>
        <SelectField
          :model-value="0"
          aria-label="Add a group"
          :items="[
            { value: 0, title: 'Add a group…' },
            ...groupItems.filter((g) => !open!.groups.includes(g.value)),
          ]"
          @update:model-value="$event && (open!.groups = flip(open!.groups, Number($event), true))"
        />
        <p class="quiet small">A desk for no units and no groups answers for all that no other desk does.</p>
      </fieldset>
      <fieldset class="wide">
        <legend>Hours</legend>
        <p class="quiet small">Without hours it is always open.</p>
        <div v-for="day in week" :key="day" class="day">
          <CheckBox
            :model-value="Boolean(hoursOf(day))"
            :label="days[day]!"
            @update:model-value="setHours(day, $event ? {} : undefined)"
          />
          <template v-if="hoursOf(day)">
            <TextField
              :model-value="hoursOf(day)!.from"
              :aria-label="`From, ${days[day]}`"
              @update:model-value="setHours(day, { from: String($event) })"
            />
            <span>to</span>
            <TextField
              :model-value="hoursOf(day)!.to"
              :aria-label="`To, ${days[day]}`"
              @update:model-value="setHours(day, { to: String($event) })"
            />
          </template>
        </div>
        <p v-if="wrong" class="bad small">Write hours such as 08:00.</p>
      </fieldset>
      <label class="field wide"
        ><span>What is answered outside the hours</span
        ><AreaField v-model="open.outside" rows="2" maxlength="600" dir="auto" />
        <small>Once to each person and day; empty for nothing.</small></label
      >
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat" :disabled="wrong">Save</v-btn>
        <v-btn @click="open = undefined">Never mind</v-btn>
      </div>
    </form>
    <v-btn v-else @click="edit()">Add a desk…</v-btn>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 860px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 12px;
}

table {
  align-self: stretch;
}

.wide {
  grid-column: 1 / -1;
}

form {
  padding: 14px;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  align-self: stretch;
}

fieldset {
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 6px 12px 10px;
  margin: 0;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 4px;
}

legend {
  font-size: 12px;
  font-weight: 650;
  color: var(--ink2);
}

.day {
  display: grid;
  grid-template-columns: 140px 90px auto 90px;
  justify-content: start;
  align-items: center;
  gap: 10px;
  min-height: 36px;
}
</style>
