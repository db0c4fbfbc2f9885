<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useRights, useSession, useTimes } from '@/composables/session'
import { bytes, count } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import FindBox from '@/components/FindBox.vue'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import AddressFaults from '@/bench/AddressFaults.vue'
import AnswerForm, { type Written } from '@/bench/AnswerForm.vue'
import ChoiceButtons from '@/bench/ChoiceButtons.vue'
import CallSound from '@/bench/CallSound.vue'
import UnknownSender from '@/bench/UnknownSender.vue'
import WriteToUs, { type Way } from '@/bench/WriteToUs.vue'
import WeatherBar from '@/bench/WeatherBar.vue'

const times = useTimes()
const { data: session } = useSession()
const may = useRights()
const client = useQueryClient()
const chosen = ref(0)

/** The page of a push, or that which ends emails, wherever the program is reached just now. */
const pageOf = (link: string) => new URL(link).pathname

const { error } = useQuery({
  queryKey: ['carriers'],
  queryFn: () => take(api.GET('/bench/carriers')),
})
const { data: page } = useQuery({
  queryKey: ['messages'],
  queryFn: () => take(api.GET('/messages', { params: { query: { count: 500 } } })),
})
const messages = computed(() => page.value?.messages)
/** Of the latest that left, the one to most people: there is most to see. */
const newest = computed(() =>
  messages.value
    ?.filter((m) => m.state === 'sending' || m.state === 'sent' || m.state === 'stopped')
    .slice(0, 5)
    .reduce<Schemas['MessageView'] | undefined>(
      (most, m) => (most && most.figures.recipients >= m.figures.recipients ? most : m),
      undefined,
    ),
)
const { data: list } = useQuery({
  queryKey: ['record', computed(() => newest.value?.id ?? 0), 'newest'],
  queryFn: () =>
    take(
      api.GET('/messages/{id}/recipients', {
        params: { path: { id: newest.value?.id ?? 0 }, query: { count: 500 } },
      }),
    ),
  enabled: computed(() => Boolean(newest.value)),
})
// Some of each step, so that phones as well as mailboxes are at hand.
const recent = computed(() => {
  const known = (list.value?.recipients ?? []).filter((r) => r.person)
  const steps = [...new Set(known.map((r) => r.step))]
  return steps.sort().flatMap((step) => known.filter((r) => r.step === step).slice(0, 14))
})
watchEffect(() => {
  const first = recent.value.find((r) => r.deliveries.some((d) => d.channel !== 'email')) ?? recent.value[0]
  if (!chosen.value && first) chosen.value = first.person
})

const { data: person } = useQuery({
  queryKey: ['person', chosen],
  queryFn: () => take(api.GET('/people/{id}', { params: { path: { id: chosen.value } } })),
  enabled: computed(() => chosen.value > 0),
})
const { data: received } = useQuery({
  queryKey: ['received', chosen],
  queryFn: () => take(api.GET('/bench/people/{id}', { params: { path: { id: chosen.value } } })),
  enabled: computed(() => chosen.value > 0),
  refetchInterval: 2000,
})
const press = useMutation({
  mutationFn: (body: { key: string; pressed: string }) =>
    take(api.POST('/bench/people/{id}/press', { params: { path: { id: chosen.value } }, body })),
  onSettled: () => client.invalidateQueries({ queryKey: ['received'] }),
})
function answer(key: string, written: Written) {
  const params = { path: { id: chosen.value } }
  return take(api.POST('/bench/people/{id}/answer', { params, body: { key, ...written } }))
}
/** By which somebody writes of their own accord. */
const ways = (...channels: Way['channel'][]) =>
  channels.flatMap((channel): Way[] => {
    const address = person.value?.addresses.find((a) => a.channel === channel)
    return address && may('change-settings') ? [{ channel, from: address.value }] : []
  })
const mails = computed(() => received.value?.filter((i) => i.channel === 'email') ?? [])
const took = (i: Schemas['BenchItem']) =>
  i.channel === 'text' ? 'Text' : i.body ? 'Call, read aloud' : 'Call'
const phone = computed(() => received.value?.filter((i) => i.channel !== 'email') ?? [])
</script>

