<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { refDebounced } from '@vueuse/core'
import { keepPreviousData, useMutation, useQuery } from '@tanstack/vue-query'
import { mdiClose } from '@mdi/js'
import { api, ApiError, take, type Done, type Schemas, type Sheet } from '@/api/client'
import { toAddresses, toLines } from '@/composables/addresses'
import { useChoices, useGroups } from '@/composables/choices'
import FindBox from '@/components/FindBox.vue'
import SayNote from '@/components/SayNote.vue'
import AreaField from '@/controls/AreaField.vue'
import CheckBox from '@/controls/CheckBox.vue'
import DayField from '@/controls/DayField.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'
import AddressList from './AddressList.vue'
import TieList from './TieList.vue'

/** Everything that is edited about one person; without one, somebody new. */
const props = defineProps<{ person?: Schemas['PersonDetailView'] }>()
const emit = defineEmits<{ saved: [done: Done]; leave: [] }>()

const { data: choices } = useChoices()
const { data: groups } = useGroups()

const sheet = reactive<Sheet>(
  props.person
    ? (JSON.parse(JSON.stringify(props.person.sheet)) as Sheet)
    : { givenName: '', roles: [], status: 'active', addresses: [], ties: [], groups: [] },
)
const self = props.person?.id ?? 0
const lines = ref(toLines(sheet.addresses))
const picked = computed(() =>
  sheet.groups.map((id) => ({ id, name: groups.value?.find((g) => g.id === id)?.name ?? '…' })),
)

const valueOf = (id: number | undefined) => sheet.values?.find((v) => v.attribute === id)?.value ?? ''
function setValue(id: number | undefined, value: string) {
  sheet.values = (sheet.values ?? []).filter((v) => v.attribute !== id)
  if (id && value) sheet.values.push({ attribute: id, value })
}

function toggleRole(role: string) {
  sheet.roles = sheet.roles.includes(role) ? sheet.roles.filter((r) => r !== role) : [...sheet.roles, role]
}

/** What is sent: empty fields are absent. */
const typed = computed<Sheet>(() => {
  const s = { ...sheet, addresses: toAddresses(lines.value) } as Record<string, unknown>
  for (const key of Object.keys(s)) if (s[key] === '' || s[key] === 0) delete s[key]
  return { ...(s as unknown as Sheet), givenName: sheet.givenName }
})
const text = computed(() => JSON.stringify(typed.value))
const asked = refDebounced(text, 350)
const { data: remarks } = useQuery({
  queryKey: ['roster', 'check', asked],
  queryFn: ({ signal }) =>
    take(api.POST('/people/check', { body: JSON.parse(asked.value) as Sheet, signal })),
  placeholderData: keepPreviousData,
})

/** The addresses that are sent, by the line that they come from. */
const places = computed(() => {
  let n = 0
  return lines.value.map((l) => toAddresses([l]).map(() => `addresses[${n++}]`))
})
const about = (...fields: string[]) => (remarks.value ?? []).filter((r) => fields.includes(r.field))
const lineRemarks = (i: number) => {
  const seen = new Set<string>()
  return about(...(places.value[i] ?? [])).filter((r) => !seen.has(r.reason) && seen.add(r.reason))
}
const elsewhere = computed(() => {
  const shown = [
    'givenName',
    'familyName',
    'externalId',
    'timeZone',
    'bornOn',
    'awayUntil',
    'notes',
    'liftReason',
  ]
  return (remarks.value ?? []).filter((r) => !shown.includes(r.field) && !r.field.startsWith('addresses'))
})

const save = useMutation({
  mutationFn: () =>
    self
      ? take(api.PUT('/people/{id}', { params: { path: { id: self } }, body: typed.value }))
      : take(api.POST('/people', { body: typed.value })),
  onSuccess: (d) => emit('saved', d),
})
const overtaken = computed(() =>
  save.error.value instanceof ApiError && save.error.value.status === 409 ? save.error.value : undefined,
)

/** Takes the newest version as the one that is changed: what is typed here then goes over it. */
async function overThem() {
  const newest = await take(api.GET('/people/{id}', { params: { path: { id: self } } }))
  sheet.version = newest.sheet.version
  save.reset()
}

const wishes = [
  ['', 'no wish'],
  ['email', 'email'],
  ['text', 'text'],
  ['voice', 'calls'],
  ['push', 'push'],
] as const
watch(
  () => sheet.status,
  (now) => now !== 'away' && delete sheet.awayUntil,
)
</script>

