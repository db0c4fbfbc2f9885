<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Draft, Schemas } from '@/api/client'
import { plainOf } from '@/composables/rich'
import type { LanguageChoice } from '@/composables/languages'
import { useSession } from '@/composables/session'
import { useSound } from '@/composables/sound'
import ChannelMark from '@/components/ChannelMark.vue'
import SayNote from '@/components/SayNote.vue'
import FieldChips from './FieldChips.vue'
import RichEditor from './RichEditor.vue'
import SelectField from '@/controls/SelectField.vue'

/** What a call says: the text read aloud, words of its own, or a recording. */
const draft = defineModel<Draft>({ required: true })
const props = defineProps<{
  goes: string
  takes: string
  fields: string[]
  text: string
  stale: boolean
  upload: (file: File) => Promise<Schemas['Uploaded'] | undefined>
  languages: LanguageChoice[]
}>()

const emit = defineEmits<{ who: [] }>()

const { data: session } = useSession()
const open = ref(false)
const editor = ref<InstanceType<typeof RichEditor>>()
const voice = computed(() => draft.value.voice ?? {})
const keys = ['', '1', '2', '3', '4', '5', '6', '7', '8', '9', '*', '0', '#'] as const
/** The keys to choose from; one does not do two things. */
const keyItems = (taken?: string) =>
  keys.map((key) => ({ value: key, title: key || 'none', props: { disabled: key !== '' && key === taken } }))

function change(to: Partial<Schemas['Voice']>) {
  const next = { ...voice.value, ...to }
  for (const key of Object.keys(next) as (keyof typeof next)[]) if (!next[key]) delete next[key]
  if (Object.keys(next).length) draft.value.voice = next
  else delete draft.value.voice
}

const words = computed({
  get: () => (voice.value.own ? (voice.value.text ?? '') : props.text),
  set: (value: Draft['email']) => change({ own: true, text: plainOf(value) }),
})

const { problem, playing, toggle } = useSound()
const listen = () =>
  toggle(voice.value.recording ? `/api/files/${voice.value.recording.hash}` : '', words.value.trim())

/** Takes a recording; undefined when a call cannot play it. */
async function taken(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  const added = await props.upload(file)
  if (!added) return
  problem.value = ''
  const { hash, name, type, size, seconds } = added
  if (type === 'audio/wav' && seconds) return { file: { hash, name, type, size }, seconds }
  problem.value = `${name} cannot be played by a call. Save it as WAV and add it again.`
}

async function record(event: Event) {
  const added = await taken(event)
  if (added) change({ recording: added.file, seconds: added.seconds })
}

const others = computed(() => voice.value.others ?? [])
const unrecorded = computed(() =>
  props.languages.filter((l) => !others.value.some((r) => r.language === l.value)),
)
const language = ref('')

async function recordFor(event: Event) {
  const to = language.value
  const added = await taken(event)
  if (!added) return
  change({ others: [...others.value, { ...added.file, seconds: added.seconds, language: to }] })
  language.value = ''
}

function dropFor(tag?: string) {
  const left = others.value.filter((r) => r.language !== tag)
  change({ others: left.length ? left : undefined })
}
const nameOf = (tag?: string) => props.languages.find((l) => l.value === tag)?.title ?? tag

const how = computed(() => {
  const more = others.value.length
    ? `, recorded for readers of ${others.value.map((r) => nameOf(r.language)).join(', ')}`
    : ''
  if (voice.value.recording) return `plays a recording${more}`
  return (voice.value.own ? 'reads its own words aloud' : 'the text, read aloud') + more
})
</script>

<template>
  <article class="face sheet">
    <header>
      <ChannelMark channel="voice" />
      <h2>Voice</h2>
      <button class="link small push goes" :class="{ stale }" :disabled="!takes" @click="emit('who')">
        {{ goes }}
      </button>
      <span class="quiet small"
        ><template v-if="goes">· </template>{{ how }}<template v-if="takes">, {{ takes }}</template></span
      >
      <button v-if="words.trim() || voice.recording" class="link small" @click="listen">
        {{ playing ? 'Stop' : 'Listen' }}
      </button>
      <button class="link small" :aria-expanded="open" @click="open = !open">
        {{ open ? 'Done' : 'Change' }}
      </button>
    </header>
    <SayNote v-if="problem" kind="bad" class="problem">{{ problem }}</SayNote>
    <div v-if="open" class="in">
      <template v-if="voice.recording">
        <p class="small">
          It plays
          <b
            ><bdi>{{ voice.recording.name }}</bdi></b
          >, {{ voice.seconds }} s{{ others.length ? ', to everybody else' : ', to everybody alike' }}.
          <button class="link small" @click="change({ recording: undefined, seconds: undefined })">
            Read aloud instead
          </button>
        </p>
      </template>
      <template v-else>
        <RichEditor
          ref="editor"
          v-model="words"
          label="Voice"
          placeholder="What the call says"
          plain
          :fields="fields"
          :following="!voice.own"
        />
        <FieldChips :fields="fields" @insert="editor?.insert($event)" />
        <p v-if="!session?.readsAloud" class="small quiet">
          Nothing can be heard here, because espeak-ng is not installed; the carrier still reads it aloud.
        </p>
      </template>
      <ul v-if="others.length" class="small recorded" aria-label="Recordings by language">
        <li v-for="r in others" :key="r.language">
          Readers of {{ nameOf(r.language) }} hear
          <b
            ><bdi>{{ r.name }}</bdi></b
          >, {{ r.seconds }} s.
          <button class="link small" @click="dropFor(r.language)">Take away</button>
        </li>
      </ul>
      <div v-if="languages.length > 1 && unrecorded.length" class="keys small">
        <label
          >Another recording for readers of
          <SelectField
            v-model="language"
            aria-label="Whose recording"
            :items="[{ value: '', title: 'a language' }, ...unrecorded]"
        /></label>
        <label v-if="language" class="link"
          >Choose it (WAV)<input
            type="file"
            accept=".wav,audio/wav"
            aria-label="Recording for a language"
            @change="recordFor"
        /></label>
      </div>
      <div class="keys small">
        <button v-if="voice.own" class="link small" @click="change({ own: undefined, text: undefined })">
          Follow the text again
        </button>
        <label class="link"
          >Use a recording (WAV)<input
            type="file"
            accept=".wav,audio/wav"
            aria-label="Recording"
            @change="record"
        /></label>
        <label
          >Key to hear it again
          <SelectField
            :model-value="voice.repeatKey ?? ''"
            :items="keyItems(voice.confirmKey)"
            @update:model-value="change({ repeatKey: $event })"
        /></label>
        <label
          >Key to confirm
          <SelectField
            :model-value="voice.confirmKey ?? ''"
            :items="keyItems(voice.repeatKey)"
            @update:model-value="change({ confirmKey: $event })"
        /></label>
      </div>
    </div>
  </article>
</template>

<style scoped>
.problem {
  margin: 0 10px 8px;
}

.stale {
  opacity: 0.7;
}

.keys {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 16px;
}

.recorded {
  list-style: none;
  margin: 0;
  padding: 0;
}

.keys label.link input {
  position: absolute;
  width: 1px;
  opacity: 0;
}

.keys {
  --control-height: 28px;
}
</style>
