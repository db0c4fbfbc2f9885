<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Draft, type Schemas } from '@/api/client'
import { useChoices } from '@/composables/choices'
import { useSession } from '@/composables/session'
import { contentOf, sayAs, useShelf } from '@/composables/shelf'
import SayNote from '@/components/SayNote.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

/** Templates to begin with, and where this message becomes one. */
const open = defineModel<boolean>({ required: true })
const draft = defineModel<Draft>('draft', { required: true })

const client = useQueryClient()
const { data: session } = useSession()
const { data: choices } = useChoices()
const { data: shelf, error } = useShelf()
const templates = computed(() => shelf.value?.filter((s) => s.kind === 'template') ?? [])

const chosen = ref<Schemas['ShelfView']>()
const values = reactive<Record<string, string>>({})
watch(open, () => (chosen.value = undefined))

function choose(item: Schemas['ShelfView']) {
  for (const key of Object.keys(values)) delete values[key]
  chosen.value = item
  if (!item.blanks.length) use.mutate()
}

const use = useMutation({
  mutationFn: () =>
    take(
      api.POST('/shelf/{id}/use', {
        params: { path: { id: chosen.value!.id } },
        body: { values: { ...values } },
      }),
    ),
  onSuccess: (content) => {
    sayAs(draft.value, content)
    open.value = false
  },
})

const name = ref('')
const shared = ref('own')
watch(open, () => (name.value = draft.value.subject))
const keep = useMutation({
  mutationFn: () =>
    take(
      api.POST('/shelf', {
        body: {
          kind: 'template',
          name: name.value,
          own: shared.value === 'own',
          ...(Number(shared.value) ? { unit: Number(shared.value) } : {}),
          content: contentOf(draft.value),
        },
      }),
    ),
  onSuccess: (list) => client.setQueryData(['shelf'], list),
})
const problem = computed(() => error.value ?? use.error.value ?? keep.error.value)
</script>

<template>
  <SideDrawer v-model="open" title="Templates" note="they change what it says, never who gets it">
    <SayNote v-if="problem" kind="bad">{{ problem.message }}</SayNote>
    <p v-if="!templates.length" class="quiet">No templates yet. Save this message as one below.</p>
    <ul>
      <li v-for="t in templates" :key="t.id">
        <button class="link" @click="choose(t)">
          <bdi>{{ t.name }}</bdi>
        </button>
        <span class="quiet small">{{ t.shared }}</span>
        <p class="quiet small said" dir="auto">{{ t.plain }}</p>
        <form
          v-if="chosen?.id === t.id && t.blanks.length"
          class="sheet blanks"
          @submit.prevent="use.mutate()"
        >
          <label v-for="b in t.blanks" :key="b"
            ><span>{{ b }}</span
            ><TextField v-model="values[b]" :aria-label="b"
          /></label>
          <div class="row">
            <v-btn type="submit" color="primary" variant="flat">Use it</v-btn>
            <span class="quiet small">What stays empty can be written later.</span>
          </div>
        </form>
      </li>
    </ul>
    <h3>Save this message as a template</h3>
    <form class="keep" @submit.prevent="keep.mutate()">
      <TextField v-model="name" aria-label="Name of the template" placeholder="Name" maxlength="200" />
      <SelectField
        v-model="shared"
        aria-label="For whom"
        :items="[
          { value: 'own', title: 'only me' },
          ...(session?.scope.whole ? [{ value: 'all', title: 'everybody' }] : []),
          ...(choices?.units ?? []).map((u) => ({ value: String(u.id), title: u.path })),
        ]"
      />
      <v-btn type="submit" :disabled="!name.trim() || keep.isPending.value">Save</v-btn>
    </form>
    <p v-if="keep.isSuccess.value" class="small quiet" role="status">It stands above now.</p>
    <p class="small quiet">
      Write {{ '{' }}{ask: day}} where something is to be filled in whenever it is used.
    </p>
    <p class="small">
      <router-link class="link" to="/shelf"
        >The whole shelf, with quick texts and earlier versions</router-link
      >
    </p>
  </SideDrawer>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0 0 14px;
  padding: 0;
}

li {
  padding: 7px 0;
  border-bottom: 1px solid var(--hair);
}

li .small {
  margin-inline-start: 8px;
}

.said {
  margin: 2px 0 0 !important;
  overflow: hidden;
  display: -webkit-box;
  -webkit-line-clamp: 2;
  line-clamp: 2;
  -webkit-box-orient: vertical;
}

.blanks {
  padding: 10px;
  margin-top: 6px;
  display: grid;
  gap: 6px;
}

.blanks label {
  display: grid;
  grid-template-columns: 110px 1fr;
  align-items: center;
}

.keep {
  display: flex;
  gap: 8px;
  margin: 6px 0;
}

h3 {
  font-size: 12.5px;
}

.keep .control:first-child {
  flex: 1;
}
</style>
