<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useMutation, useQuery } from '@tanstack/vue-query'
import { api, take, type Done, type Schemas } from '@/api/client'
import { useChoices, useGroups } from '@/composables/choices'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { useSelection } from '@/composables/selection'
import { people } from '@/composables/words'
import AlterForm from './AlterForm.vue'
import ExportForm from './ExportForm.vue'
import SayNote from '@/components/SayNote.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import RadioBox from '@/controls/RadioBox.vue'
import SelectField from '@/controls/SelectField.vue'

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
const group = ref(0)
const keep = ref(0)
const list = computed(() => selection.list.value)
const fillable = computed(() => (groups.value ?? []).filter((g) => g.kind !== 'rule' && !g.archived))

watch(doing, () => {
  group.value = fillable.value[0]?.id ?? 0
  keep.value = list.value[0] ?? 0
  run.reset()
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

    <AlterForm
      v-else-if="doing === 'set' && choices"
      :choices="choices"
      :count="list.length"
      @alter="alter"
    />

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

    <ExportForm v-else-if="doing === 'export'" :people="list" @saved="doing = ''" />
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
</style>
