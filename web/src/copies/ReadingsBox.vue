<script setup lang="ts">
import { computed, ref, toRef } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { useClipboard } from '@vueuse/core'
import { api, take } from '@/api/client'
import { isOpen, readingWords, useReadings, type Reading } from '@/composables/readings'
import { useTimes } from '@/composables/session'
import SayNote from '@/components/SayNote.vue'
import AskReading from './AskReading.vue'

/** Who reads this copy outside the desk, how far they are, and asking for more. */
const props = defineProps<{ message: number; language: string; name: string; editable: boolean }>()
const client = useQueryClient()
const times = useTimes()
const { readings, error } = useReadings(toRef(props, 'message'))
const here = computed(() => readings.value.filter((r) => r.language === props.language))

const asking = ref(false)
const withdraw = useMutation({
  mutationFn: (reading: number) =>
    take(
      api.DELETE('/messages/{id}/readings/{reading}', { params: { path: { id: props.message, reading } } }),
    ),
  onSettled: () => client.invalidateQueries({ queryKey: ['messages', props.message] }),
})
const { copy, copied } = useClipboard({ legacy: true })
const linked = ref(0)
function give(r: Reading) {
  linked.value = r.id
  void copy(location.origin + r.path)
}
</script>

<template>
  <section class="readings" :aria-label="`Readers of the ${name} copy`">
    <h3>Readers outside the desk</h3>
    <p v-if="!here.length" class="small quiet">
      Somebody who reads {{ name }} can check this copy on their phone, without an account.
    </p>
    <ul>
      <li v-for="r in here" :key="r.id">
        <div class="row">
          <b
            ><bdi>{{ r.name }}</bdi></b
          >
          <progress
            v-if="isOpen(r)"
            :value="r.read"
            :max="r.lines"
            :aria-label="`How far ${r.name} is`"
            class="push"
          />
        </div>
        <p class="small" :class="r.others ? 'mind' : 'quiet'">{{ readingWords(r) }}</p>
        <p v-if="r.remark" class="small remark" dir="auto">“{{ r.remark }}”</p>
        <p class="small quiet">
          until {{ times.moment(r.until) }}
          <template v-if="editable && isOpen(r)">
            ·
            <button class="link small" @click="give(r)">
              {{ copied && linked === r.id ? 'Link copied' : 'Copy their link' }}
            </button>
            ·
            <button
              class="link small"
              :aria-label="`Take the reading of ${r.name} back`"
              @click="withdraw.mutate(r.id)"
            >
              Take it back
            </button>
          </template>
        </p>
      </li>
    </ul>
    <SayNote v-if="error ?? withdraw.error.value" kind="bad">{{
      (error ?? withdraw.error.value)?.message
    }}</SayNote>
    <button v-if="editable" class="link small" @click="asking = true">Ask for a reading…</button>
    <AskReading v-model="asking" :message="message" :language="language" :name="name" />
  </section>
</template>

<style scoped>
.readings {
  margin-top: 14px;
  padding: 10px 10px 0;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 8px;
  justify-items: start;
}

h3 {
  font-size: 12px;
  color: var(--ink2);
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
  display: grid;
  gap: 10px;
}

progress {
  width: 64px;
  height: 7px;
  accent-color: var(--sea);
}

.mind {
  color: var(--lampink);
}

.remark {
  border-inline-start: 2px solid var(--line);
  padding-inline-start: 8px;
  overflow-wrap: anywhere;
}
</style>
