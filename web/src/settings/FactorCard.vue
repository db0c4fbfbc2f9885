<script setup lang="ts">
import { ref } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { count } from '@/composables/words'
import { sessionQuery } from '@/composables/session'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'

/** One's second factor: set up with a code of it, kept with recovery codes, taken away. */
const props = defineProps<{ account: Schemas['OwnAccount'] }>()
const emit = defineEmits<{ changed: [] }>()
const client = useQueryClient()
const password = ref('')
const code = ref('')

const changed = async () => {
  password.value = code.value = ''
  emit('changed')
  await client.invalidateQueries({ queryKey: sessionQuery.queryKey }) // what the account may do now
}
const offer = useMutation({
  mutationFn: () => take(api.POST('/session/factor', { body: { password: password.value } })),
})
const confirm = useMutation({
  mutationFn: () => take(api.PUT('/session/factor', { body: { code: code.value } })),
  onSuccess: async () => {
    offer.reset()
    await changed()
  },
})
const drop = useMutation({
  mutationFn: () => take(api.POST('/session/factor/off', { body: { password: password.value } })),
  onSuccess: async () => {
    confirm.reset()
    await changed()
  },
})
const inFours = (secret: string) => secret.replace(/.{4}(?=.)/g, '$& ')
</script>

<template>
  <section class="sheet" aria-label="Second factor">
    <h2>Second factor</h2>
    <SayNote v-if="!props.account.factor && props.account.needed.length" kind="mind">
      Your organisation asks for one to {{ props.account.needed.join(', ') }}.
    </SayNote>
    <template v-if="confirm.data.value">
      <SayNote kind="good">From now on the sign-in asks for a code of your device.</SayNote>
      <p class="small">
        Write these recovery codes down, or print them: each lets you in once when the device is lost. They
        are shown only now.
      </p>
      <ol class="codes">
        <li v-for="c in confirm.data.value.codes" :key="c">{{ c }}</li>
      </ol>
      <v-btn @click="confirm.reset()">I have them</v-btn>
    </template>
    <form v-else-if="offer.data.value" @submit.prevent="confirm.mutate()">
      <div class="scan">
        <img
          :src="offer.data.value.picture"
          alt="The secret as a picture to be scanned"
          width="176"
          height="176"
        />
        <p class="small">
          Scan this with a program for codes on your phone, or type the secret into it:
          <b class="secret">{{ inFours(offer.data.value.secret) }}</b>
        </p>
      </div>
      <label class="field"
        ><span>The code that it shows</span
        ><TextField v-model="code" autocomplete="one-time-code" placeholder="six digits"
      /></label>
      <SayNote v-if="confirm.error.value" kind="bad">{{ confirm.error.value.message }}</SayNote>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat" :disabled="!code || confirm.isPending.value"
          >Turn it on</v-btn
        >
        <v-btn @click="offer.reset()">Never mind</v-btn>
      </div>
    </form>
    <form v-else @submit.prevent="props.account.factor ? drop.mutate() : offer.mutate()">
      <p class="small">
        <template v-if="props.account.factor"
          >It is on.
          {{ count(props.account.recovery, 'recovery code is', 'recovery codes are') }} left.</template
        >
        <template v-else
          >A code of your phone besides the password: whoever learns your password does not come in.</template
        >
      </p>
      <input type="text" autocomplete="username" :value="props.account.login" hidden />
      <label class="field"
        ><span>Present password</span
        ><TextField v-model="password" type="password" autocomplete="current-password"
      /></label>
      <SayNote v-if="offer.error.value ?? drop.error.value" kind="bad">{{
        (offer.error.value ?? drop.error.value)?.message
      }}</SayNote>
      <v-btn
        type="submit"
        :color="props.account.factor ? undefined : 'primary'"
        :variant="props.account.factor ? undefined : 'flat'"
        :disabled="!password || offer.isPending.value || drop.isPending.value"
        >{{ props.account.factor ? 'Take it away' : 'Set it up' }}</v-btn
      >
    </form>
  </section>
</template>

<style scoped>
section,
form {
  display: grid;
  gap: 10px;
}

section {
  padding: 12px 14px;
}

h2,
p {
  margin: 0;
}

form > .v-btn,
section > .v-btn {
  justify-self: start;
}

.scan {
  display: flex;
  gap: 14px;
  align-items: center;
}

.secret {
  display: block;
  margin-top: 6px;
  word-spacing: 2px;
}

.codes {
  font-variant-numeric: tabular-nums;
  margin: 0;
  columns: 2;
  padding-inline-start: 28px;
  line-height: 1.9;
}
</style>
