<script setup lang="ts">
import { ref } from 'vue'
import { useMutation } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import SayNote from '@/components/SayNote.vue'
import AreaField from '@/controls/AreaField.vue'
import { type Carrier, type Run } from './carriers'

/** What a domain publishes so that its emails count as genuine, and whether they do. */
const props = defineProps<{
  carrier: Carrier
  mailbox: string
  run: Run
}>()
const path = { id: props.carrier.id }
const problem = ref('')
async function makeKey() {
  problem.value = await props.run(() => take(api.POST('/settings/carriers/{id}/key', { params: { path } })))
}

const meanings = {
  spf: 'which servers may send for the domain',
  dkim: 'the key that signatures are checked with',
  dmarc: 'what others do with emails that only pretend',
}
const source = ref('')
const read = useMutation({
  mutationFn: () => take(api.POST('/settings/carriers/results', { body: { source: source.value } })),
})
const copyLine = (value: string) => void navigator.clipboard.writeText(value)
</script>

<template>
  <section class="sheet" aria-label="Counted as genuine">
    <h2>Counted as genuine</h2>
    <p class="small">
      Mail servers of others look up whether an email from <b>{{ mailbox }}</b> is really yours. Whoever looks
      after the domain publishes these TXT records; the mail server’s operator knows whether the first must
      name more.
    </p>
    <dl>
      <template v-for="l in carrier.lines" :key="l.of">
        <dt>
          <b>{{ l.of.toUpperCase() }}</b> <span class="quiet small">{{ meanings[l.of] }}</span>
          <button type="button" class="link small" @click="copyLine(l.value)">
            Copy<span class="sr-only"> {{ l.of }}</span>
          </button>
        </dt>
        <dd>
          <span class="quiet small">{{ l.name }}</span>
          <span class="value small">{{ l.value }}</span>
        </dd>
      </template>
    </dl>
    <div class="row">
      <v-btn @click="makeKey">{{
        carrier.setup.server?.selector ? 'Make another key' : 'Sign emails with a key'
      }}</v-btn>
      <span class="quiet small">{{
        carrier.setup.server?.selector
          ? 'Publish its line before the old one is taken away.'
          : 'Made here, and kept here.'
      }}</span>
    </div>
    <SayNote v-if="problem" kind="bad">{{ problem }}</SayNote>
    <form @submit.prevent="read.mutate()">
      <label class="field"
        ><span>What the other side found</span
        ><AreaField v-model="source" rows="3" spellcheck="false" placeholder="Authentication-Results: …" />
        <small>Send yourself a trial, let your mail program show its source, and paste it here.</small></label
      >
      <v-btn type="submit" :disabled="!source.trim()">Read it</v-btn>
    </form>
    <SayNote v-if="read.error.value" kind="bad">{{ read.error.value.message }}</SayNote>
    <ul v-if="read.data.value" class="small">
      <li v-for="(v, i) in read.data.value" :key="i" :class="v.passed ? 'good' : 'bad'">
        <b>{{ v.of.toUpperCase() }} {{ v.result }}</b> {{ v.words }}
      </li>
    </ul>
  </section>
</template>

<style scoped>
section,
form {
  display: grid;
  gap: 10px;
}

section {
  padding: 12px 14px;
}

h2,
p,
dl,
ul {
  margin: 0;
}

dl {
  display: grid;
  gap: 6px;
}

dt {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

dt .link {
  margin-inline-start: auto;
}

dd {
  margin: 2px 0 0;
  padding: 5px 9px;
  background: var(--pane);
  border-radius: 4px;
  display: grid;
  overflow-wrap: anywhere;
}

small {
  color: var(--ink2);
  font-size: 12.5px;
}

form .v-btn {
  justify-self: start;
}

ul {
  padding-inline-start: 16px;
}

li b {
  color: var(--brick);
}

li.good b {
  color: var(--sea);
}
</style>