<template>
  <div class="page">
    <PageHead title="The Bench" note="Phones and mailboxes of the demo: what really arrived" />
    <WeatherBar v-if="!error" />
    <EmptyNote v-if="error" title="There is no bench here">{{ error.message }}</EmptyNote>
    <div v-else class="panes">
      <aside>
        <PaneHead title="Whose" />
        <FindBox :kinds="['person']" label="Name" @pick="chosen = $event.id" />
        <h3 v-if="recent.length">Written to lately</h3>
        <ul>
          <li v-for="r in recent" :key="r.id">
            <button :aria-pressed="r.person === chosen" @click="chosen = r.person">
              <ChannelMark v-for="(d, i) in r.deliveries" :key="i" :channel="d.channel" :state="d.state" />
              <bdi>{{ r.name }}</bdi>
            </button>
          </li>
        </ul>
        <UnknownSender v-if="may('change-settings')" />
      </aside>
      <section v-if="person" class="phone">
        <PaneHead
          :title="`${person.name}’s phone`"
          :note="count(phone.length, 'item', 'texts, calls and pushes')"
        />
        <AddressFaults :person="chosen" :channels="['text', 'voice', 'push']" none="no number on file" />
        <WriteToUs :key="chosen" :ways="ways('text', 'voice')" />
        <div class="glass">
          <p v-if="!phone.length" class="quiet none">Nothing has arrived on this phone.</p>
          <article v-for="i in phone" :key="i.key" class="sheet">
            <header class="small quiet row">
              <ChannelMark :channel="i.channel" />
              <span v-if="i.channel === 'push'">Push on {{ i.address }}</span>
              <span v-else
                >{{ took(i) }} from <span class="number">{{ i.from }}</span></span
              >
              <span class="push">{{ times.moment(i.at) }}</span>
            </header>
            <b v-if="i.subject" dir="auto">{{ i.subject }}</b>
            <p dir="auto" class="said">{{ i.body }}</p>
            <footer v-if="i.offers" class="small quiet">{{ i.offers }}</footer>
            <button
              v-if="i.confirm && may('change-settings')"
              class="link small"
              @click="press.mutate({ key: i.key, pressed: i.confirm })"
            >
              Press {{ i.confirm }}
            </button>
            <ChoiceButtons
              v-if="may('change-settings')"
              :item="i"
              :busy="press.isPending.value"
              @press="press.mutate({ key: i.key, pressed: $event })"
            />
            <AnswerForm
              v-if="i.channel === 'text' && may('change-settings')"
              label="Answer…"
              channel="text"
              :post="(w) => answer(i.key, w)"
            />
            <a
              v-if="i.channel === 'push' && i.answer && may('change-settings')"
              class="small"
              :href="pageOf(i.answer)"
              target="_blank"
              rel="noopener"
              >Touch it: its page opens</a
            >
            <CallSound v-if="i.channel === 'voice' && i.body && session?.readsAloud" :text="i.body" />
            <footer v-if="i.parts.length > 1" class="small quiet">
              carried in {{ i.parts.length }} parts
            </footer>
          </article>
        </div>
      </section>
      <section v-if="person" class="mailbox">
        <PaneHead :title="`${person.name}’s mailbox`" :note="count(mails.length, 'email', 'emails')" />
        <AddressFaults :person="chosen" :channels="['email']" none="no mail address on file" />
        <WriteToUs :key="chosen" :ways="ways('email')" />
        <p v-if="!mails.length" class="quiet none">Nothing has arrived in this mailbox.</p>
        <article v-for="i in mails" :key="i.key + i.address" class="sheet mail">
          <header>
            <h3 dir="auto">{{ i.subject || 'No subject' }}</h3>
            <div class="small quiet row">
              <span>{{ i.from }}</span>
              <span class="push">{{ times.moment(i.at) }}</span>
            </div>
            <div class="small quiet">to {{ i.address }}</div>
          </header>
          <p dir="auto" class="said">{{ i.body }}</p>
          <footer v-if="i.html || i.files?.length" class="small quiet">
            <template v-if="i.html">with its formatting as HTML beside this plain text</template>
            <div v-for="f in i.files" :key="f.name">
              <a v-if="f.hash" :href="`/api/bench/people/${chosen}/files/${f.hash}`"
                ><bdi>{{ f.name }}</bdi></a
              >
              <b v-else
                ><bdi>{{ f.name }}</bdi></b
              >
              {{ f.shown ? 'shown in it' : 'attached' }}, {{ bytes(f.size) }}
            </div>
          </footer>
          <ChoiceButtons
            v-if="may('change-settings')"
            :item="i"
            :busy="press.isPending.value"
            @press="press.mutate({ key: i.key, pressed: $event })"
          />
          <a
            v-if="i.oneClick && may('change-settings')"
            class="small ends"
            :href="pageOf(i.oneClick)"
            target="_blank"
            rel="noopener"
            >End emails like this</a
          >
          <AnswerForm
            v-if="may('change-settings')"
            label="Answer…"
            channel="email"
            answers
            :post="(w) => answer(i.key, w)"
          />
        </article>
      </section>
      <EmptyNote v-else title="Choose somebody"
        >Send a message first, or look for a name on the left.</EmptyNote
      >
    </div>
  </div>
</template>

<style scoped>
.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 240px minmax(280px, 360px) minmax(0, 1fr);
}

aside,
section {
  overflow: auto;
  padding: 12px 14px;
}

aside {
  background: var(--pane);
  border-right: 1px solid var(--line);
}

aside h3 {
  margin: 14px 0 4px;
}

aside ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

aside button {
  display: flex;
  align-items: center;
  gap: 6px;
  width: 100%;
  border: 0;
  border-radius: 4px;
  background: none;
  font: inherit;
  text-align: start;
  padding: 5px 8px;
  cursor: pointer;
}

aside button:hover,
aside button[aria-pressed='true'] {
  background: #dfe9ec;
}

aside button[aria-pressed='true'] {
  font-weight: 600;
}

.glass {
  margin-top: 8px;
  background: var(--deep);
  border-radius: 14px;
  padding: 16px 12px;
  min-height: 340px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}

.glass .none {
  color: #bcd2d9;
}

article {
  padding: 9px 12px;
}

article .push {
  white-space: nowrap;
}

.mail {
  margin-top: 8px;
}

.mail header {
  border-bottom: 1px solid var(--hair);
  padding-bottom: 6px;
  margin-bottom: 8px;
}

.said {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.ends {
  float: inline-end;
}

.number {
  white-space: nowrap;
}

footer {
  overflow-wrap: anywhere;
}

.none {
  padding: 10px 0;
}
</style>
