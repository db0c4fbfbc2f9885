<script setup lang="ts">
import { nextTick, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, ApiError } from '@/api/client'
import { sessionQuery } from '@/composables/session'
import GateDoor from '@/components/GateDoor.vue'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'

const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const login = ref('')
const password = ref('')
const code = ref('')
/** The password was right, and the account has a second factor. */
const second = ref(false)
const forgotten = ref(false)

// Vuetify's own autofocus comes late, and would take what is typed elsewhere.
onMounted(() => document.getElementById('login')?.focus())

const { data: welcome, error: silent } = useQuery({
  queryKey: ['welcome'],
  queryFn: () => take(api.GET('/sign-in')),
})

const signIn = useMutation({
  mutationFn: (body: { login: string; password: string; code?: string }) =>
    take(api.POST('/sign-in', { body })),
  onSuccess: async (session) => {
    client.clear()
    client.setQueryData(sessionQuery.queryKey, session)
    const next = String(route.query.next ?? '/today')
    await router.push(next.startsWith('/') && !next.startsWith('//') ? next : '/today')
  },
  onError: async (error) => {
    if (!(error instanceof ApiError) || error.details[0]?.location !== 'body.code') return
    second.value = true
    signIn.reset()
    await nextTick()
    document.getElementById('code')?.focus()
  },
})
const enter = () =>
  signIn.mutate({
    login: login.value,
    password: password.value,
    ...(second.value ? { code: code.value } : {}),
  })

const ask = useMutation({
  mutationFn: () => take(api.POST('/forgotten', { body: { login: login.value } })),
})

function offer(account: { login: string; password: string }) {
  login.value = account.login
  password.value = account.password
  signIn.mutate({ login: account.login, password: account.password })
}
</script>

<template>
  <main class="gate">
    <GateDoor>
      <p class="org">{{ welcome?.organisation }}</p>
      <p class="promise">
        One message to many people, each by the channel that reaches them, and not one too many.
      </p>
    </GateDoor>
    <section class="form">
      <div v-if="welcome && !welcome.founded" class="unfounded">
        <h1>Nothing is set up here yet</h1>
        <p>
          Open the address that the program printed when it started. It sets up your organisation in one
          sitting, and needs no terminal after that.
        </p>
      </div>
      <form v-else-if="forgotten" @submit.prevent="ask.mutate()">
        <h1>A new password</h1>
        <label for="login">Mail address</label>
        <TextField id="login" v-model="login" type="email" autocomplete="username" />
        <SayNote v-if="ask.error.value" kind="bad">{{ ask.error.value.message }}</SayNote>
        <SayNote v-else-if="ask.isSuccess.value" kind="good">
          If somebody signs in with this address, a link to a new password is on its way to it. It counts for
          an hour.
        </SayNote>
        <div class="row">
          <v-btn type="submit" color="primary" variant="flat" :disabled="!login || ask.isPending.value"
            >Send me a link</v-btn
          >
          <button type="button" class="link" @click="forgotten = false">Back to the sign-in</button>
        </div>
      </form>
      <form v-else @submit.prevent="enter">
        <h1>Sign in</h1>
        <label for="login">Mail address</label>
        <TextField id="login" v-model="login" type="email" autocomplete="username" />
        <label for="password">Password</label>
        <TextField id="password" v-model="password" type="password" autocomplete="current-password" />
        <template v-if="second">
          <label for="code">Code of your second factor</label>
          <TextField id="code" v-model="code" autocomplete="one-time-code" placeholder="six digits" />
          <small class="quiet">Without your device, one of your recovery codes does.</small>
        </template>
        <SayNote v-if="signIn.error.value" kind="bad">{{ signIn.error.value.message }}</SayNote>
        <SayNote v-else-if="silent" kind="bad">{{ silent.message }}</SayNote>
        <div class="row">
          <v-btn
            type="submit"
            color="primary"
            variant="flat"
            :disabled="!login || !password || (second && !code) || signIn.isPending.value"
            >Sign in</v-btn
          >
          <button type="button" class="link" @click="forgotten = true">Forgotten your password?</button>
        </div>
      </form>
      <div v-if="welcome?.demo.length" class="demo">
        <h2>This is the demo: come in as</h2>
        <button
          v-for="a in welcome.demo"
          :key="a.login"
          class="sheet"
          :disabled="signIn.isPending.value"
          @click="offer(a)"
        >
          <b>{{ a.name }}</b>
          <span class="quiet">{{ a.duty }}</span>
        </button>
        <p class="quiet small">
          Nobody is really written to: mail, texts and calls end at phones and mailboxes inside the program.
        </p>
      </div>
    </section>
  </main>
</template>

<style scoped>
.gate {
  min-height: 100dvh;
  display: grid;
  grid-template-columns: minmax(300px, 5fr) 6fr;
  background: var(--sheet);
}

.form {
  padding: 12vh 8% 24px;
  display: flex;
  flex-direction: column;
  gap: 36px;
}

form {
  display: flex;
  flex-direction: column;
  gap: 6px;
  max-width: 340px;
}

form h1 {
  margin-bottom: 8px;
}

.unfounded {
  max-width: 46ch;
}

.unfounded h1 {
  margin-bottom: 12px;
}

label {
  font-weight: 600;
  margin-top: 6px;
}

form .row {
  margin-top: 12px;
  gap: 16px;
}

.demo {
  display: flex;
  flex-direction: column;
  gap: 8px;
  max-width: 340px;
}

.demo button {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 9px 12px;
  font: inherit;
  cursor: pointer;
  text-align: start;
}

.demo button:hover {
  border-color: var(--deep2);
  background: var(--pane);
}
</style>
