<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Done, type Schemas } from '@/api/client'
import { together } from '@/composables/addresses'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { useTimes } from '@/composables/session'
import { channelWords, count, dayWords, healthWords, stateWords, things } from '@/composables/words'
import PersonForm from '@/roster/PersonForm.vue'
import ChannelMark from './ChannelMark.vue'
import SayNote from './SayNote.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import TextField from '@/controls/TextField.vue'

const { person, adding, open: wanted, close, show } = usePersonDrawer()
const { done, fail, tell, undo } = useSaid()
const { moment } = useTimes()
const router = useRouter()
const open = computed({ get: () => wanted.value, set: (now) => !now && close() })
const editing = ref(false)
watch([person, adding], () => (editing.value = false))

const { data, error } = useQuery({
  queryKey: ['roster', 'person', person],
  queryFn: () => take(api.GET('/people/{id}', { params: { path: { id: person.value } } })),
  enabled: computed(() => person.value !== 0),
})

async function saved(d: Done) {
  editing.value = false
  if (adding.value && d.person) show(d.person)
  await done(d)
}

function consent(a: Schemas['AddressView']): string {
  if (a.channel === 'push' && a.carrierStop) return 'push is switched off on the device'
  if (a.channel === 'push') return a.connected ? '' : 'not connected yet: open a personal link on it'
  if (a.carrierStop) return 'the carrier recorded a stop: nothing gets through'
  const declined = [a.declinesRoutine && 'routine', a.declinesTimely && 'timely'].filter(Boolean)
  return declined.length ? `declines ${declined.join(' and ')} messages; emergencies still come` : ''
}

function tie(t: Schemas['TieView']): string {
  if (t.barred) return 'contact barred'
  return t.receives ? 'receives messages' : 'does not receive messages'
}

/** What they got, counted by channel. */
const got = computed(() => {
  const by = new Map<Schemas['GotView']['channel'], { all: number; reached: number }>()
  for (const g of data.value?.got ?? []) {
    const n = by.get(g.channel) ?? { all: 0, reached: 0 }
    n.all++
    if (['arrived', 'opened', 'answered'].includes(g.state)) n.reached++
    by.set(g.channel, n)
  }
  return [...by]
})
const answered = computed(() => (data.value?.got ?? []).filter((g) => g.state === 'answered').length)

const facts = computed(() => {
  const s = data.value?.sheet
  if (!data.value || !s) return []
  return [
    ['Reads', data.value.speaks || 'language not known'],
    ['Asked for first', s.wish ? channelWords[s.wish as keyof typeof channelWords].toLowerCase() : ''],
    ['Unit', data.value.unit || 'the whole organisation'],
    ['Time zone', s.timeZone],
    ['Born on', dayWords(s.bornOn)],
    ['Id in your files', s.externalId],
    ['Last reached', dayWords(s.reachedOn)],
  ].filter(([, v]) => v)
})
const { data: choices } = useQuery({
  queryKey: ['roster', 'choices'],
  queryFn: () => take(api.GET('/choices')),
  enabled: open,
})
const values = computed(() =>
  (data.value?.sheet.values ?? []).flatMap((v) => {
    const a = choices.value?.attributes.find((x) => x.id === v.attribute)
    return a ? [[a.name, a.kind === 'date' ? dayWords(v.value) : v.value]] : []
  }),
)

async function makeLink() {
  try {
    const link = await take(api.POST('/people/{id}/link', { params: { path: { id: person.value } } }))
    made.value = { url: location.origin + link.path, until: link.until }
  } catch (problem) {
    fail(problem)
  }
}

async function copy(url: string) {
  try {
    await navigator.clipboard.writeText(url)
    tell('The link was copied.')
  } catch {
    tell('Your browser does not let the program copy: mark the link and copy it yourself.')
  }
}
const made = ref<{ url: string; until: string }>()
watch(person, () => (made.value = undefined))

async function remove() {
  try {
    const d = await take(api.POST('/people/remove', { body: { people: [person.value] } }))
    close()
    await done(d)
  } catch (problem) {
    fail(problem)
  }
}
const removing = ref(false)
watch(person, () => (removing.value = false))
const { data: removal } = useQuery({
  queryKey: ['roster', 'removal', person],
  queryFn: () => take(api.POST('/people/removal', { body: { people: [person.value] } })),
  enabled: removing,
})

function openGroup(id: number) {
  close()
  void router.push({ name: 'groups', query: { group: id } })
}
</script>

