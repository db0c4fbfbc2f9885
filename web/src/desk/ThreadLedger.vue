<script setup lang="ts">
import { ref } from 'vue'
import { useIntervalFn } from '@vueuse/core'
import type { Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { people, stateWords } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import EntryFile from './EntryFile.vue'
import ReachedList from './ReachedList.vue'

/** Both directions of a thread in order, as lines of a ledger. */
const props = defineProps<{ view: Schemas['ThreadView']; busy: boolean }>()
defineEmits<{ takeBack: [message: number]; alone: [person: number] }>()
const times = useTimes()

const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 250)
const left = (at: string) => Math.max(0, Math.ceil((new Date(at).getTime() - now.value) / 1000))

/** Of what went to many, whom it reached is asked for. */
const asked = ref(0)

type Entry = Schemas['EntryView']
/** Whether an entry answers another message than the one before it. */
function answersAnew(at: number): boolean {
  const e = props.view.entries[at]
  if (!e?.title) return false
  const before = props.view.entries.slice(0, at).findLast((o) => o.title)
  return before?.message !== e.message
}
const kindWords = { automatic: 'written by a program', word: 'a word to carriers', note: 'stays here' }
/** What the desk reads; the other language stands beneath. */
const first = (e: Entry) => (e.copy && e.kind !== 'out' ? e.copy.text : e.said)
const read = (e: Entry) => (!e.copy ? '' : e.copy.checked ? 'checked' : 'read by the machine')
/** How far something got that went to many. */
function reach(p: NonNullable<Entry['people']>): string {
  if (p.waiting === p.all) return `on its way to ${p.all}`
  return `${p.reached} of ${p.all} have it`
}
const stands = (e: Entry) =>
  e.kind === 'in' ? read(e) : e.kind === 'out' ? (e.state ? stateWords[e.state] : 'gone') : kindWords[e.kind]
</script>

<template>
  <div class="ledger sheet" role="log" aria-label="What was said">
    <p v-if="!view.entries.length" class="quiet none">Nothing was said yet. What you write comes first.</p>
    <template v-for="(e, i) in view.entries" :key="e.id">
      <div v-if="answersAnew(i)" class="line ours">
        <span />
        <span />
        <span class="quiet">They answer</span>
        <router-link class="link" :to="`/outgoing/${e.message}`"
          ><bdi>{{ e.title }}</bdi></router-link
        >
        <span />
      </div>
      <div
        class="line"
        :class="{
          ours: e.kind === 'out',
          note: e.kind === 'note',
          aside: e.kind === 'automatic' || e.kind === 'word',
        }"
      >
        <span class="quiet small when">{{ times.day(e.at) }}<br />{{ times.clock(e.at) }}</span>
        <ChannelMark v-if="e.channel" :channel="e.channel" v-bind="e.state ? { state: e.state } : {}" />
        <span v-else />
        <b class="who"
          ><bdi>{{ e.name }}</bdi></b
        >
        <div class="what">
          <i v-if="e.kind === 'note'">Note: </i>
          <b v-if="e.interrupts" class="small interrupts">interrupts </b>
          <p class="said" dir="auto">{{ first(e) || 'No words of their own' }}</p>
          <p
            v-if="e.copy"
            class="said small quiet"
            dir="auto"
            :lang="e.kind === 'out' ? e.copy.language : ''"
          >
            {{ e.kind === 'out' ? e.copy.text : e.said }}
          </p>
          <details v-if="e.folded" class="small">
            <summary class="quiet">Quotation or signature</summary>
            <p class="said quiet" dir="auto">{{ e.folded }}</p>
          </details>
          <p v-if="e.kind === 'in' && !e.channel" class="small quiet">written on their page</p>
          <EntryFile v-for="f in e.files" :key="f.hash" :thread="view.thread.id" :file="f" />
          <p v-if="view.many && e.kind === 'in'" class="small quiet">
            <template v-if="e.passed">
              passed on to
              <button class="link small" @click="asked = asked === e.passed ? 0 : e.passed">
                {{ people(e.people?.all ?? 0) }}</button><template v-if="e.person"> · </template>
            </template>
            <button v-if="e.person" class="link small" @click="$emit('alone', e.person)">Answer alone</button>
          </p>
          <ReachedList
            v-if="asked && (asked === e.passed || (asked === e.message && e.kind === 'out'))"
            :thread="view.thread.id"
            :message="asked"
          />
          <p v-for="d in e.dropped" :key="d" class="small quiet">Not kept: {{ d }}</p>
        </div>
        <span class="stands small" :class="{ bad: e.state === 'failed' || e.state === 'expired' }">
          <template v-if="e.leaves">
            <button
              class="link"
              :disabled="busy || left(e.leaves) === 0"
              @click="$emit('takeBack', e.message)"
            >
              Take it back</button
            ><br /><span class="num">leaves in {{ left(e.leaves) }} s</span>
          </template>
          <template v-else-if="e.people && e.kind === 'out'">
            <button class="link small" @click="asked = asked === e.message ? 0 : e.message">
              {{ reach(e.people) }}
            </button>
            <span v-if="e.people.notReached" class="bad"><br />{{ e.people.notReached }} not reached</span>
            <span v-if="e.people.leftOut"><br />{{ e.people.leftOut }} get nothing</span>
          </template>
          <template v-else>
            {{ stands(e) }}
            <span v-if="e.kind === 'out' && e.moved" class="num">{{ times.clock(e.moved) }}</span>
            <span v-if="e.detail && e.state === 'failed'" dir="auto"><br />{{ e.detail }}</span>
          </template>
        </span>
      </div>
    </template>
  </div>
</template>

<style scoped>
.ledger {
  overflow: hidden;
}

.line {
  display: grid;
  grid-template-columns: 84px 16px minmax(80px, 132px) minmax(0, 1fr) 104px;
  gap: 0 9px;
  padding: 9px 12px;
  border-bottom: 1px solid var(--line);
  align-items: start;
}

@media (width < 1100px) {
  .line {
    grid-template-columns: 58px 16px minmax(70px, 104px) minmax(0, 1fr) 84px;
  }
}

.line:last-child {
  border-bottom: 0;
}

.ours {
  background: var(--pane);
}

.note {
  border-left: 3px solid var(--slate);
}

.when {
  font-variant-numeric: tabular-nums;
}

.aside .what,
.aside .who {
  color: var(--ink2);
  font-weight: 400;
}

.who {
  overflow-wrap: anywhere;
}

.what p {
  margin: 0;
}

.what .said {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.interrupts {
  color: var(--lampink);
}

.note .said {
  display: inline;
}

.stands {
  text-align: end;
  color: var(--ink2);
}

.stands.bad {
  color: var(--brick);
}

.none {
  padding: 14px;
}

:deep(.mark) {
  margin-top: 3px;
}
</style>
