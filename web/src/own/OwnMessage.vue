<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, take } from '@/api/client'
import OwnWords from './OwnWords.vue'
import OwnWrite from './OwnWrite.vue'
import type { OwnItem, Say, Waiting } from './own'

/** One message on the page: folded up to a line, or open with what can be done about it. */
const props = defineProps<{
  token: string
  item: OwnItem
  say: Say
  date: (at: string) => string
  waiting: Waiting[]
}>()
const emit = defineEmits<{ changed: []; send: [text: string]; file: [file: File] }>()
const path = { params: { path: { token: props.token, item: props.item.id } } }
const open = ref(props.item.foremost && props.item.new)
const failed = ref(false)
const heading = computed(() => props.item.subject || (props.item.text.split('\n')[0] ?? ''))

async function tell(what: Promise<unknown>) {
  failed.value = false
  try {
    await what
    emit('changed')
  } catch {
    failed.value = true
  }
}
watch(
  open,
  (now) => {
    if (now && props.item.new)
      void tell(take(api.POST('/own/{token}/items/{item}/opened', { ...path, body: {} })))
  },
  { immediate: true },
)
const confirm = () =>
  tell(take(api.POST('/own/{token}/items/{item}/opened', { ...path, body: { confirms: true } })))

const minutes = ref(15)
const asks = ref(0)
function answer(number: number, sure: boolean) {
  const choice = props.item.choices.find((c) => c.number === number)
  if (choice?.minutes && !sure) {
    asks.value = number
    return undefined
  }
  asks.value = 0
  const body = { number, ...(choice?.minutes ? { minutes: minutes.value } : {}) }
  return tell(take(api.POST('/own/{token}/items/{item}/answer', { ...path, body })))
}
</script>

<template>
  <article :class="{ new: item.new, urgent: item.emergency }">
    <button type="button" class="line" :aria-expanded="open" @click="open = !open">
      <span class="when">{{ date(item.at) }}</span>
      <b
        v-if="item.subject || !open"
        class="heading"
        :dir="item.rtl ? 'rtl' : 'auto'"
        :lang="item.language"
        >{{ heading }}</b
      >
      <span v-if="item.new" class="mark">{{ say('own new') }}</span>
    </button>
    <div v-if="open" class="open">
      <OwnWords :text="item.text" :language="item.language" :rtl="item.rtl" />
      <p v-if="item.link && !item.text.includes(item.link)">
        <a :href="item.link" rel="noreferrer" dir="ltr">{{ item.link }}</a>
      </p>
      <p v-for="f in item.files" :key="f.hash">
        <a :href="`/api/own/${token}/items/${item.id}/files/${f.hash}`" :download="f.name"
          ><bdi>{{ f.name }}</bdi></a
        >
      </p>
      <div v-if="item.choices.length" class="answers" role="group" :aria-label="say('question yours')">
        <button
          v-for="c in item.choices"
          :key="c.number"
          type="button"
          class="button"
          :class="{ main: c.number === item.answer }"
          :aria-pressed="c.number === item.answer"
          :lang="item.language"
          @click="answer(c.number, false)"
        >
          {{ c.words
          }}<template v-if="c.number === item.answer && item.minutes"> ({{ item.minutes }}′)</template>
        </button>
      </div>
      <form v-if="asks" class="minutes" @submit.prevent="answer(asks, true)">
        <label
          >{{ say('question minutes') }}
          <input v-model.number="minutes" type="number" inputmode="numeric" min="1" max="1440" required
        /></label>
        <button type="submit" class="button main">{{ say('question send') }}</button>
      </form>
      <template v-if="item.confirms && !item.choices.length">
        <p v-if="item.confirmed" class="thanks">{{ say('own known') }}</p>
        <button v-else type="button" class="button main" @click="confirm">{{ say('own know') }}</button>
      </template>
      <div v-for="w in item.wrote" :key="w.at" class="wrote">
        <span class="when">{{ say('own wrote') }} · {{ date(w.at) }}</span>
        <OwnWords :text="[w.said, ...w.files].filter(Boolean).join('\n')" language="" />
      </div>
      <div v-for="w in waiting" :key="w.key" class="wrote">
        <span class="when">{{ say('own outbox') }}</span>
        <OwnWords :text="w.text" language="" />
      </div>
      <p v-if="failed" class="bad" role="alert">{{ say('question failed') }}</p>
      <OwnWrite
        :label="say('own back')"
        :say="say"
        @send="emit('send', $event)"
        @file="emit('file', $event)"
      />
    </div>
  </article>
</template>

<style scoped>
article {
  border-top: 1px solid var(--hair);
  border-inline-start: 3px solid transparent;
  margin-inline: -26px;
  padding-inline: 23px 26px;
}

article.new {
  border-inline-start-color: var(--lamp);
}

article.urgent {
  border-inline-start-color: var(--brick);
}

.line {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  width: 100%;
  padding: 10px 0;
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 1px 10px;
  text-align: start;
  cursor: pointer;
}

.when {
  grid-column: 1 / -1;
  font-size: 12.5px;
  color: var(--ink2);
}

.heading {
  text-align: match-parent;
}

[aria-expanded='false'] .heading {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.mark {
  background: var(--lampsoft);
  color: var(--lampink);
  border-radius: 4px;
  padding: 0 7px;
  font-size: 12.5px;
}

.open {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding-bottom: 14px;
}

.answers {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(140px, 1fr));
  gap: 8px;
}

.minutes {
  flex-direction: row !important;
  align-items: center;
  flex-wrap: wrap;
}

.minutes input {
  width: 74px;
}

.wrote {
  border-inline-start: 3px solid var(--line);
  padding-inline-start: 10px;
}

@media (max-width: 500px) {
  article {
    margin-inline: -16px;
    padding-inline: 13px 16px;
  }
}
</style>
