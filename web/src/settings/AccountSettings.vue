<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'

type Account = Schemas['AccountView']

const props = defineProps<{
  settings: Schemas['SettingsView']
  change: (request: () => Promise<unknown>) => Promise<boolean>
}>()

const { data: accounts } = useQuery({ queryKey: ['accounts'], queryFn: () => take(api.GET('/accounts')) })
const open = ref<number>()
const draft = reactive({
  login: '',
  name: '',
  duty: '',
  active: true,
  password: '',
  whole: false,
  units: [] as number[],
  rights: [] as Account['rights'],
})

function edit(a?: Account) {
  open.value = a?.id ?? 0
  Object.assign(draft, {
    login: a?.login ?? '',
    name: a?.name ?? '',
    duty: a?.duty ?? '',
    active: a?.active ?? true,
    password: '',
    whole: a?.scope.whole ?? false,
    units: [...(a?.scope.units ?? [])],
    rights: [...(a?.rights ?? ['see-people', 'write', 'read-records'])],
  })
}

async function save() {
  const { password, whole, units, ...rest } = draft
  const ok = await props.change(() =>
    take(
      api.POST('/accounts', {
        body: {
          ...rest,
          ...(open.value ? { id: open.value } : {}),
          ...(password ? { password } : {}),
          scope: { whole, units: whole ? [] : units },
        },
      }),
    ),
  )
  if (ok) open.value = undefined
}
const words = (a: Account) =>
  a.rights.map((r) => props.settings.rights.find((x) => x.right === r)?.words ?? r).join(', ')

/** Who holds each right, for the one who looks after them. */
const holders = computed(() =>
  props.settings.rights.map((r) => ({
    words: r.words,
    names: (accounts.value ?? []).filter((a) => a.active && a.rights.includes(r.right)).map((a) => a.name),
  })),
)
</script>

<template>
  <section class="two">
    <div>
      <table class="plain sheet">
        <thead>
          <tr>
            <th>Name</th>
            <th>Reaches</th>
            <th>May</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="a in accounts"
            :key="a.id"
            class="go"
            :class="{ on: open === a.id, off: !a.active }"
            @click="edit(a)"
          >
            <td>
              <button class="link" @click.stop="edit(a)">{{ a.name }}</button>
              <div class="quiet small">{{ a.login }}{{ a.duty ? ` · ${a.duty}` : '' }}</div>
              <span v-if="!a.active" class="bad small">not active: cannot sign in</span>
            </td>
            <td>{{ a.scope.whole ? 'the whole organisation' : a.units.join(', ') }}</td>
            <td class="small">{{ words(a) || 'nothing' }}</td>
          </tr>
        </tbody>
      </table>
      <v-btn class="more" @click="edit()">Add an account…</v-btn>
    </div>
    <form v-if="open !== undefined" class="sheet" @submit.prevent="save">
      <h2>{{ open ? draft.name : 'A new account' }}</h2>
      <label class="field"><span>Name</span><TextField v-model="draft.name" required /></label>
      <label class="field"
        ><span>Mail address, to sign in with</span><TextField v-model="draft.login" type="email" required
      /></label>
      <label class="field"><span>What they do here</span><TextField v-model="draft.duty" /></label>
      <label class="field"
        ><span>{{ open ? 'A new password, if it is to change' : 'Password, ten characters at least' }}</span
        ><TextField v-model="draft.password" type="password" autocomplete="new-password"
      /></label>
      <fieldset class="ticks column">
        <legend>Reaches</legend>
        <label class="tickbox"><CheckBox v-model="draft.whole" />the whole organisation</label>
        <template v-if="!draft.whole">
          <label v-for="u in settings.units" :key="u.id" class="tickbox unit"
            ><CheckBox v-model="draft.units" :value="u.id" />{{ u.path }}</label
          >
        </template>
      </fieldset>
      <fieldset class="ticks column">
        <legend>May</legend>
        <label v-for="r in settings.rights" :key="r.right" class="tickbox" :class="{ quiet: !r.held }"
          ><CheckBox v-model="draft.rights" :value="r.right" :disabled="!r.held" />{{ r.words }}</label
        >
      </fieldset>
      <label class="tickbox"><CheckBox v-model="draft.active" />active: may sign in</label>
      <p v-if="open && !draft.active" class="quiet small">
        Whoever is signed in with it is signed out at once.
      </p>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat">Save</v-btn>
        <v-btn @click="open = undefined">Never mind</v-btn>
      </div>
    </form>
    <section v-else class="sheet rights">
      <h2>Who may what</h2>
      <dl>
        <template v-for="h in holders" :key="h.words">
          <dt>{{ h.words }}</dt>
          <dd :class="{ mind: !h.names.length }">
            <bdi>{{ h.names.join(', ') || 'nobody' }}</bdi>
          </dd>
        </template>
      </dl>
      <p class="quiet small">Choose an account to change what it may do and whom it reaches.</p>
    </section>
  </section>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 16px;
  align-items: start;
}

form {
  width: 340px;
  padding: 14px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}

td:first-child {
  min-width: 15rem;
}

.column {
  flex-direction: column;
}

.unit {
  overflow-wrap: anywhere;
  padding-inline-start: 14px;
}

tr.on td {
  background: #e3edf0 !important;
}

tr.off {
  color: var(--ink2);
}

.more {
  margin-top: 10px;
}

.rights {
  padding: 12px 14px;
}

dl {
  margin: 8px 0 10px;
}

dt {
  font-size: 12px;
  font-weight: 600;
  color: var(--ink2);
}

dd {
  margin: 1px 0 9px;
}
</style>
