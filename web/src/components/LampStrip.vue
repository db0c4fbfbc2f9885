<script setup lang="ts">
import { computed, ref } from 'vue'
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useDesks } from '@/composables/desks'
import { useRights, useSession, useTimes } from '@/composables/session'
import { count, people, thousands } from '@/composables/words'

const client = useQueryClient()
const times = useTimes()
const said = ref('')
const may = useRights()
const { data: session } = useSession()
const sees = computed(() => may('write') || may('read-records'))

const { data: strip, refetch } = useQuery({
  queryKey: ['strip'],
  queryFn: async () => {
    const answer = await take(api.GET('/strip'))
    return { ...answer, ahead: new Date(answer.now).getTime() - Date.now() }
  },
  staleTime: 0,
  enabled: sees,
  refetchInterval: (query) => (query.state.data?.full ? 10_000 : false),
})
// Somebody's saving failed: the strip says why on every page.
useEventListener(window, 'disk-full', () => void refetch())

// The countdown runs against the server's clock.
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 250)

function left(leavesAt?: string): string {
  const ms = new Date(leavesAt ?? 0).getTime() - now.value - (strip.value?.ahead ?? 0)
  const seconds = Math.max(0, Math.ceil(ms / 1000))
  return `${String(Math.floor(seconds / 60)).padStart(2, '0')}:${String(seconds % 60).padStart(2, '0')}`
}

const { data: desks } = useDesks()
const owed = computed(() => desks.value?.reduce((sum, d) => sum + d.us, 0))

const live = computed(() =>
  Boolean(
    strip.value &&
    (strip.value.held.length ||
      strip.value.sending.length ||
      strip.value.asked.length ||
      strip.value.unsent.length ||
      strip.value.late.length),
  ),
)
// What needs a hand takes the place of what comes next.
const needed = computed(() =>
  Boolean(
    strip.value?.late.length ||
    strip.value?.unsent.length ||
    strip.value?.trouble.length ||
    strip.value?.unsaved ||
    strip.value?.full,
  ),
)
const next = computed(() => (needed.value ? undefined : strip.value?.next[0]))

const stop = useMutation({
  mutationFn: (id: number) => take(api.POST('/messages/{id}/stop', { params: { path: { id } } })),
  onSuccess: (answer) => {
    said.value = answer.draft
      ? 'Stopped before anything left. It is a draft again.'
      : `Stopped ${count(answer.stopped, 'delivery', 'deliveries')} that had not left.`
    setTimeout(() => (said.value = ''), 8000)
  },
  onError: (error) => (said.value = error.message),
  onSettled: () => client.invalidateQueries(),
})

/** What waits while a carrier is in trouble. */
const waiting = { email: 'Emails', text: 'Texts', voice: 'Calls', push: 'Pushes' }
const tryNow = useMutation({
  mutationFn: (channel: keyof typeof waiting) =>
    take(api.POST('/carriers/{channel}/try', { params: { path: { channel } } })),
  onError: (error) => (said.value = error.message),
  onSettled: () => client.invalidateQueries({ queryKey: ['strip'] }),
})

const leave = useMutation({
  mutationFn: (id: number) => take(api.POST('/messages/{id}/late', { params: { path: { id } } })),
  onError: (error) => (said.value = error.message),
  onSettled: () => client.invalidateQueries(),
})
</script>

