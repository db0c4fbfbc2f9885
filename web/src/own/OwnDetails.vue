<script setup lang="ts">
import { reactive, ref, shallowRef } from 'vue'
import { api, ApiError, take, type Schemas } from '@/api/client'
import { subscribe } from '@/composables/device'
import { sayer } from './own'

/** Where somebody corrects how they are reached, in their language. */
const props = defineProps<{ token: string }>()
const data = shallowRef<Schemas['VisitView']>()
const details = reactive<Schemas['Details']>({ addresses: [], language: '', wish: '' })
const path = { params: { path: { token: props.token } } }

async function visit() {
  data.value = await take(api.GET('/own/{token}/details', path))
  Object.assign(details, structuredClone(data.value.details))
}
void visit()

const say = sayer(() => data.value?.words)
const wrong = ref<string[]>([])
const waits = ref<boolean>()

const busy = ref(false)
const failed = ref(false)

async function send() {
  busy.value = true
  wrong.value = []
  failed.value = false
  try {
    waits.value = (await take(api.PUT('/own/{token}/details', { ...path, body: details }))).waits
  } catch (problem) {
    failed.value = true
    // What is wrong is marked at its address; the reasons are in English and stay away.
    if (problem instanceof ApiError) wrong.value = problem.details.map((d) => String(d.value ?? ''))
  } finally {
    busy.value = false
  }
}
const isWrong = (a: Schemas['OwnAddress']) =>
  wrong.value.some(
    (w) => w !== '' && (w === a.value.trim() || w.replace(/ /g, '') === a.value.replace(/ /g, '')),
  )

const refused = ref(false)
async function connect(name: string) {
  refused.value = false
  try {
    details.device = { ...(await subscribe(data.value?.pushKey ?? '')), name }
  } catch {
    refused.value = true
  }
}

const add = (mail: boolean) =>
  details.addresses.push({ value: '', mail, texts: !mail, calls: !mail, noRoutine: false })
</script>

<template>
  <p v-if="data && waits !== undefined" class="thanks" role="status">
    {{ waits ? say('waits') : say('saved') }}
  </p>
  <form v-else-if="data" @submit.prevent="send">
    <p>{{ say('explain', { organisation: data.organisation }) }}</p>
    <h2>{{ say('addresses') }}</h2>
    <p v-if="!details.addresses.length" class="quiet">{{ say('nothing') }}</p>
    <div v-for="(a, i) in details.addresses" :key="i" class="address" :class="{ wrong: isWrong(a) }">
      <label class="field"
        ><span>{{ a.mail ? say('email') : say('number') }}</span>
        <input
          v-model="a.value"
          :type="a.mail ? 'email' : 'text'"
          dir="ltr"
          :inputmode="a.mail ? 'email' : 'tel'"
        />
      </label>
      <div class="uses">
        <template v-if="!a.mail">
          <label class="tickbox"><input v-model="a.texts" type="checkbox" />{{ say('takes texts') }}</label>
          <label class="tickbox"><input v-model="a.calls" type="checkbox" />{{ say('takes calls') }}</label>
        </template>
        <label class="tickbox"><input v-model="a.noRoutine" type="checkbox" />{{ say('no routine') }}</label>
        <button type="button" class="link" @click="details.addresses.splice(i, 1)">
          {{ say('remove') }}
        </button>
      </div>
      <p v-if="isWrong(a)" class="bad" role="alert">{{ say('wrong') }}</p>
    </div>
    <div class="row">
      <button type="button" class="button" @click="add(true)">{{ say('add email') }}</button>
      <button type="button" class="button" @click="add(false)">{{ say('add number') }}</button>
    </div>
    <p v-if="details.device" class="thanks" role="status">{{ say('device on') }}</p>
    <div v-else class="row">
      <button
        v-for="name in data.unconnected"
        :key="name"
        type="button"
        class="button"
        @click="connect(name)"
      >
        {{ say('device') }} (<bdi>{{ name }}</bdi
        >)
      </button>
      <button v-if="!data.unconnected.length" type="button" class="button" @click="connect('')">
        {{ say('device') }}
      </button>
    </div>
    <p v-if="refused" class="bad" role="alert">{{ say('device off') }}</p>
    <label class="field"
      ><span>{{ say('language') }}</span>
      <select v-model="details.language">
        <option v-if="!details.language" value=""></option>
        <option v-for="l in data.languages" :key="l.value" :value="l.value">{{ l.words }}</option>
      </select></label
    >
    <label class="field"
      ><span>{{ say('first') }}</span>
      <select v-model="details.wish">
        <option value="">{{ say('no preference') }}</option>
        <option v-for="c in ['email', 'text', 'voice'] as const" :key="c" :value="c">{{ say(c) }}</option>
      </select></label
    >
    <p v-if="failed && !details.addresses.some(isWrong)" class="bad" role="alert">
      {{ say('wrong') }}
    </p>
    <button type="submit" class="button main" :disabled="busy">{{ say('send') }}</button>
  </form>
</template>

<style scoped>
.address {
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 10px 12px;
  display: flex;
  flex-direction: column;
  gap: 7px;
}

.address.wrong {
  border-color: var(--brick);
}

.uses {
  display: flex;
  flex-wrap: wrap;
  gap: 5px 16px;
}

.uses .link {
  margin-inline-start: auto;
}
</style>
