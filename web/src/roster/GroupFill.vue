<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { useMutation } from '@tanstack/vue-query'
import { api, asFile, take, type Done, type Group, type Schemas } from '@/api/client'
import { useGroups } from '@/composables/choices'
import { useSaid } from '@/composables/said'
import { useSelection } from '@/composables/selection'
import { people } from '@/composables/words'
import FindBox, { type Found } from '@/components/FindBox.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'
import AreaField from '@/controls/AreaField.vue'
import SelectField from '@/controls/SelectField.vue'

/** Changes who is picked for a group; what was matched is shown before it is done. */
const props = defineProps<{ group: Group }>()
const emit = defineEmits<{ leave: [] }>()

const { done } = useSaid()
const selection = useSelection()
const { data: groups } = useGroups()

const from = ref<'names' | 'selection' | 'group' | 'list' | 'file'>('names')
const ways = computed(() => [
  { key: 'names' as const, words: 'Names' },
  ...(selection.size.value
    ? [{ key: 'selection' as const, words: `The ${people(selection.size.value)} selected` }]
    : []),
  { key: 'group' as const, words: 'Another group' },
  { key: 'list' as const, words: 'A pasted list' },
  { key: 'file' as const, words: 'A file' },
])

const named = reactive(new Map<number, string>())
const other = ref(0)
const pasted = ref('')
const matched = ref<Schemas['MatchedView']>()
const add = (f: Found) => named.set(f.id, f.name)

const match = useMutation({
  mutationFn: () => take(api.POST('/groups/match', { body: { text: pasted.value } })),
  onSuccess: (m) => (matched.value = m),
})
const matchFile = useMutation({
  mutationFn: (file: File) => take(api.POST('/groups/match-file', asFile(file))),
  onSuccess: (m) => (matched.value = m),
})
watch([from, pasted], () => (matched.value = undefined))

const chosen = computed<number[]>(() => {
  if (from.value === 'names') return [...named.keys()]
  if (from.value === 'selection') return selection.list.value
  return matched.value?.people ?? []
})
const size = computed(() =>
  from.value === 'group'
    ? (groups.value?.find((g) => g.id === other.value)?.people ?? 0)
    : chosen.value.length,
)

const fill = useMutation({
  mutationFn: (take_: 'add' | 'only' | 'remove') =>
    take(
      api.POST('/groups/{id}/fill', {
        params: { path: { id: props.group.id! } },
        body: { people: chosen.value, take: take_, ...(from.value === 'group' ? { from: other.value } : {}) },
      }),
    ),
  onSuccess: async (d: Done) => {
    await done(d)
    emit('leave')
  },
})
const problem = computed(() => fill.error.value ?? match.error.value ?? matchFile.error.value)

function picked(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) matchFile.mutate(file)
}
</script>

<template>
  <div class="fill">
    <PaneHead :title="`Fill ${group.name}`" :note="people(group.own)" />
    <SayNote v-if="problem" kind="bad">{{ problem.message }}</SayNote>
    <div role="radiogroup" aria-label="From where" class="seg">
      <button
        v-for="w in ways"
        :key="w.key"
        role="radio"
        :aria-checked="from === w.key"
        @click="from = w.key"
      >
        {{ w.words }}
      </button>
    </div>
    <template v-if="from === 'names'">
      <FindBox :kinds="['person']" label="Name" @pick="add" />
      <div class="chips">
        <span v-for="[id, name] in named" :key="id" class="chip"
          ><bdi>{{ name }}</bdi> <button class="link small" @click="named.delete(id)">take away</button></span
        >
      </div>
    </template>
    <label v-else-if="from === 'group'" class="field"
      ><span>The people of</span>
      <SelectField
        v-model="other"
        :items="[
          { value: 0, title: 'choose a group' },
          ...(groups?.filter((x) => x.id !== group.id) ?? []).map((g) => ({
            value: g.id,
            title: `${g.name}, ${people(g.people)}`,
          })),
        ]"
    /></label>
    <template v-else-if="from === 'list'">
      <label class="field"
        ><span>Numbers, mail addresses, ids or names; commas, semicolons or new lines between them</span>
        <AreaField v-model="pasted" rows="6" dir="auto" />
      </label>
      <v-btn size="small" class="ask" :disabled="!pasted.trim()" @click="match.mutate()"
        >See whom it means</v-btn
      >
    </template>
    <label v-else-if="from === 'file'" class="field"
      ><span>A file with ids, addresses or names: CSV, XLSX or vCard</span>
      <input type="file" accept=".csv,.xlsx,.vcf,.txt" @change="picked" />
    </label>
    <template v-if="matched">
      <SayNote kind="good"
        >It means {{ people(matched.people.length) }}:
        {{
          matched.names.people
            .slice(0, 30)
            .map((p) => p.name)
            .join(', ')
        }}{{ matched.people.length > 30 ? ' …' : '' }}</SayNote
      >
      <SayNote v-if="matched.unclear.length" kind="mind">
        {{ matched.unclear.length }} {{ matched.unclear.length === 1 ? 'item means' : 'items mean' }} nobody
        for sure and {{ matched.unclear.length === 1 ? 'is' : 'are' }} left off:
        <ul>
          <li v-for="(u, i) in matched.unclear.slice(0, 50)" :key="i">
            line {{ u.line }}: “<bdi>{{ u.text }}</bdi
            >” {{ u.problem }}
          </li>
        </ul>
      </SayNote>
    </template>
    <div class="acts">
      <v-btn color="primary" variant="flat" size="small" :disabled="!size" @click="fill.mutate('add')"
        >Add {{ people(size) }}</v-btn
      >
      <v-btn size="small" :disabled="!size" @click="fill.mutate('only')">Keep only those in both</v-btn>
      <v-btn size="small" :disabled="!size" @click="fill.mutate('remove')">Take them away</v-btn>
      <v-btn size="small" @click="emit('leave')">Never mind</v-btn>
    </div>
  </div>
</template>

<style scoped>
.fill {
  display: flex;
  flex-direction: column;
  gap: 11px;
  align-items: stretch;
}

.ask {
  align-self: flex-start;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

ul {
  margin: 4px 0;
  padding-inline-start: 18px;
}
</style>