<template>
  <footer class="strip" aria-label="Held and going out">
    <span class="lamp" :class="{ live }" aria-hidden="true" />
    <span v-if="strip?.full" class="one trouble" role="alert">
      <b>The disk is full:</b> nothing can be saved until there is room. What you type stays on your screen.
    </span>
    <span v-if="session?.lacks?.length" class="one trouble">
      <b>Without a second factor</b> you may not {{ session.lacks.join(', ') }}:
      <router-link to="/account" class="title">set it up</router-link>
    </span>
    <span v-for="m in strip?.hands" :key="`hand ${m.id}`" class="one">
      <b>Yours to look after:</b> {{ people(m.people) }} of
      <router-link :to="`/outgoing/${m.id}`" class="title">“{{ m.title }}”</router-link>
    </span>
    <span v-if="strip?.unsaved" class="one trouble" role="alert">
      <b>No backup</b> of the last two days:
      <router-link to="/settings?of=backups" class="title">see why</router-link>
    </span>
    <span v-for="(t, i) in strip?.trouble" :key="i" class="one trouble" role="alert">
      <b>{{ waiting[t.channel] }} {{ t.covered ? 'go by the next carrier' : 'wait' }}:</b>
      <span class="says" :title="t.detail" dir="auto">{{ t.detail }}</span>
      <span class="dim">tried again {{ times.clock(t.retryAt) }}</span>
      <button
        v-if="may('write')"
        class="stop"
        :disabled="tryNow.isPending.value"
        @click="tryNow.mutate(t.channel)"
      >
        Try now<span class="sr-only">, {{ waiting[t.channel] }}</span>
      </button>
    </span>
    <span v-for="m in strip?.late.slice(0, 2)" :key="m.id" class="one">
      <b>{{ m.changed ? 'Waits for a yes:' : 'Late:' }}</b>
      <router-link :to="`/outgoing/${m.id}`" class="title" dir="auto"
        ><bdi>“{{ m.title }}”</bdi></router-link
      >
      was due {{ times.moment(m.leavesAt) }}
      <template v-if="may('write')">
        <button class="stop" :disabled="leave.isPending.value" @click="leave.mutate(m.id)">
          Send it now<span class="sr-only"> “{{ m.title }}”</span>
        </button>
        <button class="stop" :disabled="stop.isPending.value" @click="stop.mutate(m.id)">
          Stop<span class="sr-only"> “{{ m.title }}”</span>
        </button>
      </template>
    </span>
    <span v-for="m in strip?.unsent.slice(0, 2)" :key="m.id" class="one">
      <b>Did not leave:</b>
      <router-link :to="`/write/${m.id}`" class="title" dir="auto"
        ><bdi>“{{ m.title }}”</bdi></router-link
      >
      it waited for its readings
    </span>
    <template v-for="m in strip?.held.slice(0, 2)" :key="m.id">
      <span class="one">
        <b class="num">Held {{ left(m.leavesAt) }}</b>
        <router-link :to="`/outgoing/${m.id}`" class="title" dir="auto"
          ><bdi>“{{ m.title }}”</bdi></router-link
        >
        to {{ people(m.people) }}
        <button class="stop" :disabled="stop.isPending.value" @click="stop.mutate(m.id)">
          Stop<span class="sr-only"> “{{ m.title }}”</span>
        </button>
      </span>
    </template>
    <template v-for="m in strip?.sending.slice(0, 2)" :key="m.id">
      <span class="one">
        Sending
        <router-link :to="`/outgoing/${m.id}`" class="title" dir="auto"
          ><bdi>“{{ m.title }}”</bdi></router-link
        >
        <progress :value="m.total - m.here" :max="m.total" :aria-label="`Sending ${m.title}`" />
        <span class="num">{{ thousands(m.total - m.here) }} of {{ thousands(m.total) }}</span>
        <button v-if="m.here" class="stop" :disabled="stop.isPending.value" @click="stop.mutate(m.id)">
          Stop the rest
        </button>
      </span>
    </template>
    <span v-for="m in strip?.asked.slice(0, 1)" :key="m.id" class="one">
      <b>Asks for your yes:</b>
      <router-link :to="`/write/${m.id}`" class="title" dir="auto"
        ><bdi>“{{ m.title }}”</bdi></router-link
      >
    </span>
    <span v-if="next" class="one next">
      Next:
      <router-link :to="`/outgoing/${next.id}`" class="title" dir="auto"
        ><bdi>{{ next.title }}</bdi></router-link
      >
      {{ times.moment(next.leavesAt) }}
    </span>
    <span v-if="!live && !needed && !next && !strip?.asked.length" class="dim"
      >Nothing is held, going out or scheduled</span
    >
    <span class="said" role="status">{{ said }}</span>
    <router-link v-if="owed" to="/desks" class="title"
      >{{ count(owed, 'thread waits', 'threads wait') }} for us</router-link
    >
  </footer>
</template>

<style scoped>
.strip {
  background: var(--night);
  color: #cfe0e5;
  display: flex;
  align-items: center;
  gap: 22px;
  padding: 0 16px;
  font-size: 12.5px;
  white-space: nowrap;
  overflow: hidden;
}

.lamp {
  width: 9px;
  height: 9px;
  border-radius: 50%;
  border: 1.5px solid #5d8492;
  flex: none;
  margin-inline-end: -12px;
}

.lamp.live {
  background: var(--lamp);
  border-color: var(--lamp);
  box-shadow: 0 0 8px 2px #ffb21a99;
}

.one {
  display: flex;
  align-items: center;
  gap: 8px;
  min-width: 0;
}

.title {
  color: #fff;
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
  text-decoration: none;
}

.title:hover {
  text-decoration: underline;
}

.stop {
  border: 1px solid var(--lamp);
  background: none;
  color: var(--lamp);
  border-radius: 4px;
  padding: 2px 10px;
  font: inherit;
  font-weight: 600;
  cursor: pointer;
}

.stop:hover {
  background: #ffb21a22;
}

.trouble b {
  color: #ffb3a8;
}

.says {
  max-width: 380px;
  overflow: hidden;
  text-overflow: ellipsis;
  color: #fff;
}

.dim {
  color: #9fbcc5;
}

.said {
  margin-inline-start: auto;
  color: #fff;
}

progress {
  appearance: none;
  width: 110px;
  height: 6px;
  border: 0;
  border-radius: 3px;
  overflow: hidden;
  background: #224753;
}

progress::-webkit-progress-bar {
  background: #224753;
}

progress::-webkit-progress-value {
  background: #7fd1b4;
}

progress::-moz-progress-bar {
  background: #7fd1b4;
}

.strip :focus-visible {
  outline-color: #fff;
}
</style>
