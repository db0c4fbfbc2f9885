<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import { useRouter } from 'vue-router'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { count, people, thousands } from '@/composables/words'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import ReachBar from '@/components/ReachBar.vue'
import SayNote from '@/components/SayNote.vue'

// Beside the list, or not needed by most, so that it may come after it.
const EmptyNote = defineAsyncComponent(() => import('@/components/EmptyNote.vue'))
const PageTurner = defineAsyncComponent(() => import('@/components/PageTurner.vue'))
const FindMessages = defineAsyncComponent(() => import('@/outgoing/FindMessages.vue'))
const MonthPanel = defineAsyncComponent(() => import('@/controls/MonthPanel.vue'))

type Message = Schemas['MessageView']

const times = useTimes()
const router = useRouter()
const client = useQueryClient()
const pageSize = 200
const first = ref(0)
const finding = ref(false)
const { data: page, error } = useQuery({
  queryKey: ['messages', first],
  queryFn: () => take(api.GET('/messages', { params: { query: { first: first.value, count: pageSize } } })),
  placeholderData: keepPreviousData,
})
const data = computed(() => page.value?.messages)

const { data: feed } = useQuery({
  queryKey: ['calendar'],
  queryFn: () => take(api.GET('/calendar')),
  staleTime: Infinity,
})

const drafts = computed(() => (data.value ?? []).filter((m) => m.state === 'draft'))
const live = computed(() =>
  (data.value ?? []).filter((m) => m.state === 'held' || m.state === 'sending').reverse(),
)
const ended = computed(() => (data.value ?? []).filter((m) => m.state === 'sent' || m.state === 'stopped'))

/** Figures that are not of every message have a column only while one has them. */
const rare = computed(() => ({
  waiting: ended.value.some((m) => m.figures.waiting),
  stopped: ended.value.some((m) => m.figures.stopped),
}))

/** A day of the month leads to what leaves on it. */
function show(day: string) {
  const noon = `${day}T12:00:00Z`
  const there = live.value.find((m) => m.state === 'held' && times.day(m.leavesAt) === times.day(noon))
  if (there) void router.push(`/outgoing/${there.id}`)
}

const remove = useMutation({
  mutationFn: (id: number) => take(api.DELETE('/messages/{id}', { params: { path: { id } } })),
  onSettled: () => client.invalidateQueries({ queryKey: ['messages'] }),
})

function standing(m: Message): string {
  if (m.pausedBy) return `paused by ${m.pausedBy}`
  if (m.late) return m.changed ? 'waits for a yes' : 'late: waits for a yes'
  if (m.state === 'held')
    return m.scheduled ? `leaves ${times.moment(m.leavesAt)}` : 'on hold, leaves in a moment'
  if (m.state === 'sending') return `${count(m.figures.here, 'delivery has', 'deliveries have')} not left`
  return ''
}
</script>

