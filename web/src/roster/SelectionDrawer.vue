<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useMutation, useQuery } from '@tanstack/vue-query'
import { api, download, take, type Done, type Schemas } from '@/api/client'
import { useChoices, useGroups } from '@/composables/choices'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { useSelection } from '@/composables/selection'
import { people } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import CheckBox from '@/controls/CheckBox.vue'
import DayField from '@/controls/DayField.vue'
import RadioBox from '@/controls/RadioBox.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

/** What is done to those who are selected. */
const doing = defineModel<string>({ required: true })
const open = computed({ get: () => doing.value !== '', set: (now) => !now && (doing.value = '') })
const selection = useSelection()
const { show } = usePersonDrawer()
const { done } = useSaid()
const { data: choices } = useChoices()
const { data: groups } = useGroups()

const titles: Record<string, string> = {
  group: 'Add to a group, or take out',
  set: 'Set something for all of them',
  merge: 'Merge: they are one person',
  remove: 'Remove from the roster',
  export: 'Save as a file',
}

type Alteration = Schemas['Alteration']
const what = ref('attribute')
const attribute = ref(0)
const value = ref('')
const until = ref('')
const group = ref(0)
const keep = ref(0)
const list = computed(() => selection.list.value)
const fillable = computed(() => (groups.value ?? []).filter((g) => g.kind !== 'rule' && !g.archived))
const chosenAttribute = computed(() => choices.value?.attributes.find((a) => a.id === attribute.value))

watch([what, attribute], () => (value.value = what.value === 'status' ? 'away' : ''))
watch(doing, () => {
  group.value = fillable.value[0]?.id ?? 0
  attribute.value = choices.value?.attributes[0]?.id ?? 0
  keep.value = list.value[0] ?? 0
  run.reset()
})

const alteration = computed<Alteration>(() => {
  switch (what.value) {
    case 'attribute':
      return { do: 'attribute', attribute: attribute.value, value: value.value }
    case 'status':
      return {
        do: 'status',
        value: value.value,
        ...(value.value === 'away' && until.value ? { until: until.value } : {}),
      }
    case 'unit':
      return { do: 'unit', unit: Number(value.value) || 0 }
    default:
      return { do: what.value as Alteration['do'], value: value.value }
  }
})

const run = useMutation({
  mutationFn: (request: () => Promise<Done>) => request(),
  onSuccess: async (d) => {
    doing.value = ''
    await done(d)
  },
})
const alter = (a: Alteration) =>
  run.mutate(() => take(api.POST('/people/alter', { body: { people: list.value, alteration: a } })))
const remove = () =>
  run.mutate(async () => {
    const d = await take(api.POST('/people/remove', { body: { people: list.value } }))
    selection.clear()
    return d
  })
const merge = () =>
  run.mutate(async () => {
    const d = await take(
      api.POST('/people/merge', {
        body: { keep: keep.value, others: list.value.filter((id) => id !== keep.value) },
      }),
    )
    selection.clear()
    return d
  })

const { data: removal } = useQuery({
  queryKey: ['roster', 'removal', list],
  queryFn: () => take(api.POST('/people/removal', { body: { people: list.value } })),
  enabled: computed(() => doing.value === 'remove'),
})
const { data: merging } = useQuery({
  queryKey: ['roster', 'merging', list],
  queryFn: () =>
    Promise.all(list.value.map((id) => take(api.GET('/people/{id}', { params: { path: { id } } })))),
  enabled: computed(() => doing.value === 'merge'),
})

