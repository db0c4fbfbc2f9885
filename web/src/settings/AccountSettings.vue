<script setup lang="ts">
import { computed, nextTick, reactive, ref, useTemplateRef } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import SayNote from '@/components/SayNote.vue'
import RadioBox from '@/controls/RadioBox.vue'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'

type Account = Schemas['AccountView']

const props = defineProps<{
  settings: Schemas['SettingsView']
  change: (request: () => Promise<unknown>) => Promise<boolean>
}>()

const { moment } = useTimes()
const { data: accounts, refetch } = useQuery({
  queryKey: ['accounts'],
  queryFn: () => take(api.GET('/accounts')),
})
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

const opened = computed(() => accounts.value?.find((a) => a.id === open.value))
const invitation = ref<Schemas['InvitationView']>()
const invites = ref(true)
const form = useTemplateRef<HTMLElement>('form')

function edit(a?: Account) {
  open.value = a?.id ?? 0
  invitation.value = undefined
  invites.value = !a?.password
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
  const { whole, units, ...rest } = draft
  const password = invites.value ? '' : draft.password
  const ok = await props.change(() =>
    take(
      api.POST('/accounts', {
        body: {
          ...rest,
          password: undefined,
          ...(open.value ? { id: open.value } : {}),
          ...(password ? { password } : {}),
          scope: { whole, units: whole ? [] : units },
        },
      }),
    ),
  )
  if (!ok) return
  await refetch()
  const saved = accounts.value?.find((a) => a.login.toLowerCase() === draft.login.trim().toLowerCase())
  if (saved && !saved.password && saved.active && invites.value) {
    open.value = saved.id
    await invite(saved.id)
    await nextTick()
    form.value?.scrollIntoView({ block: 'start' })
    return
  }
  open.value = undefined
}

const invite = (id: number) =>
  props.change(async () => {
    invitation.value = await take(api.POST('/accounts/{id}/invitation', { params: { path: { id } } }))
  })
const dropFactor = (id: number) =>
  props.change(() => take(api.DELETE('/accounts/{id}/factor', { params: { path: { id } } })))
const copyLink = () => void navigator.clipboard.writeText(invitation.value?.link ?? '')

/** How an account signs in, when there is something to know about it. */
function doorOf(a: Account): string {
  if (!a.active) return 'not active: cannot sign in'
  if (a.password) return ''
  if (!a.invited) return 'not invited yet'
  return Date.parse(a.invited) > Date.now()
    ? `invited, until ${moment(a.invited)}`
    : 'the invitation has ended'
}

/** Says which rights need a second factor. */
function need(right: Account['rights'][number], on: boolean) {
  const rights = props.settings.rights.filter((r) => (r.right === right ? on : r.factor)).map((r) => r.right)
  return props.change(() => take(api.PUT('/settings/factor', { body: { rights } })))
}
const words = (a: Account) =>
  a.rights.map((r) => props.settings.rights.find((x) => x.right === r)?.words ?? r).join(', ')

/** Who holds each right, for the one who looks after them. */
const holders = computed(() =>
  props.settings.rights.map((r) => ({
    ...r,
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
              <span v-if="doorOf(a)" class="small" :class="a.active ? 'mind' : 'bad'">{{ doorOf(a) }}</span>
              <span v-if="a.factor" class="quiet small">with a second factor</span>
            </td>
            <td>{{ a.scope.whole ? 'the whole organisation' : a.units.join(', ') }}</td>
            <td class="small">{{ words(a) || 'nothing' }}</td>
          </tr>
        </tbody>
      </table>
      <v-btn class="more" @click="edit()">Add an account…</v-btn>
    </div>
    <form v-if="open !== undefined" ref="form" class="sheet" @submit.prevent="save">
      <h2>{{ open ? draft.name : 'A new account' }}</h2>
      <SayNote v-if="invitation" :kind="invitation.mailed ? 'good' : 'mind'">
        <template v-if="invitation.mailed">The link is on its way to {{ draft.login }}.</template>
        <template v-else
          >The link could not be mailed: {{ invitation.problem }}. Pass it on by hand:</template
        >
        <span class="path">{{ invitation.link }}</span>
        <button type="button" class="link small" @click="copyLink">Copy it</button>
        <span class="quiet small"> It counts once, until {{ moment(invitation.ends) }}.</span>
      </SayNote>
      <label class="field"><span>Name</span><TextField v-model="draft.name" required /></label>
      <label class="field"
        ><span>Mail address, to sign in with</span><TextField v-model="draft.login" type="email" required
      /></label>
      <label class="field"><span>What they do here</span><TextField v-model="draft.duty" /></label>
      <label v-if="opened?.password" class="field"
        ><span>A new password, if it is to change</span
        ><TextField v-model="draft.password" type="password" autocomplete="new-password"
      /></label>
      <fieldset v-else class="ticks column">
        <legend>The first password</legend>
        <label class="tickbox"
          ><RadioBox v-model="invites" :value="true" name="first" />they choose it: mail them a link</label
        >
        <label class="tickbox"
          ><RadioBox v-model="invites" :value="false" name="first" />I set it, and tell them</label
        >
        <label v-if="!invites" class="field"
          ><span>Password, ten characters at least</span
          ><TextField v-model="draft.password" type="password" autocomplete="new-password"
        /></label>
      </fieldset>
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
        <v-btn type="submit" color="primary" variant="flat">{{
          !opened && invites ? 'Save and invite' : 'Save'
        }}</v-btn>
        <v-btn @click="open = undefined">{{ invitation ? 'Close' : 'Never mind' }}</v-btn>
        <button
          v-if="opened && !opened.password && opened.active && !invitation"
          type="button"
          class="link small"
          @click="invite(opened.id)"
        >
          Invite again
        </button>
        <button
          v-if="opened?.factor && !opened.self"
          type="button"
          class="link small bad"
          @click="dropFactor(opened.id)"
        >
          Take the second factor away
        </button>
      </div>
    </form>
    <section v-else class="sheet rights">
      <h2>Who may what</h2>
      <dl>
        <template v-for="h in holders" :key="h.words">
          <dt>
            {{ h.words }}
            <label class="tickbox need"
              ><CheckBox :model-value="h.factor" @update:model-value="need(h.right, Boolean($event))" />with a
              second factor only</label
            >
          </dt>
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

dt {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  align-items: center;
}

.need {
  font-weight: 400;
  white-space: nowrap;
}

dd {
  margin: 1px 0 9px;
}

.path {
  display: block;
  overflow-wrap: anywhere;
  margin: 3px 0;
}
</style>
