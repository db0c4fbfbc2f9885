<script setup lang="ts">
import { computed, nextTick, ref, toRef, watch } from 'vue'
import { onBeforeRouteLeave, useRoute, useRouter } from 'vue-router'
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { useMutation } from '@tanstack/vue-query'
import { api, take, type Draft, type Schemas } from '@/api/client'
import { useLeaving } from '@/composables/leaving'
import { keptWords, useDraft } from '@/composables/draft'
import { usePlan } from '@/composables/plan'
import { providePlanned } from '@/composables/planned'
import { useTimes } from '@/composables/session'
import { channelWords, people } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'
import EmergencyBand from '@/write/EmergencyBand.vue'
import FinalCheck from '@/write/FinalCheck.vue'
import HistoryDrawer from '@/write/HistoryDrawer.vue'
import type { Figure } from '@/write/PeopleDrawer.vue'
import { goTo } from '@/write/places'
import ReachPane from '@/write/ReachPane.vue'
import ShelfDrawer from '@/write/ShelfDrawer.vue'
import UrgencyChoice from '@/write/UrgencyChoice.vue'
import WhatPane from '@/write/WhatPane.vue'
import WhoPane from '@/write/WhoPane.vue'
import CopiesCard from '@/copies/CopiesCard.vue'

const props = defineProps<{ id: string }>()
const route = useRoute()
const router = useRouter()
const times = useTimes()

const desk = useDraft((id) => void router.replace({ name: 'write', params: { id }, query: {} }))
const { draft, names } = desk
const { plan, error: planError, stale, asked } = usePlan(draft, desk.id)
providePlanned(desk.id)
const loadError = ref('')
const checking = ref(false)
const shelf = ref(false)
const history = ref(false)

watch(
  () => props.id,
  async (id) => {
    const number = Number(id) || 0
    if (number && number === desk.id.value) return
    loadError.value = ''
    try {
      await desk.load(number)
      const group = Number(route.query.group ?? 0)
      if (!number && group) draft.audience.parts.push({ kind: 'group', group })
      if (desk.state.value !== 'draft') await router.replace(`/outgoing/${number}`)
    } catch (error) {
      loadError.value = (error as Error).message
    }
  },
  { immediate: true },
)

const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 1000)
const kept = keptWords(desk.keptAt, now, desk.dirty)

const figure = ref<Figure>()
const overLimit: Figure = { over: true, title: 'Over the weekly limit with this message' }

const title = computed(() => draft.subject.trim() || 'New message')
const ready = computed(() => Boolean(plan.value?.sendable) && !stale.value && !desk.conflict.value)

async function check() {
  if (!ready.value) return
  await desk.flush()
  send.reset()
  ask.reset()
  wait.reset()
  checking.value = true
}

// The trial is filled as for whoever the preview shows; what was sent is no
// longer said once the message has changed.
const index = ref(0)
const trial = useMutation({
  mutationFn: () =>
    take(
      api.POST('/plan/try', {
        params: { query: { index: index.value, message: desk.id.value } },
        body: JSON.parse(asked.value) as Draft,
      }),
    ),
})
watch(asked, () => trial.reset())

const {
  send,
  ask,
  wait,
  stopWaiting,
  problem: leaveProblem,
  busy: leaving,
  asker,
  asksYou,
  checkedPlan,
  readers,
  awaits,
} = useLeaving(desk, plan, () => (checking.value = false))

/** Goes to where a problem is mended. */
async function mend(place: Schemas['ProblemView']['mend']) {
  checking.value = false
  if (place === 'left-out') {
    figure.value = { reason: 'any', title: 'Who gets nothing' }
    return
  }
  await nextTick()
  goTo(place)
}

useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  if (event.ctrlKey && event.key === 'Enter') void check()
})

onBeforeRouteLeave(() => desk.flush().then(() => true))
const revisionNote = toRef(desk.problem)
</script>

