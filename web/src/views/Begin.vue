<script setup lang="ts">
import { ref, watch } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { api, take, type Schemas } from '@/api/client'
import { sessionQuery } from '@/composables/session'
import GateDoor from '@/components/GateDoor.vue'
import SayNote from '@/components/SayNote.vue'
import RadioBox from '@/controls/RadioBox.vue'
import TextField from '@/controls/TextField.vue'
import PlaceFields from '@/settings/PlaceFields.vue'

/** Sets up an organisation in one sitting; what is typed is kept until it is done. */
const props = defineProps<{ token: string }>()

const client = useQueryClient()
const path = { token: props.token }
const { data, error } = useQuery({
  queryKey: ['begin', props.token],
  queryFn: () => take(api.GET('/begin/{token}', { params: { path } })),
  staleTime: Infinity,
  retry: false,
})

const typed = ref<Schemas['Typed']>()
const password = ref('')

const kept = ref('')
const keep = useDebounceFn(async () => {
  if (!typed.value || found.isSuccess.value) return
  const { response } = await api.PUT('/begin/{token}', { params: { path }, body: typed.value })
  kept.value = response.ok ? 'Kept. You can close this page and open its address again.' : ''
}, 600)
watch(data, (d) => (typed.value ??= d && { ...d.typed }), { immediate: true })

watch(
  typed,
  (_, before) => {
    kept.value = ''
    if (before) void keep()
  },
  { deep: true },
)

const found = useMutation({
  mutationFn: async (body: { typed: Schemas['Typed']; password: string }) => {
    await take(api.POST('/begin/{token}', { params: { path }, body }))
    client.removeQueries({ queryKey: ['welcome'] })
    return client.fetchQuery({ ...sessionQuery, staleTime: 0 })
  },
})

const steps = ['Your organisation', 'Your account', 'How messages leave']
</script>

<template>
  <main class="gate">
    <GateDoor>
      <template v-if="found.data.value">
        <p class="org">{{ found.data.value.organisation }}</p>
        <p class="promise">is set up.</p>
      </template>
      <template v-else>
        <p class="org">Set up your organisation</p>
        <ol>
          <li v-for="step in steps" :key="step">{{ step }}</li>
        </ol>
        <p class="promise">Everything here can be changed later in Settings.</p>
      </template>
    </GateDoor>
    <section class="form">
      <div v-if="error" class="part">
        <h1>This address does not set anything up</h1>
        <p>{{ error.message }}</p>
        <p><router-link to="/sign-in">To the sign-in</router-link></p>
      </div>
      <div v-else-if="found.data.value" class="part">
        <h1>Welcome, {{ found.data.value.name }}</h1>
        <p>You are signed in, with every right. What comes next:</p>
        <ul class="next">
          <li v-if="typed && !typed.standIns && !data?.carried">
            <router-link to="/settings?of=carriers">Set up how messages leave</router-link>
            <span class="quiet"
              >A mail server, gateways for texts and calls, each with a trial to yourself.</span
            >
          </li>
          <li>
            <router-link to="/people/import">Load your roster file</router-link>
            <span class="quiet"
              >CSV, XLSX, vCard or OneRoster. You see what it would do before it does it.</span
            >
          </li>
          <li>
            <router-link to="/settings">Look through the settings</router-link>
            <span class="quiet">Accounts for others, quiet hours, roles, units and budgets.</span>
          </li>
          <li>
            <router-link to="/write/new">Write a first message</router-link>
            <span class="quiet">Nothing leaves before you have seen whom it reaches and said yes.</span>
          </li>
        </ul>
      </div>
      <form v-else-if="typed" @submit.prevent="found.mutate({ typed, password })">
        <section class="part">
          <h1>Your organisation</h1>
          <label class="field"
            ><span>Name</span>
            <TextField v-model="typed.name" maxlength="200" />
            <small>People see it as the sender of emails and at the top of letters.</small></label
          >
          <PlaceFields v-if="data" v-model="typed" :places="data" />
        </section>
        <section class="part">
          <h1>Your account</h1>
          <div class="pair">
            <label class="field"
              ><span>Your name</span>
              <TextField v-model="typed.person" autocomplete="name" />
              <small>It stands beside what you send and change.</small></label
            >
            <label class="field"
              ><span>Mail address</span>
              <TextField v-model="typed.login" type="email" autocomplete="username" />
              <small>You sign in with it, and emails come from it at first.</small></label
            >
          </div>
          <label class="field half"
            ><span>Password</span>
            <TextField v-model="password" type="password" autocomplete="new-password" />
            <small>Ten characters at least. A few words that do not belong together are best.</small></label
          >
        </section>
        <section class="part">
          <h1>How messages leave</h1>
          <p v-if="data?.carried">By the carriers that the command line names.</p>
          <div v-else class="ways" role="radiogroup" aria-label="How messages leave">
            <label class="sheet"
              ><RadioBox v-model="typed.standIns" :value="true" name="leave" />
              <span
                ><b>Try it out first</b>
                <small
                  >Emails, texts and calls end at phones and mailboxes inside the program, which the Bench
                  shows. Nobody is really written to.</small
                ></span
              ></label
            >
            <label class="sheet"
              ><RadioBox v-model="typed.standIns" :value="false" name="leave" />
              <span
                ><b>By your own carriers</b>
                <small
                  >A mail server and gateways, set up next in Settings, each with a trial to yourself. Until
                  then nothing leaves.</small
                ></span
              ></label
            >
          </div>
        </section>
        <SayNote v-if="found.error.value" kind="bad">{{ found.error.value.message }}</SayNote>
        <footer>
          <v-btn
            type="submit"
            color="primary"
            variant="flat"
            :disabled="!typed.name || !typed.region || !typed.login || !password || found.isPending.value"
            >Set it up</v-btn
          >
          <span role="status" class="quiet small">{{ kept }}</span>
        </footer>
      </form>
    </section>
  </main>
</template>

<style scoped>
.gate {
  min-height: 100dvh;
  display: grid;
  grid-template-columns: minmax(240px, 2fr) 5fr;
  background: var(--sheet);
}

.gate :deep(.door) {
  padding-top: 5vh;
}

ol {
  list-style: decimal;
  padding-inline-start: 20px;
  line-height: 1.9;
}

.form {
  padding: 5vh 6% 32px;
}

form {
  display: flex;
  flex-direction: column;
  gap: 22px;
  max-width: 680px;
}

.part {
  display: flex;
  flex-direction: column;
  gap: 12px;
}

.part h1 {
  font-size: 18px;
}

.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 18px;
}

.half {
  max-width: calc(50% - 9px);
}

small {
  color: var(--ink2);
  font-size: 12.5px;
  line-height: 1.4;
}

.ways {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 18px;
}

.ways label {
  display: flex;
  gap: 9px;
  align-items: flex-start;
  padding: 10px 12px;
  cursor: pointer;
}

.ways span {
  display: flex;
  flex-direction: column;
  gap: 3px;
}

footer {
  display: flex;
  align-items: center;
  gap: 14px;
}

.next {
  list-style: none;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 14px;
}

.next li {
  display: flex;
  flex-direction: column;
}

.next a {
  font-weight: 600;
}
</style>
