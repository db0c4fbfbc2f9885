<script setup lang="ts">
import { computed, reactive, ref, shallowRef } from 'vue'
import { api, ApiError, take, type Schemas } from '@/api/client'
import LanternMark from '@/components/LanternMark.vue'
import ReadLine from './ReadLine.vue'
import { batches, type Saying } from './saying'

/** The plain page on which somebody outside the desk reads a copy, in their language. */
const props = defineProps<{ token: string }>()
const path = { params: { path: { token: props.token } } }

const data = shallowRef<Schemas['ReadingVisitView']>()
const unknown = ref(false)
const again = ref(false)
const remark = ref('')
/** What is typed and not kept yet, by the key of its line. */
const typed = reactive(new Map<string, string>())

async function visit() {
  try {
    data.value = await take(api.GET('/reading/{token}', path))
    remark.value = data.value.remark
  } catch {
    unknown.value = true
  }
}
void visit()

const say = (key: string, values: Record<string, string | number> = {}) =>
  Object.entries(values).reduce(
    (text, [k, v]) => text.replaceAll(`{${k}}`, String(v)),
    data.value?.words.phrase[key] ?? '',
  )
const language = computed(() => data.value?.languageName ?? '')
const read = computed(() => data.value?.lines.filter((l) => l.said).length ?? 0)
const left = computed(() => data.value?.lines.filter((l) => !l.said && l.target && !typed.has(l.key)) ?? [])

const busy = ref(false)
const failed = ref(false)
const gone = ref(false)

/** Keeps what was said; what could not be kept stays typed. */
async function keep(sayings: Saying[], done = false) {
  busy.value = true
  failed.value = false
  try {
    const parts = batches(sayings)
    for (const [i, lines] of parts.entries()) {
      data.value = await take(
        api.PUT('/reading/{token}', {
          ...path,
          body: { lines, remark: remark.value, done: done && i === parts.length - 1 },
        }),
      )
      for (const line of lines) typed.delete(line.key)
      gone.value = data.value.gone.length > 0
    }
    again.value &&= !done
  } catch (problem) {
    failed.value = true
    if (problem instanceof ApiError && [404, 409].includes(problem.status)) await visit()
  } finally {
    busy.value = false
  }
}

const right = () => keep(left.value.map((l) => ({ key: l.key, seen: l.target, text: l.target })))

/** Done: what is still being typed counts. */
function done() {
  const lines = data.value?.lines.filter((l) => typed.get(l.key)?.trim()) ?? []
  return keep(
    lines.map((l) => ({ key: l.key, seen: l.target, text: typed.get(l.key)! })),
    true,
  )
}
</script>

<template>
  <main class="visitor" :lang="data?.words.tag" :dir="data?.words.rtl ? 'rtl' : 'ltr'">
    <div class="card wide sheet">
      <header>
        <LanternMark />
        <b
          ><bdi>{{ data?.organisation }}</bdi></b
        >
      </header>
      <template v-if="unknown">
        <h1>This link no longer works</h1>
        <p>It has expired, or was cut when it was copied. Ask whoever gave it to you for a new one.</p>
      </template>
      <template v-else-if="data?.over || (data?.done && !again)">
        <h1>{{ say('hello', { name: data.name }) }}</h1>
        <p class="thanks" role="status">
          {{ data.over ? say('reading sent') : say('reading thanks', { organisation: data.organisation }) }}
        </p>
        <div v-if="!data.over" class="row">
          <button type="button" class="button" @click="again = true">{{ say('reading more') }}</button>
        </div>
      </template>
      <form v-else-if="data" @submit.prevent="done">
        <h1>{{ say('hello', { name: data.name }) }}</h1>
        <p>{{ say('reading explain', { organisation: data.organisation, language }) }}</p>
        <p v-if="data.lines.some((l) => l.places.length)" class="quiet small">{{ say('reading places') }}</p>
        <p v-if="gone" class="thanks" role="status">{{ say('reading gone') }}</p>
        <ol>
          <ReadLine
            v-for="(l, i) in data.lines"
            :key="l.key"
            :line="l"
            :number="i + 1"
            :visit="data"
            :typed="typed.get(l.key)"
            :busy="busy"
            :say="say"
            @type="typed.set(l.key, $event)"
            @drop="typed.delete(l.key)"
            @keep="keep([{ key: l.key, seen: l.target, text: $event }])"
          />
        </ol>
        <div class="row">
          <span class="quiet">{{ say('reading count', { read, all: data.lines.length }) }}</span>
          <button v-if="left.length > 1" type="button" class="button" :disabled="busy" @click="right">
            {{ say('reading all right') }}
          </button>
        </div>
        <label class="field"
          ><span>{{ say('reading remark') }}</span>
          <textarea v-model="remark" rows="2" maxlength="2000" dir="auto" />
        </label>
        <p v-if="failed" class="bad" role="alert">{{ say('reading failed') }}</p>
        <button type="submit" class="button main" :disabled="busy">{{ say('reading done') }}</button>
        <p class="quiet small">{{ say('until', { date: data.until }) }}</p>
      </form>
    </div>
  </main>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: 6px;
}
</style>
