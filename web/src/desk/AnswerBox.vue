<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useMutation } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { channelWords, count } from '@/composables/words'
import AreaField from '@/controls/AreaField.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SelectField from '@/controls/SelectField.vue'
import SayNote from '@/components/SayNote.vue'
import { useAnswering } from './answering'
import AnswerExtras from './AnswerExtras.vue'
import { filesIn, putFiles, saidIn, sayIn } from './said'

/** Where the desk writes back, or writes a note. */
const props = defineProps<{ view: Schemas['ThreadView'] }>()
const emit = defineEmits<{ done: [] }>()

const id = computed(() => props.view.thread.id)
const text = computed({ get: () => saidIn(id.value), set: (said) => sayIn(id.value, said) })
const files = computed({ get: () => filesIn(id.value), set: (list) => putFiles(id.value, list) })
const noting = ref(false)
/** Used sparingly: it is off again after each. */
const interrupts = ref(false)
const place = ref(0)
const to = computed(() => props.view.places[place.value])
const places = computed(() =>
  props.view.places.map((p, i) => ({
    value: i,
    title: `${channelWords[p.channel]} to ${p.shown}${p.aside ? `: ${p.aside}` : ''}`,
    props: { disabled: Boolean(p.aside) },
  })),
)
/** What stood there when the first word was written: what came since may change the answer. */
const last = computed(() => props.view.entries.at(-1)?.id ?? 0)
const seen = ref(last.value)
watch(
  [id, () => Boolean(text.value.trim()), last],
  ([, writes], [, wrote]) => {
    if (!writes || !wrote) seen.value = last.value
  },
  { immediate: true },
)
const { copy, weighed, working, asWritten, naming, body } = useAnswering(id, text, to, noting, seen, files)

const send = useMutation({
  mutationFn: async () => {
    const path = { id: id.value }
    if (noting.value)
      await take(api.POST('/threads/{id}/note', { params: { path }, body: { text: text.value } }))
    else
      await take(
        api.POST('/threads/{id}/answer', {
          params: { path },
          body: { ...body.value, ...(interrupts.value ? { interrupts: true } : {}) },
        }),
      )
    return path.id
  },
  // After a refusal they have seen what stands there now.
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
  place.value = 0
  noting.value = interrupts.value = false
  send.reset()
  settle.reset()
})
// While it is worked out what they get, nothing leaves that nobody saw.
const may = computed(
  () =>
    Boolean(text.value.trim()) &&
    !send.isPending.value &&
    (noting.value || (!to.value?.aside && !working.value)),
)
const problem = computed(() => send.error.value ?? settle.error.value)
</script>

<template>
  <form
    class="box"
    aria-label="Answer"
    @submit.prevent="send.mutate()"
    @keydown.ctrl.enter.prevent="may && send.mutate()"
  >
    <AreaField
      v-model="text"
      dir="auto"
      rows="3"
      :aria-label="noting ? 'A note that never leaves' : 'What you answer'"
      :placeholder="noting ? 'A note for the desk: it never leaves' : 'What you answer'"
      maxlength="10000"
    />
    <div v-if="copy?.language && !noting" class="copy" aria-label="What they get" role="status">
      <template v-if="copy.text">
        <p class="said" dir="auto" :lang="copy.language">{{ copy.text }}</p>
        <p class="small">
          <span class="quiet">{{ asWritten ? 'They do not get this' : 'This is what they get' }} ·</span>
          <span :class="{ mind: !copy.checked }">
            {{ copy.checked ? 'checked before' : 'nobody has read it' }}</span><span
            v-if="!copy.doubts.length"
            class="quiet"
          >
            · numbers agree</span
          >
        </p>
        <span v-for="d in copy.doubts" :key="d" class="small doubt">{{ d }}</span>
        <CheckBox v-model="asWritten" :label="`Send it as it is written, not in ${copy.speaks}`" />
      </template>
      <template v-else>
        <span class="small mind">They get it as it is written, though they read {{ copy.speaks }}. </span>
        <span class="small quiet">{{ copy.note }} </span>
        <button v-if="copy.withheld && !naming" type="button" class="link small" @click="naming = true">
          Send it there all the same
        </button>
      </template>
    </div>
    <AnswerExtras
      v-if="!noting"
      v-model="files"
      :thread="id"
      :carries="to?.channel === 'email'"
      @put="text = text.trim() ? `${text.trimEnd()}\n${$event}` : $event"
    />
    <SayNote v-if="problem" kind="bad">{{ problem.message }} What you wrote is still here.</SayNote>
    <SayNote v-else-if="to?.aside && !noting" kind="mind"
      >Nothing can go to {{ to.shown }}: {{ to.aside }}.</SayNote
    >
    <div class="foot">
      <SelectField v-if="!noting" v-model="place" class="place" :items="places" aria-label="Where it goes" />
      <span v-if="weighed && !noting" class="quiet small num"
        ><template v-if="weighed.parts">{{ count(weighed.parts, 'part', 'parts') }}</template
        ><template v-if="weighed.cost"> · {{ weighed.cost }}</template></span
      >
      <CheckBox v-if="to?.channel === 'push' && !noting" v-model="interrupts" label="Interrupt them" />
      <button type="button" class="link small" @click="noting = !noting">
        {{ noting ? 'Answer instead' : 'Note instead' }}
      </button>
      <div class="acts">
        <v-btn
          v-if="view.thread.waits !== 'quiet' && !noting"
          :disabled="settle.isPending.value"
          @click="settle.mutate()"
          >Nothing to say</v-btn
        >
        <v-btn type="submit" :color="noting ? 'primary' : 'lamp'" variant="flat" :disabled="!may">{{
          noting ? 'Keep the note' : 'Answer'
        }}</v-btn>
      </div>
    </div>
  </form>
</template>

<style scoped src="./box.css"></style>
