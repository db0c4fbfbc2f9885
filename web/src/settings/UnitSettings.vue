<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { thousands } from '@/composables/words'
import AreaField from '@/controls/AreaField.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

const props = defineProps<{
  settings: Schemas['SettingsView']
  change: (request: () => Promise<unknown>) => Promise<boolean>
}>()

const units = computed(() => [...props.settings.units].sort((a, b) => a.path.localeCompare(b.path)))
const open = ref<number>()
const name = ref('')
const parent = ref(0)
const prefix = ref('')
const footer = ref('')

function edit(u?: Schemas['UnitView']) {
  open.value = u?.id ?? 0
  name.value = u?.name ?? ''
  parent.value = u?.parent ?? 0
  prefix.value = u?.prefix ?? ''
  footer.value = u?.footer ?? ''
}

async function save() {
  const body = {
    name: name.value,
    prefix: prefix.value,
    footer: footer.value,
    ...(parent.value ? { parent: parent.value } : {}),
    ...(open.value ? { id: open.value } : {}),
  }
  if (await props.change(() => take(api.POST('/units', { body })))) open.value = undefined
}
const drop = (id: number) => props.change(() => take(api.DELETE('/units/{id}', { params: { path: { id } } })))
</script>

<template>
  <section class="narrow">
    <p class="quiet">
      Units own people and groups, and bound what an account may see and touch. Units nest: an account that
      reaches a unit reaches what is inside it.
    </p>
    <table class="plain sheet">
      <thead>
        <tr>
          <th>Unit</th>
          <th class="num">People of its own</th>
          <th class="num">Groups</th>
          <th><span class="sr-only">Change</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="u in units" :key="u.id">
          <td :style="{ paddingInlineStart: `${16 + (u.path.split(' › ').length - 1) * 20}px` }">
            {{ u.name }} <span class="quiet small">{{ u.prefix }}</span>
          </td>
          <td class="num">{{ thousands(u.people) }}</td>
          <td class="num">{{ thousands(u.groups) }}</td>
          <td class="acts">
            <button class="link" @click="edit(u)">Change</button>
            <button class="link" @click="drop(u.id!)">Delete</button>
          </td>
        </tr>
        <tr v-if="!units.length">
          <td colspan="4" class="quiet">No units: everybody belongs to the organisation as a whole.</td>
        </tr>
      </tbody>
    </table>
    <form v-if="open !== undefined" class="sheet" @submit.prevent="save">
      <label class="field"><span>Name</span><TextField v-model="name" required /></label>
      <label class="field"
        ><span>Inside</span>
        <SelectField
          v-model="parent"
          :items="[
            { value: 0, title: 'nothing: it is one of the outermost' },
            ...units.filter((x) => x.id !== open).map((u) => ({ value: u.id, title: u.path })),
          ]"
      /></label>
      <label class="field"
        ><span>Before the subject of its emails</span
        ><TextField v-model="prefix" maxlength="40" placeholder="such as [Juniors]"
      /></label>
      <label class="field wide"
        ><span>Under its emails</span><AreaField v-model="footer" rows="3" maxlength="2000" dir="auto" />
      </label>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat">Save</v-btn>
        <v-btn @click="open = undefined">Never mind</v-btn>
      </div>
    </form>
    <v-btn v-else @click="edit()">Add a unit…</v-btn>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 760px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 12px;
}

.wide {
  grid-column: 1 / -1;
}

form {
  padding: 14px;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  align-self: stretch;
}
</style>
