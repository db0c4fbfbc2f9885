<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { useSession } from '@/composables/session'
import SayNote from '@/components/SayNote.vue'
import AreaField from '@/controls/AreaField.vue'
import CheckBox from '@/controls/CheckBox.vue'
import NumberField from '@/controls/NumberField.vue'
import RadioBox from '@/controls/RadioBox.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'
import CarrierTrial from './CarrierTrial.vue'
import MailProof from './MailProof.vue'
import { usualSetup, written, type Carried, type Carrier, type Run } from './carriers'

/** Sets one carrier up, tries it, and shows what to publish for its emails. */
const props = defineProps<{
  channel: Carried
  carrier?: Carrier
  carriers: Schemas['CarriersView']
  run: Run
}>()
const emit = defineEmits<{ added: []; remove: [id: number]; close: [] }>()
const { data: session } = useSession()

const copied = (s: Schemas['Setup']): Schemas['Setup'] => ({
  ...s,
  ...(s.server ? { server: { ...s.server } } : {}),
  ...(s.gateway ? { gateway: { ...s.gateway, template: written(s.gateway.template) } } : {}),
})
const form = ref(copied(props.carrier?.setup ?? usualSetup(props.channel)))
const templated = ref(Boolean(form.value.gateway?.template))
const password = ref('')
const token = ref('')
const reports = ref('')
const saved = ref(false)
const problem = ref('')

const names = { email: 'mail server', text: 'carrier for texts', voice: 'carrier for calls' }
const securities = [
  { value: 'starttls' as const, title: 'STARTTLS, usual at 587' },
  { value: 'tls' as const, title: 'TLS from the start, usual at 465' },
  { value: 'open' as const, title: 'none: for a server on this machine' },
]
const kept = (there?: boolean) => (there ? 'kept as it is' : 'none')
const usualPorts = { starttls: 587, tls: 465, open: 25 }
watch(
  () => form.value.server?.security,
  (now, before) => {
    const server = form.value.server
    if (server && now && before && server.port === usualPorts[before]) server.port = usualPorts[now]
  },
)
const examples = computed(() => props.carriers.examples.map((e) => ({ value: e.template, title: e.name })))

async function save() {
  saved.value = false
  const setup = copied(form.value)
  setup.perSecond ||= 0
  setup.perDay ||= 0
  setup.perDomain ||= 0
  if (setup.gateway)
    setup.gateway = templated.value ? { ...setup.gateway, url: '' } : { ...setup.gateway, template: '' }
  const given = {
    ...(password.value ? { password: password.value } : {}),
    ...(token.value ? { token: token.value } : {}),
    ...(reports.value ? { reports: reports.value } : {}),
  }
  const id = props.carrier?.id
  problem.value = await props.run(() =>
    take(api.POST('/settings/carriers', { body: { ...(id ? { id } : {}), setup, given } })),
  )
  if (problem.value) return
  password.value = token.value = reports.value = ''
  saved.value = true
  if (!id) emit('added')
}
</script>