const { data: columns } = useQuery({
  queryKey: ['roster', 'columns'],
  queryFn: () => take(api.GET('/export/columns')),
  enabled: computed(() => doing.value === 'export'),
})
const list_ = ref<Schemas['ExportRequest']['what']>('people')
const format = ref<Schemas['ExportRequest']['format']>('csv')
const without = ref<string[]>([])
watch(list_, (now) => now !== 'people' && format.value === 'vcf' && (format.value = 'csv'))
const save = useMutation({
  mutationFn: () =>
    download(
      api.POST('/export', {
        body: {
          people: list.value,
          what: list_.value,
          format: format.value,
          columns: (columns.value ?? []).filter((c) => !without.value.includes(c)),
        },
        parseAs: 'blob',
      }),
    ),
  onSuccess: () => (doing.value = ''),
})
</script>

<template>
  <SideDrawer v-model="open" :title="titles[doing] ?? ''" :note="`${people(list.length)} selected`">
    <SayNote v-if="run.error.value" kind="bad">{{ run.error.value.message }}</SayNote>

    <form v-if="doing === 'group'" @submit.prevent="alter({ do: 'join', group })">
      <label class="field"
        ><span>Group</span>
        <SelectField v-model="group" :items="fillable.map((g) => ({ value: g.id, title: g.name }))"
      /></label>
      <p class="quiet small">Groups by rule get their people by themselves and are not listed.</p>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat" :disabled="!group">Add them</v-btn>
        <v-btn :disabled="!group" @click="alter({ do: 'leave', group })">Take them out</v-btn>
      </div>
    </form>

    <form v-else-if="doing === 'set' && choices" @submit.prevent="alter(alteration)">
      <label class="field"
        ><span>What</span>
        <SelectField
          v-model="what"
          :items="[
            { value: 'attribute', title: 'an attribute' },
            { value: 'status', title: 'status' },
            { value: 'role', title: 'give a role' },
            { value: 'no-role', title: 'take a role away' },
            { value: 'unit', title: 'unit' },
            { value: 'language', title: 'language' },
          ]"
      /></label>
      <label v-if="what === 'attribute'" class="field"
        ><span>Attribute</span>
        <SelectField
          v-model="attribute"
          :items="choices.attributes.map((a) => ({ value: a.id, title: a.name }))"
      /></label>
      <label class="field"
        ><span>To</span>
        <SelectField
          v-if="what === 'attribute' && chosenAttribute?.kind === 'choice'"
          v-model="value"
          :items="[
            { value: '', title: 'nothing' },
            ...(chosenAttribute.choices ?? []).map((c) => ({ value: c, title: c })),
          ]"
        />
        <SelectField
          v-else-if="what === 'attribute' && chosenAttribute?.kind === 'yes-no'"
          v-model="value"
          :items="[
            { value: '', title: 'nothing' },
            { value: 'yes', title: 'yes' },
            { value: 'no', title: 'no' },
          ]"
        />
        <TextField
          v-else-if="what === 'attribute'"
          v-model="value"
          :type="chosenAttribute?.kind === 'date' ? 'date' : 'text'"
        />
        <SelectField
          v-else-if="what === 'status'"
          v-model="value"
          :items="[
            { value: 'active', title: 'active' },
            { value: 'away', title: 'away' },
            { value: 'left', title: 'left' },
          ]"
        />
        <SelectField
          v-else-if="what === 'unit'"
          v-model="value"
          :items="[
            { value: '', title: 'the whole organisation' },
            ...choices.units.map((u) => ({ value: String(u.id), title: u.path })),
          ]"
        />
        <SelectField
          v-else-if="what === 'language'"
          v-model="value"
          :items="choices.languages.map((l) => ({ value: l.value, title: l.words }))"
        />
        <SelectField v-else v-model="value" :items="choices.roles.map((r) => ({ value: r, title: r }))" />
      </label>
      <label v-if="what === 'status' && value === 'away'" class="field"
        ><span>Last day away, if it is known</span><DayField v-model="until"
      /></label>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat">Set it for {{ people(list.length) }}</v-btn>
      </div>
    </form>

    <form v-else-if="doing === 'merge'" @submit.prevent="merge">
      <p>
        One of them stays and takes the addresses, ties, groups and messages of the others. What one of them
        declined or where contact is barred stays so.
      </p>
      <label v-for="p in merging" :key="p.id" class="choice sheet">
        <RadioBox v-model="keep" name="keep" :value="p.id" />
        <span
          ><b
            ><bdi>{{ p.name }}</bdi></b
          ><br /><span class="quiet small"
            >{{ [p.externalId, ...p.roles, ...p.addresses.map((a) => a.shown)].filter(Boolean).join(', ') }}
          </span></span
        >
      </label>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat" :disabled="!keep"
          >Merge into the chosen one</v-btn
        >
      </div>
    </form>

    <form v-else-if="doing === 'remove'" @submit.prevent="remove">
      <template v-if="removal">
        <p>
          <b>{{ people(removal.people) }}</b> would leave the roster, with {{ removal.addresses }} addresses,
          {{ removal.memberships }} group places and {{ removal.ties }} ties. What they got stays on record.
        </p>
        <p v-if="removal.people < list.length" class="quiet">
          {{ people(list.length - removal.people) }} of another unit stay.
        </p>
        <SayNote v-if="removal.alone.all" kind="bad">
          Nobody would receive for {{ people(removal.alone.all) }} any more:
          <template v-for="(p, i) in removal.alone.people.slice(0, 20)" :key="p.id"
            >{{ i ? ', ' : '' }}<button type="button" class="link" @click="show(p.id)">{{ p.name }}</button>
          </template>
          {{ removal.alone.all > 20 ? ` and ${removal.alone.all - 20} more` : '' }}.
        </SayNote>
        <p class="quiet">
          You can undo it. To keep somebody on the roster without writing to them, set their status to “left”.
        </p>
        <div class="row">
          <v-btn type="submit" class="destroy" :disabled="!removal.people"
            >Remove {{ people(removal.people) }}</v-btn
          >
          <v-btn @click="open = false">Keep them</v-btn>
        </div>
      </template>
    </form>

    <form v-else-if="doing === 'export'" @submit.prevent="save.mutate()">
      <SayNote v-if="save.error.value" kind="bad">{{ save.error.value.message }}</SayNote>
      <label class="field"
        ><span>List</span>
        <SelectField
          v-model="list_"
          :items="[
            { value: 'people', title: 'people, a row each: can be loaded again' },
            { value: 'addresses', title: 'their addresses, a row each' },
            { value: 'groups', title: 'all groups, a row each' },
          ]"
      /></label>
      <label class="field"
        ><span>Format</span>
        <SelectField
          v-model="format"
          :items="[
            { value: 'csv', title: 'CSV (any spreadsheet)' },
            { value: 'xlsx', title: 'XLSX (workbook)' },
            ...(list_ === 'people' ? [{ value: 'vcf', title: 'vCard 4 (address books)' }] : []),
          ]"
      /></label>
      <fieldset v-if="list_ === 'people'">
        <legend>Columns</legend>
        <label v-for="c in columns" :key="c" class="tickbox"
          ><CheckBox
            :model-value="!without.includes(c)"
            @update:model-value="
              without = without.includes(c) ? without.filter((w) => w !== c) : [...without, c]
            "
          />
          {{ c.replace('attribute: ', '') }}</label
        >
      </fieldset>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat" :disabled="save.isPending.value"
          >Save {{ list_ === 'groups' ? 'the groups' : people(list.length) }}</v-btn
        >
      </div>
    </form>
  </SideDrawer>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 14px;
}

.choice {
  display: flex;
  gap: 10px;
  padding: 8px 10px;
  align-items: baseline;
}

.destroy {
  border-color: var(--brick) !important;
  color: var(--brick) !important;
}

fieldset {
  border: 1px solid var(--line);
  border-radius: 6px;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 3px 12px;
  padding: 8px 12px;
}

legend {
  font-size: 12px;
  font-weight: 600;
  color: var(--ink2);
}
</style>
