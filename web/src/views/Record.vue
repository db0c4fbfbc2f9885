<script setup lang="ts">
import { computed, defineAsyncComponent, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useRights, useTimes } from '@/composables/session'
import { count, people, thousands } from '@/composables/words'
import CountBox from '@/components/CountBox.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import FileMenu from '@/components/FileMenu.vue'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'
import AnswersCard from '@/record/AnswersCard.vue'
import ChangesNote from '@/record/ChangesNote.vue'
import FollowMenu from '@/record/FollowMenu.vue'
import MarkField from '@/record/MarkField.vue'
import RecipientTable from '@/record/RecipientTable.vue'
import RecordSide from '@/record/RecordSide.vue'
import UndecidedNote from '@/record/UndecidedNote.vue'

// Charts come after what is read first.
const ProgressChart = defineAsyncComponent(() => import('@/record/ProgressChart.vue'))

/** Fewer people are seen at a glance. */
const worthAChart = 10

const props = defineProps<{ id: string }>()
const number = computed(() => Number(props.id))
const router = useRouter()
const may = useRights()
const client = useQueryClient()
const times = useTimes()

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

const stopped = computed(() => {
  const answer = stop.data.value
  if (!answer || answer.draft) return ''
  const leaving = answer.leaving ? ` ${count(answer.leaving, 'is', 'are')} being handed over right now.` : ''
  return `${count(answer.stopped, 'delivery was', 'deliveries were')} stopped.${leaving}`
})

const leave = useMutation({
  mutationFn: () => take(api.POST('/messages/{id}/late', { params: { path: { id: number.value } } })),
  onSettled: () => client.invalidateQueries(),
})

const pause = useMutation({
  mutationFn: (on: boolean) => {
    const params = { path: { id: number.value } }
    return take(
      on ? api.POST('/messages/{id}/pause', { params }) : api.POST('/messages/{id}/resume', { params }),
    )
  },
  onSettled: () => client.invalidateQueries(),
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
      <v-btn
        v-if="figures.here && may('write') && !message.late && !message.pausedBy"
        :disabled="pause.isPending.value"
        @click="pause.mutate(true)"
        >Pause</v-btn
      >
      <v-btn v-if="figures.here" :disabled="stop.isPending.value" @click="stop.mutate()">{{
        stopWords
      }}</v-btn>
      <FileMenu v-if="may('read-records') && message.state !== 'draft'" :what="{ message: message.id }" />
      <FollowMenu
        v-if="may('write') && message.state !== 'draft'"
        :message="message"
        :asks="Boolean(data.asks)"
      />
    </PageHead>
    <div class="panes">
      <div class="main">
        <SayNote v-if="stop.error.value" kind="bad">{{ stop.error.value.message }}</SayNote>
        <SayNote v-if="stopped" kind="good">{{ stopped }}</SayNote>
        <UndecidedNote
          v-if="figures.undecided"
          :message="message.id"
          :undecided="figures.undecided"
          :stopped="message.state === 'stopped'"
        />
        <SayNote v-if="message.pausedBy" kind="mind">
          {{ message.pausedBy }} paused this. {{ thousands(figures.here) }} of its deliveries wait until it
          goes on.
          <button
            v-if="may('write')"
            class="link"
            :disabled="pause.isPending.value"
            @click="pause.mutate(false)"
          >
            Let it go on
          </button>
        </SayNote>
        <SayNote v-if="pause.error.value" kind="bad">{{ pause.error.value.message }}</SayNote>
        <ChangesNote
          v-if="data.changes && (message.late || !data.changes.failed)"
          :changes="data.changes"
          :waits="message.late && data.changes.waits"
        />
        <SayNote v-if="message.late" kind="mind">
          <template v-if="message.restored"
            >This was under way when the backup of {{ times.whole(message.restored) }} was made, which was
            restored. Some of it may have left since.</template
          >
          <template v-else-if="data.changes?.waits"
            >This was to leave {{ times.moment(message.leavesAt) }}.</template
          >
          <template v-else
            >This was to leave {{ times.moment(message.leavesAt) }}, and the program was not running
            then.</template
          >
          {{ thousands(figures.here) }} of its deliveries wait until you say so.
          <button v-if="may('write')" class="link" :disabled="leave.isPending.value" @click="leave.mutate()">
            Send them now
          </button>
        </SayNote>
        <SayNote v-if="leave.error.value" kind="bad">{{ leave.error.value.message }}</SayNote>
        <SayNote v-if="data.reason" kind="mind">
          {{ data.practice ? 'An exercise' : 'An emergency' }}: <bdi>{{ data.reason }}</bdi>
        </SayNote>
        <div class="counts" role="group" aria-label="Figures">
          <CountBox :value="figures.recipients" words="recipients" />
          <CountBox :value="figures.reached" words="reached" />
          <CountBox :value="figures.waiting" words="still waiting" />
          <CountBox :value="figures.notReached" words="not reached" :bad="figures.notReached > 0" />
          <CountBox v-if="figures.stopped" :value="figures.stopped" words="stopped" />
          <CountBox :value="data.spent" :words="`spent, of ${data.planned} planned`" />
        </div>
        <AnswersCard v-if="data.asks" :message="message.id" :asks="data.asks" />
        <MarkField :message="message.id" :undecided="figures.undecided > 0" />
        <ProgressChart v-if="figures.recipients >= worthAChart && figures.reached" :message="message.id" />
        <RecipientTable :message="message.id" :recipients="figures.recipients" />
      </div>
      <RecordSide :record="data" />
    </div>
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
</style>
