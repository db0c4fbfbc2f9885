<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { people } from '@/composables/words'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'

const props = defineProps<{
  settings: Schemas['SettingsView']
  change: (request: () => Promise<unknown>) => Promise<boolean>
}>()

const roles = ref<string[]>([])
const languages = ref<string[]>([])
const waits = ref(true)
watch(
  () => props.settings,
  (s) => {
    roles.value = s.roles.filter((r) => !r.builtIn).map((r) => r.role)
    languages.value = s.languages.map((l) => l.value)
    waits.value = s.updatesWait
  },
  { immediate: true },
)
const role = ref('')
const language = ref('')

const save = () =>
  props.change(() =>
    take(
      api.PUT('/settings', {
        body: { roles: roles.value, languages: languages.value, updatesWait: waits.value },
      }),
    ),
  )

async function addRole() {
  roles.value = [...roles.value, role.value]
  if (await save()) role.value = ''
  else roles.value = roles.value.slice(0, -1)
}
async function addLanguage() {
  languages.value = [...languages.value, language.value]
  if (await save()) language.value = ''
  else languages.value = languages.value.slice(0, -1)
}
async function without(list: 'roles' | 'languages', value: string) {
  const before = list === 'roles' ? roles.value : languages.value
  const after = before.filter((v) => v !== value)
  if (list === 'roles') roles.value = after
  else languages.value = after
  if (await save()) return
  if (list === 'roles') roles.value = before
  else languages.value = before
}
</script>

<template>
  <div class="cols">
    <section class="sheet">
      <h2>Roles</h2>
      <p class="quiet small">What a person is here. The first five are built in; add your own.</p>
      <ul>
        <li v-for="r in settings.roles" :key="r.role">
          <span>{{ r.role }}</span>
          <span class="quiet small">{{ people(r.people) }}</span>
          <button v-if="!r.builtIn" class="link small" @click="without('roles', r.role)">Take away</button>
          <span v-else class="quiet small">built in</span>
        </li>
      </ul>
      <form class="row" @submit.prevent="addRole">
        <TextField v-model="role" aria-label="A new role" placeholder="A new role" />
        <v-btn type="submit" :disabled="!role.trim()">Add</v-btn>
      </form>
    </section>
    <section class="sheet">
      <h2>Languages</h2>
      <p class="quiet small">
        Offered first wherever a language is chosen. Messages are written in
        {{ new Intl.DisplayNames('en', { type: 'language' }).of(settings.language) }}.
      </p>
      <ul>
        <li v-for="l in settings.languages" :key="l.value">
          <span>{{ l.words }}</span>
          <span class="quiet small">{{ l.value }}</span>
          <button class="link small" @click="without('languages', l.value)">Take away</button>
        </li>
      </ul>
      <form class="row" @submit.prevent="addLanguage">
        <TextField v-model="language" aria-label="Another language" placeholder="Tigrinya, or ti" />
        <v-btn type="submit" :disabled="!language.trim()">Add</v-btn>
      </form>
    </section>
    <section class="sheet">
      <h2>What people correct themselves</h2>
      <label class="tickbox"
        ><CheckBox v-model="waits" @update:model-value="save()" />waits on the Gaps page for somebody’s
        yes</label
      >
      <p class="quiet small">
        {{
          waits
            ? 'Nothing changes on the roster before.'
            : 'It is on the roster at once, in the history of the person.'
        }}
      </p>
    </section>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(300px, 100%), 1fr));
  gap: 16px;
  align-items: start;
}

section {
  padding: 14px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 1fr auto 76px;
  gap: 12px;
  align-items: baseline;
  padding: 4px 0;
  border-bottom: 1px solid var(--hair);
}

li > :last-child {
  text-align: end;
}

form .control {
  flex: 1;
}
</style>
