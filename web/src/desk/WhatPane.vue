<script setup lang="ts">
import { computed, nextTick, useTemplateRef } from 'vue'
import type { Channel, Draft, Plan } from '@/api/client'
import { count, people, thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import FieldChips from './FieldChips.vue'

const props = defineProps<{ plan?: Plan; fields: string[]; stale: boolean }>()
const draft = defineModel<Draft>('draft', { required: true })

interface Area {
  $el: HTMLElement
}

const email = useTemplateRef<Area>('email')
const text = useTemplateRef<Area>('text')

const carried = (c: Channel) => props.plan?.channels.find((one) => one.channel === c)
const goesTo = (c: Channel) =>
  carried(c) ? `goes to ${people(carried(c)?.people ?? 0)}` : 'goes to nobody as it stands'

const textShown = computed({
  get: () => (draft.value.ownText ? draft.value.text : draft.value.email),
  set: (value: string) => {
    draft.value.ownText = true
    draft.value.text = value
  },
})

function follow() {
  draft.value.ownText = false
  draft.value.text = ''
}

const meter = computed(() => props.plan?.meter)
const each = computed(() => {
  const m = meter.value
  if (!m || !m.most) return ''
  return m.least === m.most ? `${count(m.most, 'part', 'parts')} each` : `${m.least} to ${m.most} parts each`
})
const forcing = computed(() => meter.value?.forces ?? [])
const swappable = computed(() => forcing.value.filter((f) => f.replacement))

function swap() {
  if (meter.value) textShown.value = meter.value.swapped
}

/** Puts a field where the cursor stands. */
async function insert(where: Area | null, name: string, write: (value: string) => void, value: string) {
  const area = where?.$el.querySelector('textarea')
  const from = area?.selectionStart ?? value.length
  const to = area?.selectionEnd ?? from
  const field = `{{${name}}}`
  write(value.slice(0, from) + field + value.slice(to))
  await nextTick()
  area?.focus()
  area?.setSelectionRange(from + field.length, from + field.length)
}
</script>

<template>
  <section class="what" aria-label="What">
    <article class="face sheet">
      <header>
        <ChannelMark channel="email" />
        <h2>Email</h2>
        <span class="quiet small push" :class="{ stale }">{{ goesTo('email') }}</span>
      </header>
      <div class="in">
        <v-text-field
          v-model="draft.subject"
          placeholder="Subject"
          aria-label="Subject"
          dir="auto"
          maxlength="300"
        />
        <v-textarea
          ref="email"
          v-model="draft.email"
          class="main"
          placeholder="Write the message here. Text and voice follow it until you edit them."
          aria-label="Email"
          dir="auto"
          auto-grow
          rows="7"
          max-rows="16"
        />
        <FieldChips :fields="fields" @insert="insert(email, $event, (v) => (draft.email = v), draft.email)" />
      </div>
    </article>

    <article class="face sheet">
      <header>
        <ChannelMark channel="text" />
        <h2>Text</h2>
        <span class="quiet small push" :class="{ stale }">{{ goesTo('text') }}</span>
        <span class="quiet small"
          >· <template v-if="!draft.ownText">follows the email until you edit it</template
          ><button v-else class="link small" @click="follow">Follow the email again</button></span
        >
      </header>
      <div class="in">
        <v-textarea
          ref="text"
          v-model="textShown"
          placeholder="A short text"
          aria-label="Text"
          dir="auto"
          auto-grow
          rows="2"
          max-rows="8"
          :class="{ following: !draft.ownText }"
        />
        <FieldChips :fields="fields" @insert="insert(text, $event, (v) => (textShown = v), textShown)" />
        <div v-if="meter && meter.most" class="meter small" :class="{ stale }" role="status">
          <b>{{ each }}</b>
          <span>{{ meter.alphabet === 'gsm7' ? 'short alphabet' : 'long alphabet' }}</span>
          <span>{{ meter.room }} left in the last part</span>
          <span v-if="carried('text')"
            >{{ count(meter.total, 'part', 'parts') }} in all, {{ carried('text')?.cost }}</span
          >
          <span v-else>nobody gets it by text yet</span>
        </div>
        <div v-if="forcing.length" class="tip small">
          <span>
            <template v-for="(f, i) in forcing.slice(0, 6)" :key="f.character"
              ><template v-if="i">, </template
              ><bdi
                >“<b>{{ f.character }}</b
                >”</bdi
              ><template v-if="f.times > 1"> ×{{ f.times }}</template></template
            ><template v-if="forcing.length > 6"> and {{ forcing.length - 6 }} more</template>
            {{ forcing.length === 1 && forcing[0]?.times === 1 ? 'needs' : 'need' }} the long alphabet, which
            holds less than half as much.
            <template v-if="meter?.saves"
              >Plain characters in their place save {{ count(meter.saves, 'part', 'parts') }}.</template
            >
            <template v-else-if="swappable.length < forcing.length"
              >Not all of them have a plain replacement.</template
            >
          </span>
          <button
            v-if="swappable.length && meter && meter.swapped !== textShown.trim()"
            class="link"
            @click="swap"
          >
            Swap
            {{
              swappable
                .map((f) => `${f.character} for ${f.replacement}`)
                .slice(0, 3)
                .join(', ')
            }}
          </button>
        </div>
      </div>
    </article>

    <article class="face sheet">
      <header>
        <ChannelMark channel="voice" />
        <h2>Voice</h2>
        <span class="quiet small push" :class="{ stale }">{{ goesTo('voice') }}</span>
        <span class="quiet small"
          >· the text, read aloud<template v-if="carried('voice')"
            >, about {{ thousands(carried('voice')?.seconds ?? 0) }} s, {{ carried('voice')?.cost }}</template
          ></span
        >
      </header>
    </article>
  </section>
</template>

<style scoped>
.what {
  padding: 12px 14px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}

header {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 2px 8px;
  padding: 7px 11px;
}

h2 {
  font-size: 13.5px;
}

.in {
  border-top: 1px solid var(--hair);
  padding: 9px 10px;
  display: flex;
  flex-direction: column;
  gap: 7px;
}

.main :deep(textarea) {
  min-height: 150px;
}

.following :deep(textarea) {
  color: var(--ink2);
}

.meter {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  color: var(--ink2);
  font-variant-numeric: tabular-nums;
}

.meter b {
  color: var(--ink);
}

.stale {
  opacity: 0.7;
}

.tip {
  background: var(--lampsoft);
  border-left: 3px solid var(--lamp);
  border-radius: 0 4px 4px 0;
  padding: 5px 9px;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}
</style>
