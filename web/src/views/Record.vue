<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useRights, useTimes } from '@/composables/session'
import { count, people, stateWords, thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import CountBox from '@/components/CountBox.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import MarkLegend from '@/components/MarkLegend.vue'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'
import SideDrawer from '@/components/SideDrawer.vue'

type Recipient = Schemas['RecipientView']

const props = defineProps<{ id: string }>()
const number = computed(() => Number(props.id))
const router = useRouter()
const may = useRights()
const client = useQueryClient()
const times = useTimes()
const { show } = usePersonDrawer()
const typed = ref('')
const only = ref('')
const rows = ref(100)
const leftOut = ref(false)
const told = ref(false)

const { data, error } = useQuery({
  queryKey: ['record', number],
  queryFn: () => take(api.GET('/messages/{id}/record', { params: { path: { id: number.value } } })),
  staleTime: 0,
})

const message = computed(() => data.value?.message)
const figures = computed(() => message.value?.figures)

const standing = computed(() => {
  const m = message.value
  if (!m) return ''
  const to = people(m.figures.recipients)
  if (m.state === 'draft') return 'still a draft'
  if (m.state === 'held') return `${m.urgency} · ${m.sender} · leaves ${times.moment(m.leavesAt)} · to ${to}`
  return `${m.urgency} · sent by ${m.sender}${m.assenter ? ` with the yes of ${m.assenter}` : ''}, ${times.moment(m.leavesAt)} · to ${to}`
})

/** The delivery that says most about a recipient. */
const telling = (r: Recipient) => r.deliveries.find((d) => d.state === r.state) ?? r.deliveries[0]

const outcomes = [
  { is: '', words: 'everybody' },
  { is: 'reached', words: 'reached' },
  { is: 'waiting', words: 'waiting' },
  { is: 'not-reached', words: 'not reached' },
  { is: 'stopped', words: 'stopped' },
]

const listed = computed(() => {
  const wanted = typed.value.trim().toLowerCase()
  return (data.value?.recipients ?? []).filter(
    (r) =>
      (!only.value || r.outcome === only.value) &&
      (!wanted ||
        r.name.toLowerCase().includes(wanted) ||
        r.deliveries.some((d) => d.address.toLowerCase().includes(wanted))),
  )
})

// Stopped from elsewhere before anything left, it is a draft again: nothing is
// on record, and it is written on.
watch(
  () => message.value?.state,
  (state) => state === 'draft' && may('write') && router.replace(`/write/${number.value}`),
  { immediate: true },
)

const stop = useMutation({
  mutationFn: () => take(api.POST('/messages/{id}/stop', { params: { path: { id: number.value } } })),
  onSuccess: async (answer) => {
    await client.invalidateQueries()
    if (answer.draft) await router.push(`/write/${number.value}`)
  },
})

const leave = useMutation({
  mutationFn: () => take(api.POST('/messages/{id}/late', { params: { path: { id: number.value } } })),
  onSettled: () => client.invalidateQueries(),
})

const again = useMutation({
  mutationFn: () => take(api.POST('/messages', { body: { copyOf: number.value } })),
  onSuccess: (draft) => router.push(`/write/${draft.id}`),
})

const stopWords = computed(() => {
  if (message.value?.state === 'held') return 'Stop: back to a draft'
  return `Stop the ${thousands(figures.value?.here ?? 0)} that have not left`
})
</script>

<template>
  <EmptyNote v-if="error" title="This record cannot be shown">
    {{ error.message }}
    <template #action><v-btn to="/outgoing">Go to Outgoing</v-btn></template>
  </EmptyNote>
  <div v-else-if="data && message && figures" class="page">
    <PageHead :title="message.title" :note="standing">
      <v-btn v-if="figures.here" :disabled="stop.isPending.value" @click="stop.mutate()">{{
        stopWords
      }}</v-btn>
      <v-btn v-if="message.state !== 'draft'" :disabled="again.isPending.value" @click="again.mutate()"
        >Write it again…</v-btn
      >
    </PageHead>
    <div class="panes">
      <div class="main">
        <SayNote v-if="stop.error.value" kind="bad">{{ stop.error.value.message }}</SayNote>
        <SayNote v-if="message.late" kind="mind">
          This was to leave {{ times.moment(message.leavesAt) }}, and the program was not running then.
          {{ thousands(figures.here) }} of its deliveries wait until you say so.
          <button v-if="may('write')" class="link" :disabled="leave.isPending.value" @click="leave.mutate()">
            Send them now
          </button>
        </SayNote>
        <SayNote v-if="leave.error.value" kind="bad">{{ leave.error.value.message }}</SayNote>
        <SayNote v-if="data.reason" kind="mind">
          {{ data.practice ? 'An exercise' : 'An emergency' }}: <bdi>{{ data.reason }}</bdi>
        </SayNote>
        <div class="counts">
          <CountBox :value="figures.recipients" words="recipients" />
          <CountBox :value="figures.reached" words="reached" />
          <CountBox :value="figures.waiting" words="still waiting" />
          <CountBox :value="figures.notReached" words="not reached" :bad="figures.notReached > 0" />
          <CountBox v-if="figures.stopped" :value="figures.stopped" words="stopped" />
          <CountBox :value="data.spent" :words="`spent, of ${data.planned} planned`" />
        </div>
        <section class="card sheet">
          <div class="cap">
            <h3>Everybody, one mark each</h3>
            <span class="quiet small">by step, then by name</span>
          </div>
          <div class="marks">
            <button
              v-for="r in data.recipients"
              :key="r.id"
              class="dot"
              tabindex="-1"
              @click="r.person && show(r.person)"
            >
              <ChannelMark
                :channel="telling(r)?.channel ?? 'email'"
                :state="r.state"
                :label="`${r.name}: ${telling(r)?.channel}, ${stateWords[r.state]}`"
              />
            </button>
          </div>
          <MarkLegend />
        </section>
        <section class="card sheet">
          <div class="tools">
            <input
              v-model="typed"
              type="search"
              placeholder="Name or address"
              aria-label="Search recipients"
            />
            <div class="only" role="group" aria-label="Show only">
              <button v-for="o in outcomes" :key="o.is" :aria-pressed="only === o.is" @click="only = o.is">
                {{ o.words }}
              </button>
            </div>
            <span class="quiet small push num"
              >{{ thousands(listed.length) }} of {{ thousands(data.recipients.length) }}</span
            >
          </div>
          <div class="scroll">
            <table class="plain">
              <thead>
                <tr>
                  <th>Person</th>
                  <th>Went to</th>
                  <th>Reads</th>
                  <th>Last heard</th>
                  <th class="num">When</th>
                </tr>
              </thead>
              <tbody>
                <template v-for="r in listed.slice(0, rows)" :key="r.id">
                  <tr v-for="(d, i) in r.deliveries" :key="i" :class="{ more: i > 0 }">
                    <td v-if="i === 0" :rowspan="r.deliveries.length">
                      <button class="link" :disabled="!r.person" :title="r.why" @click="show(r.person)">
                        <bdi>{{ r.name }}</bdi>
                      </button>
                    </td>
                    <td>
                      <span class="line"
                        ><ChannelMark :channel="d.channel" :state="d.state" />{{ d.address }}</span
                      >
                    </td>
                    <td v-if="i === 0" :rowspan="r.deliveries.length">{{ r.speaks }}</td>
                    <td :class="{ bad: d.state === 'failed' || d.state === 'expired' }">
                      {{ d.detail || stateWords[d.state]
                      }}<template v-if="d.state === 'retrying'"
                        >; tried {{ count(d.attempts, 'time', 'times') }}, will be again</template
                      >
                    </td>
                    <td class="num">{{ times.exact(d.at) }}</td>
                  </tr>
                </template>
              </tbody>
            </table>
            <button v-if="listed.length > rows" class="link more" @click="rows += 400">Show more</button>
            <p v-if="!listed.length" class="quiet none">Nobody here.</p>
          </div>
        </section>
      </div>
      <aside>
        <PaneHead title="Needs a hand" :note="people(figures.notReached + figures.leftOut)" />
        <div
          v-for="f in data.failures"
          :key="f.detail + f.retrying"
          class="todo"
          :class="{ later: f.retrying }"
        >
          <b>{{ f.detail }}</b>
          <span class="quiet small"
            >{{ count(f.deliveries, 'delivery', 'deliveries')
            }}{{ f.retrying ? ', tried again by itself' : ' failed for good' }}</span
          >
        </div>
        <div v-if="figures.leftOut" class="todo">
          <b>{{ people(figures.leftOut) }} got nothing</b>
          <button class="link small" @click="leftOut = true">See who, and why</button>
        </div>
        <p v-if="!data.failures.length && !figures.leftOut" class="quiet">
          Nothing: nobody was left out and nothing failed.
        </p>
        <p v-if="figures.told" class="quiet small">
          {{ count(figures.told, 'dependent was', 'dependents were') }} told through a guardian.
          <button class="link" @click="told = true">See who</button>
        </p>
        <PaneHead class="gap" title="Steps used" />
        <table class="plain sheet">
          <tbody>
            <tr v-for="s in data.steps" :key="s.step">
              <td>
                <span class="row"
                  ><span class="quiet">{{ s.step }}</span
                  ><ChannelMark v-for="c in s.channels" :key="c" :channel="c as 'email'" />{{
                    s.channels.join(', ')
                  }}</span
                >
              </td>
              <td class="num">{{ thousands(s.people) }}</td>
            </tr>
          </tbody>
        </table>
        <PaneHead class="gap" title="What they read" />
        <table class="plain sheet">
          <tbody>
            <tr v-for="l in data.languages" :key="l.tag">
              <td>{{ l.name }}</td>
              <td class="num">{{ thousands(l.people) }}</td>
              <td class="quiet small">{{ l.reads ? 'original' : 'untranslated' }}</td>
            </tr>
          </tbody>
        </table>
        <PaneHead class="gap" title="What it said" />
        <div class="sheet wrote">
          <b v-if="data.subject" dir="auto">{{ data.subject }}</b>
          <p dir="auto" class="said">{{ data.email || data.text }}</p>
          <p v-if="data.files.length" class="small quiet">with {{ data.files.join(', ') }}</p>
          <template v-if="data.email && data.text !== data.email.trim()">
            <span class="quiet small">as a text and read aloud</span>
            <p dir="auto" class="said">{{ data.text }}</p>
          </template>
        </div>
      </aside>
    </div>
    <SideDrawer v-model="told" title="Told through a guardian" :note="message.title">
      <ul class="out">
        <li v-for="t in data.told" :key="t.name + t.detail">
          <button class="link" :disabled="!t.person" @click="((told = false), show(t.person))">
            <bdi>{{ t.name }}</bdi>
          </button>
          <span class="quiet">{{ t.detail }}</span>
        </li>
      </ul>
    </SideDrawer>
    <SideDrawer v-model="leftOut" :title="`${people(figures.leftOut)} got nothing`" :note="message.title">
      <ul class="out">
        <li v-for="l in data.leftOut" :key="l.name + l.reason">
          <button class="link" :disabled="!l.person" @click="((leftOut = false), show(l.person))">
            <bdi>{{ l.name }}</bdi>
          </button>
          <span>{{ l.detail }}</span>
          <span class="quiet small">{{ l.wayOut }}</span>
        </li>
      </ul>
    </SideDrawer>
  </div>
  <EmptyNote v-else title="Reading the record…">A message to thousands of people takes a moment.</EmptyNote>
</template>

<style scoped>
.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
}

