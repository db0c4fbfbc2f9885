<script setup lang="ts">
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import LanternMark from '@/components/LanternMark.vue'
import OwnWords from './OwnWords.vue'
import { sayer, useOwn, type OwnItem } from './own'

/** The page of a terminal in a vehicle: full width, and only what must be known while driving. */
const place = 'terminal'
const key = ref(localStorage.getItem(place) ?? '')
const { page, gone, offline, load, say, date } = useOwn(key, 5_000)

/** Until it is paired it shows a code, and asks for a new one before that one ends. */
const asked = shallowRef<Schemas['TerminalView']>()
const codeLasts = 14 * 60_000
async function ask() {
  if (page.value && !gone.value) return
  try {
    asked.value = await take(api.POST('/terminals'))
    key.value = asked.value.key
    localStorage.setItem(place, key.value)
    page.value = undefined
  } catch {
    asked.value = undefined
  }
}
void load().then(() => (key.value && !gone.value ? undefined : ask()))
watch(gone, (now) => now && page.value && void ask()) // it was ended
const again = setInterval(ask, codeLasts)
onScopeDispose(() => clearInterval(again))
const first = sayer(() => asked.value?.words)
const code = computed(() => asked.value?.code.replace(/^(.{4})/, '$1 '))

const foremost = computed(() => page.value?.items.filter((i) => i.foremost) ?? [])
const waits = computed(() => foremost.value.filter((i) => i.waits).at(-1))
const others = computed(() => page.value?.items.filter((i) => !i.foremost && i.new).length ?? 0)
const failed = ref(false)
async function touch(item: OwnItem) {
  failed.value = false
  try {
    const path = { token: key.value, item: item.id }
    await take(api.POST('/own/{token}/items/{item}/opened', { params: { path }, body: { confirms: true } }))
    await load()
  } catch {
    failed.value = true
  }
}
async function answer(item: OwnItem, number: number) {
  failed.value = false
  try {
    const path = { token: key.value, item: item.id }
    await take(api.POST('/own/{token}/items/{item}/answer', { params: { path }, body: { number } }))
    await load()
  } catch {
    failed.value = true
  }
}
</script>

<template>
  <main
    class="terminal visitor"
    :lang="(page ?? asked)?.words.tag"
    :dir="(page ?? asked)?.words.rtl ? 'rtl' : 'ltr'"
  >
    <header>
      <LanternMark />
      <b
        ><bdi>{{ page?.organisation }}</bdi></b
      >
      <bdi class="name">{{ page?.name }}</bdi>
    </header>
    <section v-if="!page && asked" class="pairing">
      <h1>{{ first('terminal code') }}</h1>
      <p class="code" dir="ltr">{{ code }}</p>
      <p class="quiet">{{ first('terminal until') }}</p>
    </section>
    <section v-else-if="page && waits" class="now" :class="{ urgent: waits.emergency }" role="alert">
      <span class="when">{{ date(waits.at) }}</span>
      <h1 v-if="waits.subject" :dir="waits.rtl ? 'rtl' : 'auto'" :lang="waits.language">
        {{ waits.subject }}
      </h1>
      <OwnWords :text="waits.text" :language="waits.language" :rtl="waits.rtl" />
      <div class="does">
        <button
          v-for="c in waits.choices.filter((o) => !o.minutes)"
          :key="c.number"
          type="button"
          class="button large"
          :class="{ main: c.number === waits.answer }"
          @click="answer(waits, c.number)"
        >
          {{ c.words }}
        </button>
        <button type="button" class="button main large" @click="touch(waits)">
          {{ say('terminal touch') }}
        </button>
      </div>
    </section>
    <section v-else-if="page" class="rest">
      <p v-if="!foremost.length" class="none">{{ say('terminal quiet') }}</p>
      <article v-for="i in foremost.slice(0, 12)" :key="i.id">
        <span class="when">{{ date(i.at) }}</span>
        <b v-if="i.subject" :dir="i.rtl ? 'rtl' : 'auto'" :lang="i.language">{{ i.subject }}</b>
        <OwnWords :text="i.text" :language="i.language" :rtl="i.rtl" />
        <p v-if="i.answer" class="when">
          {{ say('question yours') }}: <bdi>{{ i.choices[i.answer - 1]?.words }}</bdi>
        </p>
      </article>
    </section>
    <p v-if="failed" class="bad" role="alert">{{ say('question failed') }}</p>
    <footer v-if="page && (offline || others)">
      <span v-if="offline">{{ say('own offline', { date: date(page.at) }) }}</span>
      <span v-else>{{ say('terminal others', { count: String(others) }) }}</span>
    </footer>
  </main>
</template>

<style scoped>
.terminal {
  flex-direction: column;
  align-items: stretch;
  justify-content: flex-start;
  padding: 0;
  font-size: 20px;
}

.terminal header {
  margin: 0;
  border-radius: 0;
  padding: 14px 26px;
}

.name {
  margin-inline-start: auto;
}

section {
  flex: 1;
  padding: 30px 40px;
  display: flex;
  flex-direction: column;
  gap: 18px;
}

h1 {
  font-size: 34px;
}

.pairing {
  align-items: center;
  justify-content: center;
  text-align: center;
}

.code {
  font-size: 84px;
  font-weight: 700;
  letter-spacing: 0.08em;
}

.now {
  background: var(--lampsoft);
  border-top: 12px solid var(--lamp);
  font-size: 36px;
}

.now.urgent {
  background: var(--bricksoft);
  border-color: var(--brick);
}

.now h1 {
  font-size: 46px;
}

.when {
  color: var(--ink2);
  font-size: 18px;
}

.does {
  margin-top: auto;
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
}

.large {
  flex: 1;
  min-height: 90px;
  min-width: 240px;
  font-size: 28px !important;
}

.rest article {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 14px 20px;
  display: flex;
  flex-direction: column;
  gap: 4px;
}

.none {
  margin: auto;
  font-size: 28px;
  color: var(--ink2);
}

footer {
  padding: 12px 26px;
  color: var(--ink2);
  min-height: 28px;
}
</style>
