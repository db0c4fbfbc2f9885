<script setup lang="ts">
import { ref } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useTimes } from '@/composables/session'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'
import FactorCard from '@/settings/FactorCard.vue'
import TextField from '@/controls/TextField.vue'

/** The account of whoever is signed in: its password, and where it is signed in. */
const client = useQueryClient()
const { moment } = useTimes()
const key = ['account']
const { data, error } = useQuery({
  queryKey: key,
  queryFn: () => take(api.GET('/session/account')),
  staleTime: 0,
})

const now = ref('')
const next = ref('')
const again = ref('')
const refresh = () => client.invalidateQueries({ queryKey: key })
const change = useMutation({
  mutationFn: () => take(api.POST('/session/password', { body: { now: now.value, next: next.value } })),
  onSuccess: async () => {
    now.value = next.value = again.value = ''
    await refresh()
  },
})
const end = useMutation({
  mutationFn: (id: string) => take(api.DELETE('/session/others/{id}', { params: { path: { id } } })),
  onSettled: refresh,
})
</script>

<template>
  <div class="page">
    <PageHead title="Your account" :note="data?.login" />
    <div class="body cols">
      <form class="sheet" @submit.prevent="change.mutate()">
        <h2>Password</h2>
        <input type="text" autocomplete="username" :value="data?.login" hidden />
        <label class="field"
          ><span>Present password</span>
          <TextField v-model="now" type="password" autocomplete="current-password"
        /></label>
        <label class="field"
          ><span>New password</span>
          <TextField v-model="next" type="password" autocomplete="new-password" />
          <small>Ten characters at least. A few words that do not belong together are best.</small></label
        >
        <label class="field"
          ><span>New password again</span>
          <TextField v-model="again" type="password" autocomplete="new-password" />
          <small v-if="again && again !== next" class="bad">This is not the same.</small></label
        >
        <SayNote v-if="change.error.value" kind="bad">{{ change.error.value.message }}</SayNote>
        <SayNote v-else-if="change.isSuccess.value" kind="good">
          Your password is changed. Everywhere else the account was signed out.
        </SayNote>
        <v-btn
          type="submit"
          color="primary"
          variant="flat"
          :disabled="!now || !next || next !== again || change.isPending.value"
          >Change the password</v-btn
        >
      </form>
      <FactorCard v-if="data" :account="data" @changed="refresh" />
      <section class="sheet wide" aria-label="Where you are signed in">
        <h2>Where you are signed in</h2>
        <SayNote v-if="error ?? end.error.value" kind="bad">{{
          (error ?? end.error.value)?.message
        }}</SayNote>
        <table class="plain">
          <thead>
            <tr>
              <th>Browser</th>
              <th>Network</th>
              <th>Since</th>
              <th>Until</th>
              <th><span class="sr-only">End it</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="s in data?.sessions" :key="s.id">
              <td>{{ s.browser }}</td>
              <td class="quiet">{{ s.network }}</td>
              <td>{{ moment(s.begun) }}</td>
              <td>{{ moment(s.ends) }}</td>
              <td class="act">
                <span v-if="s.here" class="quiet small">here</span>
                <button v-else class="link" :disabled="end.isPending.value" @click="end.mutate(s.id)">
                  Sign out there
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <SayNote v-if="data?.slowedAt" kind="mind">
          Somebody at {{ data.slowedFrom }} typed a wrong password or code several times,
          {{ moment(data.slowedAt) }}. Further tries had to wait.
        </SayNote>
        <p class="quiet small">If you do not know one of them, sign it out and change your password.</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(280px, 1fr) minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}

form,
section {
  padding: 12px 14px;
  display: grid;
  gap: 10px;
}

form .v-btn {
  justify-self: start;
}

.wide {
  grid-column: 1 / -1;
}

h2 {
  margin: 0;
}

small:not(.bad) {
  color: var(--ink2);
}

small {
  font-size: 12.5px;
  line-height: 1.4;
}

.act {
  text-align: end;
  white-space: nowrap;
}
</style>
