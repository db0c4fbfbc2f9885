<script setup lang="ts">
import { ref } from 'vue'
import { api, take } from '@/api/client'
import { useTimes } from '@/composables/session'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'
import { type Carrier, type Run } from './carriers'

/** Hands a trial to a carrier, to oneself. */
const props = defineProps<{
  carrier: Carrier
  mailbox: string
  run: Run
}>()
const times = useTimes()
const email = props.carrier.setup.channel === 'email'
const to = ref(email ? props.mailbox : '')
const busy = ref(false)
const sent = ref('')
const problem = ref('')

async function send() {
  busy.value = true
  sent.value = ''
  const path = { id: props.carrier.id }
  const body = { to: to.value }
  problem.value = await props.run(() =>
    take(api.POST('/settings/carriers/{id}/trial', { params: { path }, body })),
  )
  if (!problem.value) sent.value = to.value
  busy.value = false
}
</script>

<template>
  <form class="sheet" aria-label="A trial" @submit.prevent="send">
    <h2>A trial to yourself</h2>
    <label class="field"
      ><span>{{ email ? 'Your mailbox' : 'Your number' }}</span
      ><TextField v-model="to" />
      <small
        >Handed to this carrier at once, whatever the stand-ins take. It is no message of the record.</small
      ></label
    >
    <div class="row">
      <v-btn type="submit" :disabled="busy || !to">{{ busy ? 'Handing it over…' : 'Send a trial' }}</v-btn>
      <span v-if="!sent && carrier.triedAt && !carrier.tried" class="quiet small"
        >The last was taken {{ times.moment(carrier.triedAt) }}.</span
      >
    </div>
    <SayNote v-if="sent" kind="good">The carrier took it. Look whether it arrives at {{ sent }}.</SayNote>
    <SayNote v-else-if="problem" kind="bad">{{ problem }}</SayNote>
    <SayNote v-else-if="carrier.tried" kind="bad"
      >Not taken {{ times.moment(carrier.triedAt) }}: {{ carrier.tried }}</SayNote
    >
  </form>
</template>

<style scoped>
form {
  padding: 12px 14px;
  display: grid;
  gap: 10px;
}

h2 {
  margin: 0;
}

small {
  color: var(--ink2);
  font-size: 12.5px;
}
</style>
