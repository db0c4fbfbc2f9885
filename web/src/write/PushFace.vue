<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Draft, Plan, Schemas } from '@/api/client'
import { plainOf } from '@/composables/rich'
import { thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import FieldChips from './FieldChips.vue'
import RichEditor from './RichEditor.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

/** What a device shows: the subject and the text, or words of its own. */
const draft = defineModel<Draft>({ required: true })
const props = defineProps<{
  goes: string
  carried?: Plan['channels'][number]
  heard?: Plan['push']
  fields: string[]
  text: string
  stale: boolean
}>()
const emit = defineEmits<{ who: [] }>()

const open = ref(false)
const editor = ref<InstanceType<typeof RichEditor>>()
const push = computed(() => draft.value.push ?? {})

function change(to: Partial<Schemas['Push']>) {
  const next = { ...push.value, ...to }
  for (const key of Object.keys(next) as (keyof typeof next)[]) if (!next[key]) delete next[key]
  if (Object.keys(next).length) draft.value.push = next
  else delete draft.value.push
}

/** Its own words begin as what it showed until then. */
const own = (to: Partial<Schemas['Push']>) =>
  change({ own: true, title: title.value, body: body.value, ...to })
const title = computed(() => (push.value.own ? (push.value.title ?? '') : draft.value.subject))
const body = computed(() => (push.value.own ? (push.value.body ?? '') : props.text))
const words = computed({
  get: () => body.value,
  set: (value: Draft['email']) => own({ body: plainOf(value) }),
})

const sees = computed(() =>
  props.heard?.quiet
    ? 'It waits in the list of notices, without a sound.'
    : 'It sounds or vibrates, and stays on the screen until it is touched.',
)
const loud = (quiet: boolean) => (quiet ? 'quiet' : 'interrupts')
const size = computed(() =>
  props.carried ? `${thousands(props.carried.bytes)} of ${thousands(props.carried.most)} bytes` : '',
)
const sound = computed({
  get: () => push.value.sound ?? '',
  set: (now) => change({ sound: now }),
})
</script>

<template>
  <article class="face sheet">
    <header>
      <ChannelMark channel="push" />
      <h2>Push</h2>
      <button class="link small push goes" :class="{ stale }" :disabled="!carried" @click="emit('who')">
        {{ goes }}
      </button>
      <span class="quiet small"
        ><template v-if="goes">· </template
        >{{ push.own ? 'shows words of its own' : 'the subject and the text'
        }}<template v-if="heard">, {{ loud(heard.quiet) }}</template></span
      >
      <button class="link small" aria-label="Change the push" :aria-expanded="open" @click="open = !open">
        {{ open ? 'Done' : 'Change' }}
      </button>
    </header>
    <div v-if="open" class="in">
      <TextField
        :model-value="title"
        placeholder="Title: the organisation's name if there is none"
        aria-label="Title of the push"
        dir="auto"
        maxlength="300"
        @update:model-value="own({ title: $event })"
      />
      <RichEditor
        ref="editor"
        v-model="words"
        label="Push"
        placeholder="What the device shows"
        plain
        :fields="fields"
        :following="!push.own"
      />
      <FieldChips :fields="fields" @insert="editor?.insert($event)" />
      <div class="how small">
        <label class="link-row"
          >Opens
          <TextField
            :model-value="push.link ?? ''"
            type="url"
            placeholder="nothing; or https://…"
            aria-label="Page that it opens"
            maxlength="1000"
            @update:model-value="change({ link: $event.trim() })"
        /></label>
        <label
          >Sound
          <SelectField
            v-model="sound"
            aria-label="Sound"
            :items="[
              {
                value: '',
                title: heard ? `as the urgency has it: ${loud(heard.usuallyQuiet)}` : 'as the urgency has it',
              },
              { value: 'quiet', title: 'quiet' },
              { value: 'interrupts', title: 'interrupts' },
            ]"
        /></label>
        <label class="tickbox"
          ><CheckBox :model-value="push.badge ?? false" @update:model-value="change({ badge: $event })" />mark
          the icon until it is opened</label
        >
        <span v-if="size" class="quiet" :class="{ stale }">{{ size }}</span>
      </div>
      <p class="small quiet">
        <template v-if="heard">{{ sees }}</template>
        <template v-if="!push.own"
          >A text too long for a device is shortened; a link tells the rest.</template
        >
        <button v-else class="link" @click="change({ own: undefined, title: undefined, body: undefined })">
          Follow the subject and the text again
        </button>
      </p>
    </div>
  </article>
</template>

<style scoped>
.stale {
  opacity: 0.7;
}

.how {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 16px;
}

.link-row {
  flex: 1 1 260px;
  display: flex;
  align-items: center;
  gap: 6px;
}

.link-row .control {
  flex: 1;
}

.how {
  --control-height: 28px;
}
</style>