<template>
  <div class="stack">
    <form
      class="sheet"
      :aria-label="carrier?.setup.name ?? 'A new carrier'"
      @submit.prevent="save"
      @input="saved = false"
    >
      <h2>{{ carrier?.setup.name ?? `A new ${names[channel]}` }}</h2>
      <SayNote v-if="carrier?.sealed" kind="bad">
        The key to its secrets is not the one that they were kept with. Type them again.
      </SayNote>
      <label class="field"
        ><span>What you call it</span><TextField v-model="form.name" maxlength="200" />
      </label>
      <template v-if="form.server">
        <div class="pair">
          <label class="field"
            ><span>Server</span><TextField v-model="form.server.host" placeholder="mail.example.org"
          /></label>
          <label class="field port"
            ><span>Port</span><NumberField v-model="form.server.port" min="1" max="65535"
          /></label>
        </div>
        <label class="field"
          ><span>How the connection is made safe</span
          ><SelectField v-model="form.server.security" :items="securities"
        /></label>
        <label class="field"
          ><span>User</span><TextField v-model="form.server.user" autocomplete="off" placeholder="none"
        /></label>
        <label v-if="form.server.user" class="field"
          ><span>Password</span
          ><TextField
            v-model="password"
            type="password"
            autocomplete="new-password"
            :placeholder="kept(carrier?.password)"
        /></label>
      </template>
      <template v-else-if="form.gateway">
        <fieldset class="ways">
          <legend>How it is spoken to</legend>
          <label class="tickbox"
            ><RadioBox v-model="templated" :value="false" name="form" />as docs/carriers.md says, at an
            address</label
          >
          <label class="tickbox"
            ><RadioBox v-model="templated" :value="true" name="form" />by a template</label
          >
        </fieldset>
        <label v-if="!templated" class="field"
          ><span>Address</span
          ><TextField v-model="form.gateway!.url" placeholder="https://gateway.example.org/texts"
        /></label>
        <template v-else>
          <label class="field"
            ><span>Begin with an example</span
            ><SelectField
              :items="examples"
              placeholder="choose one"
              @update:model-value="form.gateway!.template = $event"
          /></label>
          <label class="field"
            ><span>Template</span
            ><AreaField v-model="form.gateway!.template" class="code" rows="10" spellcheck="false" />
            <small>
              <template v-for="p in carriers.places" :key="p"
                ><code>{{ '{' + p + '}' }}</code
                >{{ ' ' }}</template
              >
              stand for what is sent.
            </small></label
          >
        </template>
        <label class="field"
          ><span>Key</span
          ><TextField
            v-model="token"
            type="password"
            autocomplete="off"
            :placeholder="kept(carrier?.token)"
          />
          <small
            >It shows the gateway who we are{{ templated ? ', where the template has {token}' : '' }}.</small
          ></label
        >
        <label v-if="!templated" class="field"
          ><span>Secret of its reports</span
          ><TextField
            v-model="reports"
            type="password"
            autocomplete="off"
            :placeholder="kept(carrier?.reports)"
          />
          <small
            >With it the gateway signs what it says about arrivals. Without it none are believed.</small
          ></label
        >
      </template>
      <div class="pair">
        <label class="field"
          ><span>Most in a second</span><NumberField v-model="form.perSecond" min="0" step="0.1" /><small
            >0 is no limit</small
          ></label
        >
        <label class="field"
          ><span>Most in a day</span><NumberField v-model="form.perDay" min="0" /><small
            >Emergencies go beyond it</small
          ></label
        >
      </div>
      <label v-if="form.server" class="field"
        ><span>Most in a minute to one domain</span><NumberField v-model="form.perDomain" min="0" />
        <small
          >Large mail servers take many at once for an attack. 0 is no limit; emergencies do not wait.</small
        ></label
      >
      <label class="tickbox"><CheckBox v-model="form.rests" />It rests: set up, and not used</label>
      <SayNote v-if="carrier?.readable" kind="mind"
        >Others on the way can read what goes there: the connection is not encrypted.</SayNote
      >
      <SayNote v-if="problem" kind="bad">{{ problem }}</SayNote>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat">{{ carrier ? 'Save' : 'Add it' }}</v-btn>
        <v-btn @click="emit('close')">Close</v-btn>
        <span v-if="saved" role="status" class="quiet small">Saved.</span>
        <button v-if="carrier" type="button" class="link small bad end" @click="emit('remove', carrier.id)">
          Remove it
        </button>
      </div>
    </form>
    <CarrierTrial v-if="carrier" :carrier="carrier" :mailbox="session?.login ?? ''" :run="run" />
    <MailProof v-if="carrier?.setup.server" :carrier="carrier" :mailbox="carriers.mailbox" :run="run" />
  </div>
</template>

<style scoped>
.stack {
  display: grid;
  gap: 12px;
}

form {
  padding: 12px 14px;
  display: grid;
  gap: 10px;
}

h2 {
  margin: 0;
  overflow-wrap: anywhere;
}

.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
}

.pair:has(.port) {
  grid-template-columns: minmax(0, 1fr) 96px;
}

.ways {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 4px;
}

legend {
  font-size: 12.5px;
  color: var(--ink2);
  padding: 0;
}

small {
  color: var(--ink2);
  font-size: 12.5px;
}

code {
  font-family: inherit;
  color: var(--ink);
}

.code :deep(textarea) {
  font-family: ui-monospace, monospace;
  font-size: 12px;
  line-height: 1.45;
}

.end {
  margin-inline-start: auto;
}
</style>
