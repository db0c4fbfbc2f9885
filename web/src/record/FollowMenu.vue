<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useMutation } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'

/** The messages that can come of one that was sent. */
const props = defineProps<{ message: Schemas['MessageView']; asks: boolean }>()
const router = useRouter()
const open = ref(false)

type As = Schemas['FollowRequest']['as']
const all: { as: As | ''; words: string; note: string }[] = [
  { as: 'again', words: 'Send it again', note: 'to those whom it did not reach' },
  { as: 'further', words: 'Send it to further people', note: 'whoever got it already is passed over' },
  { as: 'unanswered', words: 'Ask again', note: 'those who have not answered' },
  { as: 'correction', words: 'Correct it', note: 'to exactly those who got it, by what reached them' },
  { as: 'all-clear', words: 'Give the all-clear', note: 'to exactly those who got it, by what reached them' },
  { as: '', words: 'Use its words anew', note: 'for a message that stands by itself' },
]
/** Nothing follows what has not left. */
const ways = computed(() =>
  all.filter((w) => w.as === '' || (props.message.state !== 'held' && (w.as !== 'unanswered' || props.asks))),
)

const make = useMutation({
  mutationFn: (as: As | '') =>
    as === ''
      ? take(api.POST('/messages', { body: { copyOf: props.message.id } }))
      : take(api.POST('/messages/{id}/follow', { params: { path: { id: props.message.id } }, body: { as } })),
  onSuccess: (draft) => router.push(`/write/${draft.id}`),
})
</script>

<template>
  <v-menu v-model="open" location="bottom end" :close-on-content-click="false">
    <template #activator="{ props: menu }"
      ><v-btn v-bind="menu" :loading="make.isPending.value">Follow it up…</v-btn></template
    >
    <div class="menu sheet" role="menu">
      <button
        v-for="w in ways"
        :key="w.as"
        role="menuitem"
        :disabled="make.isPending.value"
        @click="make.mutate(w.as)"
      >
        <b>{{ w.words }}</b>
        <span class="quiet small">{{ w.note }}</span>
      </button>
      <p v-if="make.error.value" class="bad small">{{ make.error.value.message }}</p>
    </div>
  </v-menu>
</template>

<style scoped>
.menu {
  padding: 4px;
  width: 330px;
  color: var(--ink);
}

.menu button {
  display: flex;
  flex-direction: column;
  width: 100%;
  text-align: start;
  border: 0;
  background: none;
  font: inherit;
  color: inherit;
  padding: 6px 10px;
  border-radius: 5px;
  cursor: pointer;
}

.menu button:hover,
.menu button:focus-visible {
  background: var(--pane);
}

.menu p {
  padding: 4px 10px;
}
</style>
