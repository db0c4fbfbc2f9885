<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useDebounceFn } from '@vueuse/core'
import { useMutation } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { count, people } from '@/composables/words'
import AreaField from '@/controls/AreaField.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SayNote from '@/components/SayNote.vue'
import AnswerExtras from './AnswerExtras.vue'
import { filesIn, putFiles, saidIn, sayIn } from './said'

/** Where the desk writes to everybody in a thread, or writes a note. */
const props = defineProps<{ view: Schemas['ThreadView'] }>()
const emit = defineEmits<{ done: [] }>()

const id = computed(() => props.view.thread.id)
const text = computed({ get: () => saidIn(id.value), set: (said) => sayIn(id.value, said) })
const files = computed({ get: () => filesIn(id.value), set: (list) => putFiles(id.value, list) })
const noting = ref(false)
const last = computed(() => props.view.entries.at(-1)?.id ?? 0)
/** What stood there when the first word was written. */
const seen = ref(last.value)
watch([id, () => Boolean(text.value.trim()), last], ([, writes], [, wrote]) => {
  if (!writes || !wrote) seen.value = last.value
})

const weighed = ref<Schemas['WeighedAll']>()
const working = ref(false)
/** Lines that name somebody may go to the translation service. */
const naming = ref(false)
/** Languages whose readers get it as it is written although there is a copy. */
const asWritten = ref<string[]>([])
const failed = ref('')
let asked = 0
const work = useDebounceFn(async () => {
  const now = asked
  try {
    const came = await take(
      api.POST('/threads/{id}/weigh-all', {
        params: { path: { id: id.value } },
        body: { text: text.value, naming: naming.value, files: files.value },
      }),
    )
    if (now === asked) weighed.value = came
  } catch (error) {
    if (now === asked) failed.value = (error as Error).message
  } finally {
    if (now === asked) working.value = false
  }
}, 300)
watch(
  [id, text, noting, naming, files],
  () => {
    asked++
    weighed.value = undefined
    failed.value = ''
    working.value = Boolean(text.value.trim()) && !noting.value && !props.view.many?.ended
    if (working.value) void work()
  },
  { immediate: true },
)
/** Used sparingly: it is off again after each. */
const interrupts = ref(false)
const copies = computed(() =>
  (weighed.value?.copies ?? [])
    .filter((c) => c.text && !asWritten.value.includes(c.language))
    .map(({ language, text }) => ({ language, text })),
)
const goesBy = computed(() => {
  const w = weighed.value
  if (!w) return ''
  return [
    w.texts && count(w.texts, 'text', 'texts'),
    w.emails && count(w.emails, 'email', 'emails'),
    w.pushes && count(w.pushes, 'push', 'pushes'),
    w.calls && count(w.calls, 'call', 'calls'),
    w.cost,
    w.waits && `${w.waits} wait for quiet hours to end`,
  ]
    .filter(Boolean)
    .join(' · ')
})
/** Who reads another language, who of them gets a copy, and who what is written. */
const readers = computed(() => {
  const sum = (list: Schemas['RoundCopy'][]) => list.reduce((n, c) => n + c.people, 0)
  const list = weighed.value?.copies ?? []
  const plain = list.filter((c) => !c.text || asWritten.value.includes(c.language))
  return { all: sum(list), plain: sum(plain), copies: sum(list) - sum(plain) }
})
const leftOut = computed(() => weighed.value?.leftOut.reduce((sum, l) => sum + l.people, 0) ?? 0)

const send = useMutation({
  mutationFn: async () => {
    const path = { id: id.value }
    if (noting.value)
      await take(api.POST('/threads/{id}/note', { params: { path }, body: { text: text.value } }))
    else
      await take(
        api.POST('/threads/{id}/say-to-all', {
          params: { path },
          body: {
            text: text.value,
            copies: copies.value,
            files: files.value,
            ...(interrupts.value ? { interrupts: true } : {}),
            ...(seen.value ? { seen: seen.value } : {}),
          },
        }),
      )
    return path.id
  },
  onError: () => (seen.value = last.value),
  onSuccess: (thread) => {
    sayIn(thread, '')
    putFiles(thread, noting.value ? filesIn(thread) : [])
    noting.value = interrupts.value = false
    emit('done')
  },
})
const settle = useMutation({
  mutationFn: () => take(api.POST('/threads/{id}/settle', { params: { path: { id: id.value } } })),
  onSuccess: () => emit('done'),
})
watch(id, () => {
  noting.value = naming.value = interrupts.value = false
  asWritten.value = []
  send.reset()
  settle.reset()
})
const may = computed(
  () =>
    Boolean(text.value.trim()) &&
    !send.isPending.value &&
    (noting.value || (!working.value && Boolean(weighed.value?.people))),
)
const problem = computed(() => send.error.value?.message ?? settle.error.value?.message ?? failed.value)
const choose = (language: string, plain: boolean) =>
  (asWritten.value = plain
    ? [...asWritten.value, language]
    : asWritten.value.filter((tag) => tag !== language))
