<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { api, asFile, take, type Channel, type Draft, type Plan, type Schemas } from '@/api/client'
import { plainOf } from '@/composables/rich'
import { useSession } from '@/composables/session'
import { useShelf } from '@/composables/shelf'
import { people, thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import SayNote from '@/components/SayNote.vue'
import { languagesOf } from '@/composables/languages'
import FieldChips from './FieldChips.vue'
import FileList from './FileList.vue'
import PushFace from './PushFace.vue'
import QuestionFace from './QuestionFace.vue'
import RichEditor from './RichEditor.vue'
import TextMeter from './TextMeter.vue'
import VoiceFace from './VoiceFace.vue'
import TextField from '@/controls/TextField.vue'

const props = defineProps<{ plan?: Plan; stale: boolean }>()
const draft = defineModel<Draft>('draft', { required: true })
const emit = defineEmits<{ who: [channel: Channel] }>()
const { data: session } = useSession()
const fields = computed(() => session.value?.fields ?? [])
const languages = computed(() => languagesOf(session.value?.language ?? '', props.plan, draft.value))

const { data: shelf } = useShelf()
const quick = computed(() => shelf.value?.filter((s) => s.kind === 'quick-text'))

const email = useTemplateRef<InstanceType<typeof RichEditor>>('email')
const text = useTemplateRef<InstanceType<typeof RichEditor>>('text')

const carried = (c: Channel) => props.plan?.channels.find((one) => one.channel === c)
const goesTo = (c: Channel) =>
  carried(c) ? `goes to ${people(carried(c)?.people ?? 0)}` : props.plan ? 'goes to nobody as it stands' : ''

const textShown = computed({
  get: () => (draft.value.ownText ? draft.value.text : plainOf(draft.value.email)),
  set: (value: Draft['email']) => {
    draft.value.ownText = true
    draft.value.text = plainOf(value)
  },
})

function follow() {
  draft.value.ownText = false
  draft.value.text = ''
}

const problem = ref('')

/** Uploads a file and puts it with the message. */
async function upload(file: File): Promise<Schemas['Uploaded'] | undefined> {
  problem.value = ''
  try {
    return await take(api.POST('/files', { params: { query: { name: file.name } }, ...asFile(file) }))
  } catch (error) {
    problem.value = (error as Error).message
  }
}

async function add(file: File) {
  const added = await upload(file)
  if (!added) return
  const { hash, name, type, size } = added
  put({ hash, name, type, size })
  return hash
}

type Kept = Schemas['File']
const put = (f: Kept) =>
  (draft.value.files = [...(draft.value.files ?? []).filter((o) => o.hash !== f.hash), f])

// A picture that is taken out of the text is not to stay behind as a file, and
// one that comes back by undoing brings its file with it.
const pictures = new Map<string, Kept>()
const shown = computed(() =>
  [...JSON.stringify(draft.value.email).matchAll(/file:([0-9a-f]{64})/g)].map((m) => m[1]!),
)
watch(shown, (now, before) => {
  const files = draft.value.files ?? []
  for (const f of files) if (now.includes(f.hash)) pictures.set(f.hash, f)
  for (const hash of now) {
    const known = pictures.get(hash)
    if (known && !files.includes(known)) put(known)
  }
  const out = before.filter((hash) => !now.includes(hash))
  if (!out.length) return
  const left = (draft.value.files ?? []).filter((f) => !out.includes(f.hash))
  if (left.length) draft.value.files = left
  else delete draft.value.files
})
</script>

<template>
  <section class="what" aria-label="What">
    <SayNote v-if="problem" kind="bad">{{ problem }}</SayNote>
    <article class="face sheet">
      <header>
        <ChannelMark channel="email" />
        <h2>Email</h2>
        <button
          class="link small push goes"
          :class="{ stale }"
          :disabled="!carried('email')"
          @click="emit('who', 'email')"
        >
          {{ goesTo('email') }}
        </button>
      </header>
      <div class="in">
        <TextField
          v-model="draft.subject"
          placeholder="Subject"
          aria-label="Subject"
          dir="auto"
          maxlength="300"
        />
        <RichEditor
          ref="email"
          v-model="draft.email"
          label="Email"
          placeholder="Write the message here. Text, voice and push follow it until you edit them."
          :fields="fields"
          :upload="add"
        />
        <FieldChips
          :fields="fields"
          :quick="quick"
          @insert="email?.insert($event)"
          @put="email?.put($event)"
        />
        <FileList v-model="draft" :languages="languages" @add="add" />
      </div>
    </article>
    <QuestionFace v-model="draft" />

    <article class="face sheet">
      <header>
        <ChannelMark channel="text" />
        <h2>Text</h2>
        <button
          class="link small push goes"
          :class="{ stale }"
          :disabled="!carried('text')"
          @click="emit('who', 'text')"
        >
          {{ goesTo('text') }}
        </button>
        <span class="quiet small"
          ><template v-if="plan">· </template
          ><template v-if="!draft.ownText">follows the email until you edit it</template
          ><button v-else class="link small" @click="follow">Follow the email again</button></span
        >
      </header>
      <div class="in">
        <RichEditor
          ref="text"
          v-model="textShown"
          label="Text"
          placeholder="A short text"
          plain
          :fields="fields"
          :following="!draft.ownText"
        />
        <FieldChips :fields="fields" @insert="text?.insert($event)" />
        <TextMeter v-if="plan" :plan="plan" :text="textShown" :stale="stale" @swap="textShown = $event" />
      </div>
    </article>

    <VoiceFace
      v-model="draft"
      :goes="goesTo('voice')"
      :takes="
        carried('voice')
          ? `about ${thousands(carried('voice')?.seconds ?? 0)} s, ${carried('voice')?.cost}`
          : ''
      "
      :fields="fields"
      :text="textShown"
      :stale="stale"
      :upload="upload"
      :languages="languages"
      @who="emit('who', 'voice')"
    />

    <PushFace
      v-model="draft"
      :goes="goesTo('push')"
      :carried="carried('push')"
      :heard="plan?.push"
      :fields="fields"
      :text="textShown"
      :stale="stale"
      @who="emit('who', 'push')"
    />
    <slot />
  </section>
</template>

<style scoped>
.what {
  padding: 12px 14px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.stale {
  opacity: 0.7;
}
</style>
