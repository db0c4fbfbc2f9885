<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { sessionQuery } from '@/composables/session'
import GateDoor from '@/components/GateDoor.vue'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'

const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const login = ref('')
const password = ref('')

// Vuetify's own autofocus comes late, and would take what is typed elsewhere.
onMounted(() => document.getElementById('login')?.focus())

const { data: welcome, error: silent } = useQuery({
  queryKey: ['welcome'],
  queryFn: () => take(api.GET('/sign-in')),
})

const signIn = useMutation({
  mutationFn: (body: { login: string; password: string }) => take(api.POST('/sign-in', { body })),
  onSuccess: async (session) => {
    client.clear()
    client.setQueryData(sessionQuery.queryKey, session)
    const next = String(route.query.next ?? '/outgoing')
    await router.push(next.startsWith('/') && !next.startsWith('//') ? next : '/outgoing')
  },
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
      <form v-else @submit.prevent="signIn.mutate({ login, password })">
        <h1>Sign in</h1>
        <label for="login">Mail address</label>
        <TextField id="login" v-model="login" type="email" autocomplete="username" />
        <label for="password">Password</label>
        <TextField id="password" v-model="password" type="password" autocomplete="current-password" />
        <SayNote v-if="signIn.error.value" kind="bad">{{ signIn.error.value.message }}</SayNote>
        <SayNote v-else-if="silent" kind="bad">{{ silent.message }}</SayNote>
        <v-btn
          type="submit"
          color="primary"
          variant="flat"
          :disabled="!login || !password || signIn.isPending.value"
          >Sign in</v-btn
        >
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

form .v-btn {
  margin-top: 12px;
  align-self: flex-start;
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
