<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { refDebounced } from '@vueuse/core'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { mdiClose } from '@mdi/js'
import { api, take, type Group, type Schemas } from '@/api/client'
import { useChoices, useGroups } from '@/composables/choices'
import { useSession } from '@/composables/session'
import { people } from '@/composables/words'
import FindBox from '@/components/FindBox.vue'
import RuleStack from '@/components/RuleStack.vue'
import SayNote from '@/components/SayNote.vue'
import CheckBox from '@/controls/CheckBox.vue'
import RadioBox from '@/controls/RadioBox.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'
import TimeField from '@/controls/TimeField.vue'

/** What a group is; its people are picked elsewhere. */
const props = defineProps<{ group?: Group }>()
const emit = defineEmits<{ saved: [id: number]; leave: [] }>()

const client = useQueryClient()
const { data: session } = useSession()
const { data: choices } = useChoices()
const { data: groups } = useGroups()

const g = props.group
const draft = reactive({
  name: g?.name ?? '',
  unnamed: g?.unnamed ?? false,
  kind: g?.kind ?? ('picked' as Group['kind']),
  unit: g?.unit ?? session.value?.scope.units[0] ?? 0,
  archived: g?.archived ?? false,
  identity: {
    name: g?.identity?.name ?? '',
    number: g?.identity?.number ?? '',
    caller: g?.identity?.caller ?? '',
  },
  place: g?.place ?? '',
  inside: [...(g?.inside ?? [])],
})
const rule = ref([...(g?.rule ?? [])])
const starts = ref(g?.starts)
const ends = ref(g?.ends)

const nested = computed(() =>
  draft.inside.map((id) => ({ id, name: groups.value?.find((x) => x.id === id)?.name ?? '…' })),
)

const asked = refDebounced(
  computed(() => JSON.stringify(rule.value)),
  150,
)
const { data: preview, error: ruleError } = useQuery({
  queryKey: ['roster', 'rule', g?.id ?? 0, asked],
  queryFn: () =>
    take(
      api.POST('/groups/rule', {
        body: { ...(g?.id ? { group: g.id } : {}), rule: JSON.parse(asked.value) as Schemas['Condition'][] },
      }),
    ),
  enabled: computed(() => draft.kind === 'rule' && rule.value.length > 0),
  placeholderData: keepPreviousData,
  retry: false,
})

const save = useMutation({
  mutationFn: () => {
    const identity = Object.fromEntries(Object.entries(draft.identity).filter(([, v]) => v.trim()))
    const body: Schemas['Group'] = {
      name: draft.name,
      kind: draft.kind,
      ...(draft.unnamed ? { unnamed: true } : {}),
      ...(draft.unit ? { unit: draft.unit } : {}),
      ...(draft.archived ? { archived: true } : {}),
      ...(draft.inside.length ? { inside: draft.inside } : {}),
      identity,
      ...(draft.kind === 'rule' ? { rule: rule.value } : {}),
      ...(draft.kind === 'job'
        ? {
            ...(starts.value ? { starts: starts.value } : {}),
            ...(ends.value ? { ends: ends.value } : {}),
            ...(draft.place ? { place: draft.place } : {}),
            ...(g?.reference ? { reference: g.reference } : {}),
            ...(g?.closed ? { closed: g.closed } : {}),
          }
        : {}),
    }
    return g?.id
      ? take(api.PUT('/groups/{id}', { params: { path: { id: g.id } }, body }))
      : take(api.POST('/groups', { body }))
  },
  onSuccess: async (saved) => {
    await client.invalidateQueries({ queryKey: ['roster'] })
    emit('saved', saved.id)
  },
})
watch(
  () => draft.name,
  (now) => now && (draft.unnamed = false),
)
</script>

