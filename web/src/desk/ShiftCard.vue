<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import AreaField from '@/controls/AreaField.vue'
import SelectField from '@/controls/SelectField.vue'
import TimeField from '@/controls/TimeField.vue'
import SayNote from '@/components/SayNote.vue'

/** What the shift does with a thread. */
const props = defineProps<{ view: Schemas['ThreadView'] }>()
const client = useQueryClient()
const times = useTimes()
const id = computed(() => props.view.thread.id)
const path = computed(() => ({ params: { path: { id: id.value } } }))

const doing = ref<'' | 'hand' | 'back' | 'leave'>('')
const account = ref<number>()
const at = ref<string>()
const note = ref('')
watch(id, () => (doing.value = ''))

const act = useMutation({
  mutationFn: (request: () => Promise<unknown>) => request(),
  onSuccess: () => {
    doing.value = ''
    note.value = ''
  },
  onSettled: () => client.invalidateQueries({ queryKey: ['desks'] }),
})
const hand = (to: number) =>
  act.mutate(() => take(api.POST('/threads/{id}/hand', { ...path.value, body: { account: to } })))
const back = () =>
  act.mutate(() => take(api.POST('/threads/{id}/back', { ...path.value, body: { at: at.value! } })))
const leave = () =>
  act.mutate(() => take(api.POST('/threads/{id}/leave', { ...path.value, body: { note: note.value } })))
</script>

<template>
  <div class="sheet card">
    <h3>The shift</h3>
    <SayNote v-if="act.error.value" kind="bad">{{ act.error.value.message }}</SayNote>
    <p v-if="view.thread.holder" class="small">
      {{ view.thread.mine ? 'You look after it.' : `${view.thread.holder} looks after it.` }}
      <button class="link" @click="hand(0)">
        {{ view.thread.mine ? 'Let it go' : 'Take it from them' }}
      </button>
    </p>
    <p v-if="view.thread.back" class="small">It comes back {{ times.moment(view.thread.back) }}.</p>
    <p class="ways">
      <button v-if="!view.thread.holder" class="link" @click="hand(view.me)">Take it</button>
      <button class="link" :aria-expanded="doing === 'hand'" @click="doing = doing === 'hand' ? '' : 'hand'">
        Hand to…
      </button>
      <button class="link" :aria-expanded="doing === 'back'" @click="doing = doing === 'back' ? '' : 'back'">
        Bring back at…
      </button>
      <button
        class="link"
        :aria-expanded="doing === 'leave'"
        @click="doing = doing === 'leave' ? '' : 'leave'"
      >
        Leave for the next shift…
      </button>
    </p>
    <form v-if="doing === 'hand'" @submit.prevent="account && hand(account)">
      <SelectField
        v-model="account"
        aria-label="Who looks after it"
        :items="view.colleagues.map((c) => ({ value: c.id, title: c.name }))"
      />
      <v-btn type="submit" :disabled="!account">Hand it over</v-btn>
    </form>
    <form v-if="doing === 'back'" @submit.prevent="back">
      <TimeField v-model="at" aria-label="When it waits for us again" />
      <v-btn type="submit" :disabled="!at">Bring it back then</v-btn>
    </form>
    <form v-if="doing === 'leave'" @submit.prevent="leave">
      <AreaField v-model="note" rows="2" dir="auto" maxlength="500" aria-label="A word for the next shift" />
      <v-btn type="submit">Leave it</v-btn>
    </form>
  </div>
</template>

<style scoped>
.card {
  padding: 9px 11px;
}

.card h3 {
  font-size: 12px;
  color: var(--ink2);
  margin-bottom: 4px;
}

.ways {
  margin-top: 4px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}

.ways > :deep(.link) {
  min-height: 24px;
}

form {
  margin-top: 8px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 8px;
}

form > :first-child {
  align-self: stretch;
}
</style>