<template>
  <form class="form" @submit.prevent="save.mutate()" @keydown.ctrl.enter.prevent="save.mutate()">
    <SayNote v-if="overtaken" kind="bad">
      {{ overtaken.message }}
      <ul>
        <li v-for="(d, i) in overtaken.details" :key="i">{{ d.location }}: {{ d.message }}</li>
      </ul>
      What you typed is still here.
      <button type="button" class="link" @click="overThem">Save mine over it</button> ·
      <button type="button" class="link" @click="emit('leave')">Look at theirs</button>
    </SayNote>
    <SayNote v-else-if="save.error.value" kind="bad">
      {{ save.error.value.message }}
    </SayNote>

    <div class="two">
      <label class="field"><span>Given name</span><TextField v-model="sheet.givenName" dir="auto" /></label>
      <label class="field"><span>Family name</span><TextField v-model="sheet.familyName" dir="auto" /></label>
      <label class="field"><span>Known as</span><TextField v-model="sheet.knownAs" dir="auto" /></label>
      <label class="field"><span>Id in your files</span><TextField v-model="sheet.externalId" /></label>
    </div>
    <p
      v-for="r in about('givenName', 'familyName', 'externalId')"
      :key="r.reason"
      class="small"
      :class="r.refused ? 'bad' : 'mind'"
    >
      {{ r.value }} {{ r.reason }}
    </p>
    <fieldset class="ticks">
      <legend>Roles</legend>
      <label v-for="role in choices?.roles" :key="role" class="tickbox"
        ><CheckBox :model-value="sheet.roles.includes(role)" @update:model-value="toggleRole(role)" />{{
          role
        }}</label
      >
    </fieldset>

    <h3>Addresses, the first to be used first</h3>
    <AddressList v-model="lines" :remarks="lines.map((_, i) => lineRemarks(i))" />

    <h3>Ties</h3>
    <TieList :model-value="sheet" :self="self" :before="person" :remarks="about('liftReason')" />

    <h3>Groups they were picked for</h3>
    <div v-if="picked.length" class="chips">
      <span v-for="g in picked" :key="g.id" class="chip"
        ><bdi>{{ g.name }}</bdi
        ><button
          type="button"
          class="icon"
          :aria-label="`Take out of ${g.name}`"
          @click="sheet.groups = sheet.groups.filter((id) => id !== g.id)"
        >
          <v-icon :icon="mdiClose" size="13" /></button
      ></span>
    </div>
    <FindBox
      :kinds="['group']"
      label="Pick them for a group"
      @pick="(f) => !sheet.groups.includes(f.id) && sheet.groups.push(f.id)"
    />

    <h3>About them</h3>
    <div class="two">
      <label class="field"
        ><span>Status</span>
        <SelectField
          v-model="sheet.status"
          :items="[
            { value: 'active', title: 'active' },
            { value: 'away', title: 'away' },
            { value: 'left', title: 'left' },
          ]"
      /></label>
      <label v-if="sheet.status === 'away'" class="field"
        ><span>Last day away</span><DayField v-model="sheet.awayUntil"
      /></label>
      <label class="field"
        ><span>Reads</span>
        <SelectField
          v-model="sheet.language"
          :items="[
            { value: '', title: 'not known' },
            ...(choices?.languages ?? []).map((l) => ({ value: l.value, title: l.words })),
          ]"
      /></label>
      <label class="field"
        ><span>Asked for first</span>
        <SelectField v-model="sheet.wish" :items="wishes.map(([v, w]) => ({ value: v, title: w }))"
      /></label>
      <label class="field"
        ><span>Unit</span>
        <SelectField
          v-model="sheet.unit"
          :items="[
            { value: undefined, title: 'the whole organisation' },
            ...(choices?.units ?? []).map((u) => ({ value: u.id, title: u.path })),
          ]"
      /></label>
      <label class="field"
        ><span>Time zone, if it differs</span><TextField v-model="sheet.timeZone" placeholder="Europe/London"
      /></label>
      <label class="field"><span>Born on</span><DayField v-model="sheet.bornOn" /></label>
      <label v-for="a in choices?.attributes" :key="a.id" class="field"
        ><span>{{ a.name }}</span>
        <SelectField
          v-if="a.kind === 'choice' || a.kind === 'yes-no'"
          :model-value="valueOf(a.id)"
          :items="[
            { value: '', title: '' },
            ...(a.kind === 'choice' ? (a.choices ?? []) : ['yes', 'no']).map((c) => ({ value: c, title: c })),
          ]"
          @update:model-value="setValue(a.id, $event)"
        />
        <DayField
          v-else-if="a.kind === 'date'"
          :model-value="valueOf(a.id)"
          @update:model-value="setValue(a.id, $event ?? '')"
        />
        <TextField
          v-else
          :inputmode="a.kind === 'number' ? 'decimal' : undefined"
          :model-value="valueOf(a.id)"
          @update:model-value="setValue(a.id, $event)"
        />
      </label>
    </div>
    <label class="field"><span>Notes</span><AreaField v-model="sheet.notes" rows="3" dir="auto" /> </label>
    <p
      v-for="r in [...about('timeZone', 'bornOn', 'awayUntil', 'notes'), ...elsewhere]"
      :key="r.field + r.reason"
      class="small"
      :class="r.refused ? 'bad' : 'mind'"
    >
      {{ r.value }} {{ r.reason }}
    </p>
    <div class="foot">
      <v-btn type="submit" color="primary" variant="flat" :disabled="save.isPending.value">{{
        self ? 'Save' : 'Add to the roster'
      }}</v-btn>
      <v-btn @click="emit('leave')">{{ self ? 'Leave as it was' : 'Never mind' }}</v-btn>
      <span class="quiet small">Every change can be undone.</span>
    </div>
  </form>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}

h3 {
  margin-top: 10px;
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 12px;
}

.foot {
  position: sticky;
  bottom: -20px;
  margin: 6px -16px -20px;
  padding: 10px 16px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  display: flex;
  align-items: center;
  gap: 10px;
}

ul {
  margin: 4px 0;
  padding-inline-start: 18px;
}
</style>
