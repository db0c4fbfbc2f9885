<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useEventListener } from '@vueuse/core'
import { useMutation, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useRights, useTimes } from '@/composables/session'
import { count, people, thousands } from '@/composables/words'
import { lookOf, minutesOf, pilesOf, shareOf, sharesOf, type Mark } from '@/board/answers'
import AnswerMark from '@/board/AnswerMark.vue'
import CallList from '@/board/CallList.vue'
import LatestAnswers from '@/board/LatestAnswers.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'
import SelectField from '@/controls/SelectField.vue'

/** What everybody who was asked has answered, live; for a wall screen too. */
const props = defineProps<{ id: string }>()
const number = computed(() => Number(props.id))
const router = useRouter()
const may = useRights()
const times = useTimes()
const { show } = usePersonDrawer()

const { data: board, error } = useQuery({
  queryKey: ['record', number, 'board'],
  queryFn: () => take(api.GET('/messages/{id}/board', { params: { path: { id: number.value } } })),
  staleTime: 0,
})

const page = ref<HTMLElement>()
const wall = ref(false)
useEventListener(document, 'fullscreenchange', () => (wall.value = Boolean(document.fullscreenElement)))
const toggleWall = () => (wall.value ? document.exitFullscreen() : page.value?.requestFullscreen())

const chosen = ref<'all' | 'area' | 'group'>()
/** By group where there are several to compare, until somebody chooses. */
const by = computed({
  get: () => chosen.value ?? ((board.value?.groups.length ?? 0) > 1 ? 'group' : 'all'),
  set: (way) => (chosen.value = way),
})
const ways = computed(() => [
  { value: 'all' as const, title: 'everybody' },
  { value: 'area' as const, title: 'by area' },
  ...(board.value?.groups.length ? [{ value: 'group' as const, title: 'by group' }] : []),
])
const only = ref('')
const shares = computed(() => (board.value ? sharesOf(board.value.question, board.value.tally) : []))
const piles = computed(() => (board.value ? pilesOf(board.value, by.value) : []))
const answered = computed(() => board.value?.tally.choices.reduce((sum, n) => sum + n, 0) ?? 0)
const lookFor = (m: Mark) => {
  if (!board.value || m.stand === 'answered') return lookOf(board.value!.question, m.answer)
  return m.stand
}
const pointed = ref<Mark>()
const pointedWords = computed(() => {
  const m = pointed.value
  if (!m) return 'one mark each; point at one for the name'
  const share = shares.value.find((s) => s.key === shareOf(m))
  const when = m.at ? `, ${times.moment(m.at)}` : ''
  return `${m.name}: ${share?.words ?? ''}${m.minutes ? `, in ${m.minutes} minutes` : ''}${when}`
})

const again = useMutation({
  mutationFn: () =>
    take(
      api.POST('/messages/{id}/follow', {
        params: { path: { id: number.value } },
        body: { as: 'unanswered' },
      }),
    ),
  onSuccess: (draft) => router.push(`/write/${draft.id}`),
})
/** The fewer there are, the larger a mark can be seen from afar. */
const size = computed(() => {
  const all = board.value?.marks.length ?? 0
  return all > 1000 ? 'small-marks' : all > 250 ? 'middle-marks' : 'large-marks'
})
const unanswered = computed(() => (board.value?.tally.asked ?? 0) - answered.value)
</script>