<template>
  <EmptyNote v-if="loadError" title="This draft cannot be opened">
    {{ loadError }}
    <template #action><v-btn to="/write/new">Begin a new message</v-btn></template>
  </EmptyNote>
  <div v-else class="page">
    <PageHead :title="title">
      <template #beside>
        <UrgencyChoice v-model="draft.urgency" />
        <span class="quiet small kept" role="status">{{ kept }}</span>
      </template>
      <v-btn @click="shelf = true">Templates</v-btn>
      <v-btn :disabled="!desk.id.value" @click="history = true">History</v-btn>
      <v-btn :disabled="!plan?.recipients" :loading="trial.isPending.value" @click="trial.mutate()"
        >Try it on me</v-btn
      >
      <v-btn color="lamp" variant="flat" :disabled="!ready" @click="check">{{
        plan?.recipients ? `Send to ${people(plan.recipients)}…` : 'Send…'
      }}</v-btn>
    </PageHead>
    <SayNote v-if="desk.conflict.value" kind="bad" class="strip">
      {{ revisionNote }} What you typed here stays on the screen.
      <template v-if="desk.clash.value.length">
        Both changed {{ desk.clash.value.join(' and ') }}.
        <button class="link" @click="desk.keepMine()">Keep mine</button> ·
      </template>
      <button class="link" @click="desk.load(desk.id.value)">Load the newer one</button>
    </SayNote>
    <SayNote v-else-if="revisionNote" kind="bad" class="strip"
      >Not kept yet: {{ revisionNote }} It is tried again by itself.</SayNote
    >
    <SayNote v-else-if="desk.joined.value" kind="mind" class="strip">{{ desk.joined.value }}</SayNote>
    <SayNote v-else-if="planError" kind="bad" class="strip">{{ planError.message }}</SayNote>
    <SayNote v-if="trial.data.value" kind="good" class="strip"
      >Sent to you as a trial: {{ trial.data.value.sent.join(', ') }}.</SayNote
    >
    <SayNote v-else-if="trial.error.value" kind="bad" class="strip">{{ trial.error.value.message }}</SayNote>
    <SayNote v-if="asker" kind="mind" class="strip">
      <template v-if="asksYou"
        ><bdi>{{ asker }}</bdi> asks for your yes to this message.
        <button class="link" @click="check">Look at it and say yes</button>; a change takes the question
        back.</template
      >
      <template v-else>It waits for somebody else’s yes. A change takes the question back.</template>
    </SayNote>
    <SayNote v-if="awaits" :kind="awaits.failed ? 'bad' : 'mind'" class="strip">
      <template v-if="awaits.failed"
        >It waited for its readings and did not leave: {{ awaits.failed }}.</template
      >
      <template v-else
        >It waits for {{ readers.join(', ') || 'its readings' }}, until {{ times.moment(awaits.until) }} at
        the latest, and then leaves by itself. A change ends the wait.</template
      >{{ ' ' }}
      <button class="link" @click="stopWaiting.mutate()">
        {{ awaits.failed ? 'I have seen it' : 'Do not wait' }}
      </button>
    </SayNote>
    <EmergencyBand v-if="draft.urgency === 'emergency'" v-model:draft="desk.draft" :plan="plan" />
    <div class="panes">
      <WhoPane
        :draft="draft"
        :plan="plan"
        :names="names"
        :stale="stale"
        :asked="asked"
        class="pane"
        @over="figure = overLimit"
      />
      <WhatPane
        :draft="draft"
        :plan="plan"
        :stale="stale"
        class="pane mid"
        @who="figure = { channel: $event, title: `Reached by ${channelWords[$event].toLowerCase()}` }"
      >
        <CopiesCard
          v-if="plan?.copies.length"
          v-model:draft="desk.draft"
          :plan="plan"
          :message="desk.id.value"
          :keep="desk.flush"
        />
      </WhatPane>
      <ReachPane
        v-if="plan"
        v-model:figure="figure"
        v-model:index="index"
        :draft-id="desk.id.value"
        :draft="draft"
        :plan="plan"
        :asked="asked"
        :stale="stale"
        class="pane last"
        @mend="mend"
      />
      <div v-else class="pane last" />
    </div>
    <ShelfDrawer v-model="shelf" v-model:draft="desk.draft" />
    <HistoryDrawer :id="desk.id.value" v-model="history" v-model:draft="desk.draft" />
    <FinalCheck
      v-if="checkedPlan"
      v-model="checking"
      :plan="checkedPlan"
      :title="title"
      :sending="leaving"
      :problem="leaveProblem"
      :readers="asksYou ? [] : readers"
      :asker="asksYou ? asker : ''"
      @ask="ask.mutate()"
      @await="(typed, until) => wait.mutate({ typed, until })"
      @send="send.mutate($event)"
      @mend="mend"
    />
  </div>
</template>

<style scoped>
.kept {
  white-space: nowrap;
}

.strip {
  margin: 8px 16px;
}

.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 256px minmax(0, 1fr) 392px;
}

.pane {
  overflow-y: auto;
  min-height: 0;
}

.mid {
  border-inline: 1px solid var(--line);
}

.last {
  background: var(--pane);
}

@media (max-width: 1100px) {
  .panes {
    grid-template-columns: 220px minmax(0, 1fr) 330px;
  }

  .kept {
    display: none;
  }
}
</style>