.main {
  overflow: auto;
  padding: 12px 16px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}

.counts {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: 1fr;
  gap: 8px;
}

.card {
  padding: 9px 12px;
}

.cap {
  display: flex;
  justify-content: space-between;
  margin-bottom: 6px;
}

.marks {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 4px;
  max-height: 190px;
  overflow: auto;
}

.dot {
  border: 0;
  background: none;
  padding: 0;
  line-height: 0;
  cursor: pointer;
}

.tools {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 6px;
}

.tools input {
  font: inherit;
  border: 1px solid #8fa5ae;
  border-radius: 6px;
  padding: 4px 9px;
  width: 190px;
}

.only {
  display: flex;
  border: 1px solid var(--line);
  border-radius: 6px;
  overflow: hidden;
}

.only button {
  border: 0;
  background: none;
  font: inherit;
  font-size: 12.5px;
  padding: 4px 10px;
  color: var(--ink2);
  cursor: pointer;
}

.only button[aria-pressed='true'] {
  background: var(--deep2);
  color: #fff;
}

.scroll {
  overflow-x: auto;
}

td:first-child bdi {
  overflow-wrap: normal;
}

.line {
  display: flex;
  align-items: center;
  gap: 6px;
}

tr.more td:first-child {
  padding-inline-start: 10px;
}

tr:has(+ tr.more) td:not([rowspan]) {
  border-bottom-color: transparent;
}

.more,
.none {
  padding: 10px;
}

aside {
  overflow: auto;
  background: var(--pane);
  border-left: 1px solid var(--line);
  padding: 12px 14px;
}

.gap {
  margin-top: 16px;
}

.todo {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-left: 3px solid var(--brick);
  border-radius: 6px;
  padding: 7px 10px;
  margin-bottom: 7px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
}

.todo.later {
  border-left-color: var(--lamp);
}

.todo b::first-letter {
  text-transform: uppercase;
}

.wrote {
  padding: 8px 10px;
}

.wrote p {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin: 2px 0 8px;
}

.out {
  list-style: none;
  margin: 0;
  padding: 0;
}

.out li {
  display: flex;
  flex-direction: column;
  padding: 7px 0;
  border-bottom: 1px solid var(--hair);
}
</style>