<template>
  <EmptyNote v-if="error" title="This board cannot be shown">
    {{ error.message }}
    <template #action><v-btn :to="`/outgoing/${id}`">Back to the record</v-btn></template>
  </EmptyNote>
  <div v-else-if="board" ref="page" class="page board" :class="{ wall }">
    <PageHead
      :title="board.title"
      :note="`${thousands(answered)} of ${people(board.tally.asked)} have answered`"
    >
      <v-btn
        v-if="may('write') && unanswered && !wall"
        :loading="again.isPending.value"
        @click="again.mutate()"
        >Ask the {{ thousands(unanswered) }} again…</v-btn
      >
      <v-btn @click="toggleWall()">{{ wall ? 'Leave the wall screen' : 'Wall screen' }}</v-btn>
      <v-btn v-if="!wall" :to="`/outgoing/${id}`">Back to the record</v-btn>
    </PageHead>
    <SayNote v-if="again.error.value" kind="bad">{{ again.error.value.message }}</SayNote>
    <div class="panes">
      <section class="main" aria-label="Board">
        <div class="shares" role="group" aria-label="Answers">
          <button
            v-for="s in shares"
            :key="s.key"
            type="button"
            class="share sheet"
            :class="s.look"
            :aria-pressed="only === s.key"
            @click="only = only === s.key ? '' : s.key"
          >
            <b class="figure num">{{ thousands(s.people) }}</b>
            <span class="row"
              ><AnswerMark :look="s.look" :number="s.number" /><bdi>{{ s.words }}</bdi></span
            >
            <span v-if="s.number && minutesOf(board, s.number)" class="small quiet num">{{
              minutesOf(board, s.number)
            }}</span>
          </button>
        </div>
        <p v-if="board.question.needed" class="needed" role="status">
          <template v-if="board.filled"
            >{{ count(board.tally.fills, 'counts', 'count') }}, {{ thousands(board.question.needed) }} were
            needed: asking stopped {{ times.moment(board.filled) }}.</template
          >
          <template v-else
            >{{ thousands(board.tally.fills) }} of {{ thousands(board.question.needed) }} that are
            needed.</template
          >
        </p>
        <SayNote v-if="board.unclear" kind="mind"
          >{{ count(board.unclear, 'answer', 'answers') }} came from an address of several people: their
          thread asks who it was.</SayNote
        >
        <div class="cap">
          <h3>Everybody</h3>
          <SelectField v-model="by" class="by" :items="ways" aria-label="Arranged" />
          <bdi class="quiet small push">{{ pointedWords }}</bdi>
        </div>
        <section v-for="p in piles" :key="p.id" class="pile" :aria-label="p.name || 'Everybody'">
          <h4 v-if="p.name">
            <bdi>{{ p.name }}</bdi>
            <span class="quiet small num"
              >{{ thousands(p.answered) }} of {{ thousands(p.marks.length) }}</span
            >
          </h4>
          <div class="marks" :class="size" @mouseleave="pointed = undefined">
            <button
              v-for="m in p.marks"
              :key="m.recipient"
              type="button"
              tabindex="-1"
              :class="{ faint: only && shareOf(m) !== only }"
              :title="m.name"
              @mouseenter="pointed = m"
              @click="m.person && show(m.person)"
            >
              <AnswerMark :look="lookFor(m)" :number="m.answer" />
            </button>
          </div>
        </section>
        <p v-if="board.leftOut" class="quiet small">
          {{ people(board.leftOut) }} {{ board.leftOut === 1 ? 'was' : 'were' }} named and not asked; the
          record says why.
        </p>
      </section>
      <aside v-if="!wall">
        <PaneHead title="To call" :note="unanswered ? people(unanswered) : ''" />
        <CallList class="scrolls" :message="number" :board="board" />
        <PaneHead class="gap" title="Answers as they come" />
        <LatestAnswers class="scrolls" :board="board" />
      </aside>
    </div>
  </div>
  <EmptyNote v-else title="Reading the board…">A moment.</EmptyNote>
</template>

<style scoped>
.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
}

.main {
  overflow: auto;
  padding: 12px 16px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}

.shares {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(128px, 1fr));
  gap: 8px;
}

.share {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  text-align: start;
  font: inherit;
  color: inherit;
  padding: 8px 11px;
  border-top: 3px solid var(--line);
  cursor: pointer;
  min-width: 0;
  overflow-wrap: anywhere;
}

.share.counts {
  border-top-color: var(--sea);
}

.share.attend {
  border-top-color: var(--brick);
}

.share.plain {
  border-top-color: var(--slate);
}

.share.wrote {
  border-top-color: var(--lamp);
}

.share[aria-pressed='true'] {
  background: var(--pane);
  outline: 2px solid var(--deep2);
}

.figure {
  font-size: 26px;
  line-height: 1.25;
}

.needed {
  font-weight: 600;
}

.cap {
  display: flex;
  align-items: center;
  gap: 10px;
}

.by {
  flex: 0 0 130px;
}

.pile h4 {
  display: flex;
  gap: 10px;
  align-items: baseline;
  margin: 0 0 3px;
}

.marks {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}

.marks button {
  border: 0;
  background: none;
  padding: 0;
  font-size: 15px;
  line-height: 0;
  cursor: pointer;
}

.marks.large-marks button {
  font-size: 21px;
}

.marks.small-marks {
  gap: 1px;
}

.marks.small-marks button {
  font-size: 10px;
}

.faint {
  opacity: 0.18;
}

aside {
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--pane);
  border-inline-start: 1px solid var(--line);
  padding: 12px 14px;
}

.gap {
  margin-top: 16px;
}

.scrolls {
  flex: 1 1 0;
  min-height: 0;
  overflow: auto;
}

.wall {
  background: var(--fog);
}

.wall .panes {
  grid-template-columns: minmax(0, 1fr);
}

.wall .figure {
  font-size: 64px;
}

.wall .share {
  font-size: 20px;
}

.wall .marks.large-marks button {
  font-size: 34px;
}

.wall .marks.middle-marks button {
  font-size: 22px;
}
</style>