<template>
  <form @submit.prevent="save.mutate()">
    <h2>{{ g ? g.name : 'A new group' }}</h2>
    <SayNote v-if="save.error.value" kind="bad">{{ save.error.value.message }}</SayNote>
    <div v-if="!g" role="radiogroup" aria-label="Kind of group" class="kinds">
      <label
        v-for="[k, w, s] in [
          ['picked', 'Picked', 'a list that you fill'],
          ['rule', 'By rule', 'keeps itself up to date'],
          ['job', 'Job', 'lives as long as a job'],
        ] as const"
        :key="k"
        class="sheet"
        :class="{ on: draft.kind === k }"
        ><RadioBox v-model="draft.kind" name="kind" :value="k" /><b>{{ w }}</b
        ><span class="quiet small">{{ s }}</span></label
      >
    </div>
    <label class="field"
      ><span>Name</span
      ><TextField
        v-model="draft.name"
        dir="auto"
        :placeholder="draft.unnamed ? 'named after its people' : ''"
    /></label>
    <label v-if="draft.kind === 'picked'" class="tickbox"
      ><CheckBox v-model="draft.unnamed" @update:model-value="draft.unnamed && (draft.name = '')" />name it
      after its people until somebody gives it a name</label
    >
    <label class="field"
      ><span>Belongs to</span>
      <SelectField
        v-model="draft.unit"
        :items="[
          ...(session?.scope.whole ? [{ value: 0, title: 'the whole organisation' }] : []),
          ...(choices?.units ?? []).map((u) => ({ value: u.id, title: u.path })),
        ]"
    /></label>
    <template v-if="draft.kind === 'job'">
      <div class="two">
        <label class="field"><span>Starts</span><TimeField v-model="starts" /></label>
        <label class="field"><span>Expected to end</span><TimeField v-model="ends" /></label>
      </div>
      <label class="field"><span>Place</span><TextField v-model="draft.place" dir="auto" /></label>
    </template>
    <template v-if="draft.kind === 'rule'">
      <h3>Who is in it</h3>
      <RuleStack v-model="rule" :filters="preview?.filters ?? []" />
      <SayNote v-if="ruleError" kind="bad">{{ ruleError.message }}</SayNote>
      <SayNote v-else-if="preview && rule.length" kind="good">
        {{ people(preview.people) }} would be in it<template v-if="g"
          >: {{ people(preview.joins.all) }} would join, {{ people(preview.leaves.all) }} would
          leave</template
        >.
        <div v-if="preview.joins.all && g" class="small">
          Join:
          {{
            preview.joins.people
              .slice(0, 12)
              .map((p) => p.name)
              .join(', ')
          }}{{ preview.joins.all > 12 ? ' …' : '' }}
        </div>
        <div v-if="preview.leaves.all" class="small">
          Leave:
          {{
            preview.leaves.people
              .slice(0, 12)
              .map((p) => p.name)
              .join(', ')
          }}{{ preview.leaves.all > 12 ? ' …' : '' }}
        </div>
      </SayNote>
    </template>
    <h3>Groups inside it</h3>
    <div v-if="nested.length" class="chips">
      <span v-for="n in nested" :key="n.id" class="chip"
        ><bdi>{{ n.name }}</bdi
        ><button
          type="button"
          class="icon"
          :aria-label="`Take ${n.name} out`"
          @click="draft.inside = draft.inside.filter((id) => id !== n.id)"
        >
          <v-icon :icon="mdiClose" size="13" /></button
      ></span>
    </div>
    <FindBox
      :kinds="['group']"
      label="Put a group inside"
      @pick="(f) => !draft.inside.includes(f.id) && draft.inside.push(f.id)"
    />
    <h3>How its people see who writes</h3>
    <div class="two">
      <label class="field"
        ><span>Sender name</span><TextField v-model="draft.identity.name" dir="auto"
      /></label>
      <label class="field"><span>Number on texts</span><TextField v-model="draft.identity.number" /></label>
      <label class="field"><span>Number on calls</span><TextField v-model="draft.identity.caller" /></label>
    </div>
    <div class="row">
      <v-btn type="submit" color="primary" variant="flat" :disabled="save.isPending.value">{{
        g ? 'Save' : 'Make the group'
      }}</v-btn>
      <v-btn @click="emit('leave')">Never mind</v-btn>
    </div>
  </form>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 11px;
}

.kinds {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}

.kinds label {
  padding: 8px 10px;
  display: grid;
  grid-template-columns: 18px 1fr;
  gap: 1px 4px;
  align-items: center;
  cursor: pointer;
}

.kinds .quiet {
  grid-column: 2;
}

.kinds .on {
  border-color: var(--deep2);
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 12px;
}

h3 {
  margin-top: 6px;
}
</style>