<template>
  <SideDrawer
    v-model="open"
    wide
    :title="adding ? 'Somebody new' : (data?.name ?? 'Person')"
    :note="
      adding
        ? 'A name is enough to begin with'
        : [data?.knownAs && `called ${data.knownAs}`, data?.roles.join(', ') || 'no role']
            .filter(Boolean)
            .join(' · ')
    "
  >
    <template v-if="data?.editable && !editing && !adding" #actions>
      <v-btn size="small" @click="editing = true">Edit</v-btn>
    </template>
    <SayNote v-if="error && !adding" kind="bad">{{ error.message }}</SayNote>
    <PersonForm v-if="adding" @saved="saved" @leave="close" />
    <PersonForm
      v-else-if="editing && data"
      :key="data.id"
      :person="data"
      @saved="saved"
      @leave="editing = false"
    />
    <template v-else-if="data">
      <SayNote v-if="data.status !== 'active'" kind="mind">
        {{
          data.status === 'left'
            ? 'Has left: gets nothing.'
            : data.awayUntil
              ? `Away until ${dayWords(data.awayUntil)}: gets nothing before.`
              : 'Away: gets nothing until back.'
        }}
      </SayNote>
      <SayNote v-for="g in data.gaps" :key="g" kind="bad"
        >{{ g.charAt(0).toUpperCase() + g.slice(1) }}.</SayNote
      >
      <SayNote v-if="data.guest" kind="mind"
        >Of another unit: you see them as the guardian of somebody in yours. They are edited there.</SayNote
      >
      <h3>Addresses, in order</h3>
      <p v-if="!data.addresses.length" class="quiet">None of their own.</p>
      <ol class="list">
        <li v-for="a in together(data.addresses)" :key="a.value">
          <ChannelMark v-for="c in a.channels" :key="c" :channel="c" />
          <span class="value">{{ a.shown }}</span>
          <span class="quiet small">{{ a.label }}</span>
          <span
            class="small push"
            :class="{ bad: a.health === 'dead' || a.health === 'failing', quiet: a.health !== 'dead' }"
            >{{ healthWords[a.health ?? 'untried'] }}</span
          >
          <span v-if="a.lastFailure" class="small under bad"
            >{{ a.lastFailure }}{{ a.failedOn ? `, ${dayWords(a.failedOn)}` : '' }}</span
          >
          <span v-if="consent(a)" class="small under mind">{{ consent(a) }}</span>
          <span v-if="a.checkedOn" class="small under quiet">checked on {{ dayWords(a.checkedOn) }}</span>
        </li>
      </ol>
      <template v-if="data.ties.length">
        <h3>Ties</h3>
        <ul class="list">
          <li v-for="t in data.ties" :key="t.id" :class="{ barred: t.barred }">
            <span class="kind quiet small">{{ t.guardian ? 'guardian' : 'dependent' }}</span>
            <button class="link" @click="show(t.id)">
              <bdi>{{ t.name }}</bdi>
            </button>
            <span v-if="t.guardian && !t.barred && !t.reached" class="bad small">cannot be reached</span>
            <span class="small push" :class="t.barred ? 'stop' : 'quiet'">{{ tie(t) }}</span>
          </li>
        </ul>
      </template>
      <h3>Groups</h3>
      <p v-if="!data.in.length" class="quiet">In none.</p>
      <ul class="list">
        <li v-for="g in data.in" :key="g.id">
          <button class="link" @click="openGroup(g.id)">
            <bdi>{{ g.name }}</bdi>
          </button>
          <span v-if="g.within.length" class="quiet small">in {{ g.within.join(', ') }}</span>
          <span class="quiet small push why">{{ g.why }}</span>
        </li>
      </ul>
      <h3>About them</h3>
      <dl>
        <template v-for="[k, v] in [...facts, ...values]" :key="k"
          ><dt>{{ k }}</dt>
          <dd>
            <bdi>{{ v }}</bdi>
          </dd></template
        >
      </dl>
      <p v-if="data.sheet.notes" class="said notes">{{ data.sheet.notes }}</p>
      <h3>The last 30 days</h3>
      <p v-if="!data.got.length" class="quiet">They got nothing.</p>
      <template v-else>
        <p class="got">
          <span v-for="[c, n] in got" :key="c" class="row"
            ><ChannelMark :channel="c" />{{ count(n.all, ...things[c]) }},
            {{ n.reached === n.all ? 'all' : n.reached }} arrived</span
          >
          <span>{{ answered ? count(answered, 'answer', 'answers') : 'no answers' }}</span>
        </p>
        <ul class="list">
          <li v-for="(g, i) in data.got.slice(0, 8)" :key="i">
            <ChannelMark :channel="g.channel" :state="g.state" />
            <router-link v-if="g.message" :to="`/outgoing/${g.message}`" @click="close()">{{
              g.title
            }}</router-link>
            <span v-else class="quiet">{{ g.title }}</span>
            <span class="quiet small push">{{ stateWords[g.state] }}, {{ moment(g.at) }}</span>
          </li>
        </ul>
      </template>
      <h3>History</h3>
      <p v-if="!data.history.length" class="quiet">Nothing was changed yet.</p>
      <ul class="list history">
        <li v-for="h in data.history" :key="h.edit" :class="{ undone: h.undone }">
          <span class="small"
            ><b>{{ h.by || (h.kind === 'update' ? 'they themselves' : 'the program') }}</b
            >, {{ moment(h.at) }}: {{ h.said }}{{ h.undone ? ' (undone)' : '' }}</span
          >
          <button
            v-if="data.editable && !h.undone && h.people === 1"
            class="link small push"
            @click="undo(h.edit)"
          >
            Undo
          </button>
          <span v-for="c in h.changes" :key="c.what" class="small under quiet"
            >{{ c.what }}: <del v-if="c.from">{{ c.from }}</del> {{ c.from && c.to ? '→' : '' }}
            <ins v-if="c.to">{{ c.to }}</ins></span
          >
        </li>
      </ul>
      <div v-if="data.editable" class="foot">
        <v-btn size="small" @click="makeLink">Make a link to correct their details</v-btn>
        <v-btn size="small" :to="{ name: 'sheets', query: { ids: data.id } }" @click="close()"
          >Print their sheet</v-btn
        >
        <v-btn v-if="!removing" size="small" @click="removing = true">Remove…</v-btn>
        <SayNote v-if="made" kind="good">
          Only {{ data.name }} should get this link; it works until {{ moment(made.until) }}.
          <TextField
            :model-value="made.url"
            readonly
            aria-label="Personal link"
            @focus="($event.target as HTMLInputElement).select()"
          />
          <button class="link" @click="copy(made.url)">Copy it</button>
        </SayNote>
        <SayNote v-if="removing && removal" kind="bad">
          {{ data.name }} would leave the roster with {{ removal.addresses }} addresses,
          {{ removal.memberships }} group places and {{ removal.ties }} ties.
          <template v-if="removal.alone.all"
            >Nobody would receive for {{ removal.alone.people.map((p) => p.name).join(', ') }} any
            more.</template
          >
          <div class="row">
            <v-btn size="small" @click="remove">Remove {{ data.name }}</v-btn>
            <v-btn size="small" @click="removing = false">Keep</v-btn>
          </div>
        </SayNote>
      </div>
    </template>
  </SideDrawer>
