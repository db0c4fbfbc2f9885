<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useRights } from '@/composables/session'
import { count } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'

/** Emails of which nobody can tell whether they left, and what is done about them. */
const props = defineProps<{ message: number; undecided: number; stopped: boolean }>()
const may = useRights()
const client = useQueryClient()

const decide = useMutation({
  mutationFn: (again: boolean) =>
    take(api.POST('/messages/{id}/decide', { params: { path: { id: props.message } }, body: { again } })),
  onSettled: () => client.invalidateQueries(),
})
</script>

<template>
  <SayNote kind="mind">
    Nobody can tell whether {{ count(undecided, 'email', 'emails') }} left: the program ended, or a connection
    broke, while {{ undecided === 1 ? 'it was' : 'they were' }} handed over.
    <template v-if="may('write')">
      <button v-if="!stopped" class="link" :disabled="decide.isPending.value" @click="decide.mutate(true)">
        Send again
      </button>
      <template v-if="!stopped">, at the risk of a second copy, or </template>
      <button class="link" :disabled="decide.isPending.value" @click="decide.mutate(false)">
        {{ stopped ? 'Leave it' : 'leave it' }}
      </button>
      at that.
    </template>
    <p v-if="decide.error.value" class="bad">{{ decide.error.value.message }}</p>
  </SayNote>
</template>