<template>
  <div class="page">
    <PageHead title="Outgoing" :note="page ? count(page.all, 'message', 'messages') : ''">
      <v-btn color="primary" variant="flat" to="/write/new">Write a message</v-btn>
    </PageHead>
    <div class="sides">
      <div class="body">
        <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
        <FindMessages v-if="page?.all" v-model:active="finding" />
        <EmptyNote v-if="page && !page.all" title="Nothing has been written yet">
          Messages stand here from the first draft to the last report: who was reached, who was not, and why.
          <template #action
            ><v-btn color="primary" variant="flat" to="/write/new">Write a message</v-btn></template
          >
        </EmptyNote>

        <section v-if="live.length && !finding">
          <PaneHead title="Held and going out" />
          <table class="plain sheet">
            <tbody>
              <tr v-for="m in live" :key="m.id" class="go" @click="$router.push(`/outgoing/${m.id}`)">
                <td class="title">
                  <router-link :to="`/outgoing/${m.id}`" @click.stop
                    ><bdi>{{ m.title }}</bdi></router-link
                  >
                  <div class="quiet small">
                    {{ m.urgency }} · {{ m.sender }} · to {{ people(m.figures.recipients) }}
                  </div>
                </td>
                <td :class="{ mind: m.late }">{{ standing(m) }}</td>
                <td class="bar"><ReachBar :figures="m.figures" /></td>
              </tr>
            </tbody>
          </table>
        </section>

        <section v-if="drafts.length && !finding">
          <PaneHead title="Drafts" />
          <table class="plain sheet">
            <tbody>
              <tr v-for="m in drafts" :key="m.id" class="go" @click="$router.push(`/write/${m.id}`)">
                <td class="title">
                  <router-link :to="`/write/${m.id}`" @click.stop
                    ><bdi>{{ m.title }}</bdi></router-link
                  >
                  <div class="quiet small">{{ m.urgency }} · {{ m.author }}</div>
                </td>
                <td v-if="m.asker" class="mind">
                  {{ m.asksYou ? `${m.asker} asks for your yes` : 'waits for somebody’s yes' }}
                </td>
                <td v-else-if="m.awaits" :class="{ mind: m.awaits.failed }">
                  {{
                    m.awaits.failed
                      ? 'waited for its readings and did not leave'
                      : `waits for its readings until ${times.moment(m.awaits.until)}`
                  }}
                </td>
                <td v-else>kept {{ times.moment(m.updatedAt) }}</td>
                <td class="num">
                  <button
                    class="link"
                    :aria-label="`Delete the draft ${m.title}`"
                    @click.stop="remove.mutate(m.id)"
                  >
                    Delete
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
        </section>

        <section v-if="ended.length && !finding">
          <PaneHead title="Gone out" />
          <table class="plain sheet">
            <thead>
              <tr>
                <th>Message</th>
                <th class="num">Recipients</th>
                <th class="num">Reached</th>
                <th v-if="rare.waiting" class="num">Waiting</th>
                <th class="num">Not reached</th>
                <th v-if="rare.stopped" class="num">Stopped</th>
                <th class="num">Got nothing</th>
                <th>How far it got</th>
                <th>Sent</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="m in ended" :key="m.id" class="go" @click="$router.push(`/outgoing/${m.id}`)">
                <td class="title">
                  <router-link :to="`/outgoing/${m.id}`" @click.stop
                    ><bdi>{{ m.title }}</bdi></router-link
                  >
                  <div class="quiet small">{{ m.urgency }} · {{ m.sender }}</div>
                </td>
                <td class="num">{{ thousands(m.figures.recipients) }}</td>
                <td class="num">{{ thousands(m.figures.reached) }}</td>
                <td v-if="rare.waiting" class="num">{{ thousands(m.figures.waiting) }}</td>
                <td class="num" :class="{ bad: m.figures.notReached }">
                  {{ thousands(m.figures.notReached) }}
                </td>
                <td v-if="rare.stopped" class="num">{{ thousands(m.figures.stopped) }}</td>
                <td class="num">{{ thousands(m.figures.leftOut) }}</td>
                <td class="bar"><ReachBar :figures="m.figures" /></td>
                <td>{{ times.moment(m.leavesAt) }}</td>
              </tr>
            </tbody>
          </table>
        </section>
        <PageTurner
          v-if="!finding && page && page.all > pageSize"
          v-model="first"
          :size="pageSize"
          :all="page.all"
        />
      </div>
      <aside v-if="page?.all" aria-label="What leaves when">
        <PaneHead title="What leaves when" />
        <MonthPanel moment @pick="show" />
        <a v-if="feed" class="link small" :href="feed.path" title="A calendar program can follow this link"
          >Calendar of what is scheduled</a
        >
      </aside>
    </div>
  </div>
</template>

<style scoped>
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  align-items: start;
}

aside {
  padding: 14px 16px 24px 0;
  display: grid;
  gap: 8px;
}

@media (width < 1100px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }

  aside {
    padding-inline-start: 16px;
  }
}

.title {
  width: 32%;
}

.title a {
  font-weight: 600;
  text-decoration: none;
}

.bar {
  width: 180px;
  vertical-align: middle;
}
</style>
