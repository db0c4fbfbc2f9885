<script setup lang="ts">
import { reactive, ref } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { people } from '@/composables/words'
import AreaField from '@/controls/AreaField.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

const props = defineProps<{
  settings: Schemas['SettingsView']
  change: (request: () => Promise<unknown>) => Promise<boolean>
}>()

const kinds = { text: 'text', number: 'number', date: 'date', choice: 'one of a list', 'yes-no': 'yes or no' }
const kindItems = Object.entries(kinds).map(([value, title]) => ({ value, title }))
const open = ref<number>()
const draft = reactive({ name: '', kind: 'text' as keyof typeof kinds, choices: '' })

function edit(a?: Schemas['AttributeView']) {
  open.value = a?.id ?? 0
  Object.assign(draft, {
    name: a?.name ?? '',
    kind: a?.kind ?? 'text',
    choices: (a?.choices ?? []).join('\n'),
  })
}

async function save() {
  const body = {
    name: draft.name,
    kind: draft.kind,
    ...(draft.kind === 'choice' ? { choices: draft.choices.split('\n') } : {}),
    ...(open.value ? { id: open.value } : {}),
  }
  if (await props.change(() => take(api.POST('/attributes', { body })))) open.value = undefined
}
const dropping = ref<number>()
async function drop(id: number) {
  await props.change(() => take(api.DELETE('/attributes/{id}', { params: { path: { id } } })))
  dropping.value = undefined
}
</script>

<template>
  <section class="narrow">
    <p class="quiet">
      What you keep about people besides names and addresses. Filters, groups by rule and roster files use
      them.
    </p>
    <table class="plain sheet">
      <thead>
        <tr>
          <th>Attribute</th>
          <th>Kind</th>
          <th>Filled in for</th>
          <th><span class="sr-only">Change</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="a in settings.attributes" :key="a.id">
          <td>{{ a.name }}</td>
          <td>
            {{ kinds[a.kind]
            }}<span v-if="a.choices?.length" class="quiet">: {{ a.choices.join(', ') }}</span>
          </td>
          <td>{{ people(a.people) }}</td>
          <td class="acts">
            <template v-if="dropping === a.id">
              <span class="bad small">Takes its values away for good.</span>
              <button class="link bad" @click="drop(a.id!)">Delete it</button>
              <button class="link" @click="dropping = undefined">Keep</button>
            </template>
            <template v-else>
              <button class="link" @click="edit(a)">Change</button>
              <button class="link" @click="dropping = a.id">Delete…</button>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <form v-if="open !== undefined" class="sheet" @submit.prevent="save">
      <label class="field"><span>Name</span><TextField v-model="draft.name" required /></label>
      <label class="field"
        ><span>Kind</span> <SelectField v-model="draft.kind" :disabled="Boolean(open)" :items="kindItems"
      /></label>
      <label v-if="draft.kind === 'choice'" class="field wide"
        ><span>What to choose from, one a line</span><AreaField v-model="draft.choices" rows="4" />
      </label>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat">Save</v-btn>
        <v-btn @click="open = undefined">Never mind</v-btn>
      </div>
    </form>
    <v-btn v-else @click="edit()">Add an attribute…</v-btn>
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

form {
  padding: 14px;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  align-self: stretch;
}

.wide {
  grid-column: 1 / -1;
}
</style>
