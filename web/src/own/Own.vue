<script setup lang="ts">
import { computed, defineAsyncComponent, ref, toRef, watch } from 'vue'
import { api, take } from '@/api/client'
import LanternMark from '@/components/LanternMark.vue'
import OwnMessage from './OwnMessage.vue'
import OwnWords from './OwnWords.vue'
import OwnWrite from './OwnWrite.vue'
import { forgetHere, keepHere, takeAlong, useOutbox, useOwn } from './own'

const OwnDetails = defineAsyncComponent(() => import('./OwnDetails.vue'))

/** The place of somebody without an account: what they got, and how they are reached. */
const props = defineProps<{ token: string }>()
const { page, gone, offline, load, say, date } = useOwn(toRef(props, 'token'), 30_000)
const { waiting, trouble, send, sendFile, sending } = useOutbox(props.token, load)
const chosen = ref<'messages' | 'details'>()
// Whoever got nothing yet came for their details.
const shows = computed(
  () => chosen.value ?? (page.value?.items.length || page.value?.others.length ? 'messages' : 'details'),
)

const path = { params: { path: { token: props.token } } }
const kept = computed(() => Boolean(page.value?.kept))
watch(
  kept,
  (now) => {
    if (!now) return
    const link = document.createElement('link')
    Object.assign(link, { rel: 'manifest', href: `/own/${props.token}/manifest.webmanifest` })
    document.head.append(link)
    void keepHere(location.pathname)
  },
  { immediate: true },
)
watch(gone, (now) => now && void forgetHere())

const failed = ref(false)
async function keep() {
  failed.value = false
  try {
    const kind = /Mobi|Android/.test(navigator.userAgent) ? 'phone' : 'browser'
    const kept = (await take(api.POST('/own/{token}/kept', { ...path, body: { kind } }))).path
    takeAlong(props.token, kept.split('/').at(-1) ?? '')
    location.replace(kept)
  } catch {
    failed.value = true
  }
}
async function end() {
  failed.value = false
  try {
    await take(api.DELETE('/own/{token}', path))
    await forgetHere()
    gone.value = true
  } catch {
    failed.value = true
  }
}
</script>

<template>
  <main class="visitor" :lang="page?.words.tag" :dir="page?.words.rtl ? 'rtl' : 'ltr'">
    <div class="card sheet">
      <header>
        <LanternMark />
        <b
          ><bdi>{{ page?.organisation }}</bdi></b
        >
      </header>
      <template v-if="gone">
        <h1>
          {{ page ? say('expired', { organisation: page.organisation }) : 'This link no longer works' }}
        </h1>
        <p v-if="!page">
          It has expired, or was cut when it was copied. Ask whoever gave it to you for a new one.
        </p>
      </template>
      <template v-else-if="page">
        <h1>{{ say('hello', { name: page.name }) }}</h1>
        <p v-if="offline" class="offline" role="status">{{ say('own offline', { date: date(page.at) }) }}</p>
        <nav>
          <button type="button" :aria-current="shows === 'messages'" @click="chosen = 'messages'">
            {{ say('own messages') }}
          </button>
          <button type="button" :aria-current="shows === 'details'" @click="chosen = 'details'">
            {{ say('own details') }}
          </button>
        </nav>
        <OwnDetails v-if="shows === 'details'" :token="token" />
        <template v-else>
          <div v-if="page.items.length" class="list">
            <OwnMessage
              v-for="item in page.items"
              :key="item.id"
              :token="token"
              :item="item"
              :say="say"
              :date="date"
              :waiting="waiting.filter((w) => w.item === item.id)"
              @changed="load"
              @send="send(item.id, $event)"
              @file="sendFile(item.id, $event)"
            />
          </div>
          <p v-else class="quiet">{{ say('own none', { organisation: page.organisation }) }}</p>
          <div v-for="w in page.others" :key="w.at" class="wrote">
            <span class="quiet small">{{ say('own wrote') }} · {{ date(w.at) }}</span>
            <OwnWords :text="[w.said, ...w.files].filter(Boolean).join('\n')" language="" />
          </div>
          <div v-for="w in waiting.filter((o) => !o.item)" :key="w.key" class="wrote">
            <span class="quiet small">{{ say('own outbox') }}</span>
            <OwnWords :text="w.text" language="" />
          </div>
          <div class="lately">
            <p v-if="sending" class="quiet small" role="status">
              <bdi>{{ sending }}</bdi> …
            </p>
            <p v-if="trouble" class="bad" role="alert">{{ say(trouble) }}</p>
          </div>
          <OwnWrite
            :label="say('own write', { organisation: page.organisation })"
            :say="say"
            @send="send(0, $event)"
            @file="sendFile(0, $event)"
          />
        </template>
        <footer>
          <template v-if="kept">
            <span class="quiet small">{{ say('own kept') }}</span>
            <button type="button" class="link" @click="end">{{ say('own end') }}</button>
          </template>
          <template v-else>
            <button type="button" class="button" @click="keep">{{ say('own keep') }}</button>
            <span class="quiet small">{{ say('own why') }}</span>
            <span v-if="page.until" class="quiet small">{{ say('until', { date: date(page.until) }) }}</span>
          </template>
          <p v-if="failed" class="bad" role="alert">{{ say('question failed') }}</p>
        </footer>
      </template>
    </div>
  </main>
</template>

<style scoped>
/* In sight wherever on a long page something was sent. */
.lately {
  position: sticky;
  bottom: 0;
  background: var(--sheet);
}

nav {
  display: flex;
  gap: 22px;
  border-bottom: 1px solid var(--line);
}

nav button {
  font: inherit;
  color: var(--ink2);
  background: none;
  border: 0;
  border-bottom: 3px solid transparent;
  padding: 6px 0;
  cursor: pointer;
}

nav button[aria-current='true'] {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--lamp);
}

.list {
  margin-top: -14px;
}

.list > :first-child {
  border-top-color: transparent;
}

.offline {
  background: var(--lampsoft);
  color: var(--lampink);
  padding: 8px 12px;
  border-radius: 6px;
}

.wrote {
  border-inline-start: 3px solid var(--line);
  padding-inline-start: 10px;
}

footer {
  border-top: 1px solid var(--line);
  padding-top: 14px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 8px;
}
</style>