</template>

<style scoped>
h3 {
  margin: 18px 0 6px;
}

.list {
  list-style: none;
  margin: 0;
  padding: 0;
}

.list li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 8px;
  padding: 5px 0;
  border-bottom: 1px solid var(--hair);
}

.value {
  overflow-wrap: anywhere;
  font-variant-numeric: tabular-nums;
}

.under {
  flex-basis: 100%;
  padding-inline-start: 22px;
}

.history .under {
  padding-inline-start: 10px;
  overflow-wrap: anywhere;
}

.kind {
  width: 68px;
}

.why {
  max-width: 55%;
  text-align: end;
}

.barred {
  background: var(--bricksoft);
  border-inline-start: 3px solid var(--brick);
  margin-inline: -8px;
  padding-inline: 8px !important;
}

.stop {
  color: #fff;
  background: var(--brick);
  border-radius: 3px;
  padding: 1px 7px;
  font-weight: 600;
}

dl {
  margin: 0;
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 4px 10px;
}

dt {
  color: var(--ink2);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
}

.notes {
  white-space: pre-line;
  background: var(--pane);
  border-radius: 4px;
  padding: 7px 10px;
  margin-top: 8px;
}

.got {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin-bottom: 4px;
}

.got .row {
  gap: 5px;
}

.undone {
  color: var(--ink2);
}

.foot {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 20px;
}

.foot .say {
  flex-basis: 100%;
  display: flex;
  flex-direction: column;
  gap: 6px;
}
</style>
