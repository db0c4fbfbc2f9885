<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Draft } from '@/api/client'
import { people } from '@/composables/words'
import CheckBox from '@/controls/CheckBox.vue'

/** Which message a draft follows, and what that means for who gets it. */
const draft = defineModel<Draft>('draft', { required: true })
const follows = computed(() => draft.value.follows)
const first = computed(() => follows.value?.message ?? 0)

const { data } = useQuery({
  queryKey: ['messages', 'title', first],
  queryFn: () => take(api.GET('/messages/{id}', { params: { path: { id: first.value } } })),
  enabled: () => first.value > 0,
})

const words = {
  again: 'The same again, to those it did not reach',
  further: 'The same, to further people',
  unanswered: 'The same, to those who have not answered',
  filled: 'That enough have answered, to the others',
  correction: 'A correction, to exactly those who got it',
  'all-clear': 'The all-clear, to exactly those who got it',
}
const repeats = computed(() => follows.value?.as === 'again' || follows.value?.as === 'further')

function twice(on: boolean) {
  if (follows.value) follows.value.twice = on || undefined
}
</script>

<template>
  <section v-if="follows" class="follows sheet" aria-label="What it follows">
    <b>{{ words[follows.as] }}</b>
    <span class="small quiet"
      >It follows
      <router-link class="link" :to="`/outgoing/${first}`"
        ><bdi>{{ data?.title ?? 'a message' }}</bdi></router-link
      ></span
    >
    <span v-if="follows.people?.length" class="small"
      >Only {{ people(follows.people.length) }} chosen there.
      <button class="link" @click="delete follows.people">Everybody it is for</button></span
    >
    <label v-if="repeats" class="row small">
      <CheckBox :model-value="Boolean(follows.twice)" @update:model-value="twice(Boolean($event))" />
      Also to those who got it already
    </label>
    <button class="link small" @click="delete draft.follows">Let it stand by itself</button>
  </section>
</template>

<style scoped>
.follows {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  padding: 8px 10px;
  margin-bottom: 8px;
  border-inline-start: 3px solid var(--deep2);
}
</style>