</script>

<template>
  <form
    class="box"
    aria-label="To all in this thread"
    @submit.prevent="send.mutate()"
    @keydown.ctrl.enter.prevent="may && send.mutate()"
  >
    <AreaField
      v-model="text"
      dir="auto"
      rows="3"
      :aria-label="noting ? 'A note that never leaves' : 'What you write to all'"
      :placeholder="noting ? 'A note for the desk: it never leaves' : 'What you write to all'"
      maxlength="10000"
    />
    <details v-if="weighed?.copies.length && !noting" class="copies" aria-label="What readers of others get">
      <summary class="small">
        {{ people(readers.all) }} read
        {{ count(weighed.copies.length, 'other language', 'other languages') }}:
        <span class="num">{{ readers.copies }}</span> get a copy<span v-if="readers.plain" class="mind"
          >, {{ readers.plain }} what is written here</span
        >
      </summary>
      <div v-for="c in weighed.copies" :key="c.language" class="copy">
        <p class="small">
          <b>{{ c.speaks }}</b> <span class="quiet">{{ people(c.people) }} ·</span>
          <span v-if="c.text" :class="c.checked ? 'quiet' : 'mind'">
            {{ c.checked ? 'checked before' : 'nobody has read it' }}</span
          >
          <span v-else class="mind"> they get it as it is written</span>
        </p>
        <p v-if="c.text" class="said" dir="auto" :lang="c.language">{{ c.text }}</p>
        <p v-else class="small quiet">
          {{ c.note }}
          <button v-if="c.withheld && !naming" type="button" class="link small" @click="naming = true">
            Send it there all the same
          </button>
        </p>
        <span v-for="d in c.doubts" :key="d" class="small doubt">{{ d }}</span>
        <CheckBox
          v-if="c.text"
          :model-value="asWritten.includes(c.language)"
          :label="`Send it as it is written, not in ${c.speaks}`"
          @update:model-value="choose(c.language, Boolean($event))"
        />
      </div>
    </details>
    <AnswerExtras
      v-if="!noting"
      v-model="files"
      :thread="id"
      carries
      @put="text = text.trim() ? `${text.trimEnd()}\n${$event}` : $event"
    />
    <SayNote v-if="problem" kind="bad">{{ problem }} What you wrote is still here.</SayNote>
    <div class="foot">
      <span v-if="weighed && !noting" class="small" role="status">
        To <b class="num">{{ people(weighed.people) }}</b><span v-if="goesBy" class="quiet num">
          by {{ goesBy }}</span
        ><span
          v-if="leftOut"
          class="mind"
          :title="weighed.leftOut.map((l) => `${l.people} ${l.reason}`).join('; ')"
        >
          · {{ people(leftOut) }} not</span
        ><span v-if="files.length && weighed.unseen" class="mind">
          · {{ people(weighed.unseen) }} by no email: the names of the files only</span
        >
      </span>
      <CheckBox
        v-if="weighed?.pushes && !noting"
        v-model="interrupts"
        label="Interrupt them on their devices"
      />
      <button type="button" class="link small" @click="noting = !noting">
        {{ noting ? 'Write to all instead' : 'Note instead' }}
      </button>
      <div class="acts">
        <v-btn
          v-if="view.thread.waits !== 'quiet' && !noting"
          :disabled="settle.isPending.value"
          @click="settle.mutate()"
          >Nothing to say</v-btn
        >
        <v-btn type="submit" :color="noting ? 'primary' : 'lamp'" variant="flat" :disabled="!may">{{
          noting ? 'Keep the note' : 'Send to all'
        }}</v-btn>
      </div>
    </div>
  </form>
</template>

<style scoped src="./box.css"></style>
