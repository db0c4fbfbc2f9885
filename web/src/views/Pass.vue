<script setup lang="ts">
import { ref } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import GateDoor from '@/components/GateDoor.vue'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'

/** Sets a password by a link that was mailed: the first one, or a new one. */
const props = defineProps<{ token: string }>()

const client = useQueryClient()
const path = { token: props.token }
const { data, error } = useQuery({
  queryKey: ['pass', props.token],
  queryFn: () => take(api.GET('/pass/{token}', { params: { path } })),
  staleTime: Infinity,
  retry: false,
})
const password = ref('')
const again = ref('')
const set = useMutation({
  mutationFn: () => take(api.POST('/pass/{token}', { params: { path }, body: { password: password.value } })),
  onSuccess: () => client.removeQueries({ queryKey: ['session'] }),
})
</script>

<template>
  <main class="gate">
    <GateDoor>
      <p class="org">{{ data?.organisation }}</p>
      <p v-if="data?.invites" class="promise">invites you to write to people in its name.</p>
    </GateDoor>
    <section class="form">
      <div v-if="error">
        <h1>This link leads nowhere any more</h1>
        <p>{{ error.message }}</p>
        <p>
          Ask whoever invited you for another one, or
          <router-link to="/sign-in">ask for a new password</router-link>.
        </p>
      </div>
      <div v-else-if="set.data.value">
        <h1>Your password is set</h1>
        <p v-if="set.data.value.signed">
          You are signed in as {{ set.data.value.login }}. <router-link to="/">Go on</router-link>
        </p>
        <p v-else>
          <router-link to="/sign-in">Sign in</router-link> with it, and with the code of your second factor.
        </p>
      </div>
      <form v-else-if="data" @submit.prevent="set.mutate()">
        <h1>{{ data.invites ? `Welcome, ${data.name}` : `A new password for ${data.name}` }}</h1>
        <p>
          You sign in as <b>{{ data.login }}</b>.
        </p>
        <input type="text" autocomplete="username" :value="data.login" hidden />
        <label class="field"
          ><span>Password</span><TextField v-model="password" type="password" autocomplete="new-password" />
          <small>Ten characters at least. A few words that do not belong together are best.</small></label
        >
        <label class="field"
          ><span>The password again</span
          ><TextField v-model="again" type="password" autocomplete="new-password" />
          <small v-if="again && again !== password" class="bad">This is not the same.</small></label
        >
        <SayNote v-if="set.error.value" kind="bad">{{ set.error.value.message }}</SayNote>
        <v-btn
          type="submit"
          color="primary"
          variant="flat"
          :disabled="!password || password !== again || set.isPending.value"
          >Set the password</v-btn
        >
      </form>
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
}

form,
.form > div {
  display: grid;
  gap: 12px;
  max-width: 360px;
}

h1,
p {
  margin: 0;
}

form .v-btn {
  justify-self: start;
}

small:not(.bad) {
  color: var(--ink2);
}

small {
  font-size: 12.5px;
}
</style>
