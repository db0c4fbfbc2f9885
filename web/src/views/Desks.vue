<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { refDebounced, useLocalStorage, useIntervalFn } from '@vueuse/core'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useDesks } from '@/composables/desks'
import { useRights, useTimes } from '@/composables/session'
import { count, thousands } from '@/composables/words'
import TextField from '@/controls/TextField.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'
import AnswerBox from '@/desk/AnswerBox.vue'
import BesideMany from '@/desk/BesideMany.vue'
import BesideThread from '@/desk/BesideThread.vue'
import FoundBeyond from '@/desk/FoundBeyond.vue'
import NewThread from '@/desk/NewThread.vue'
import ThreadLedger from '@/desk/ThreadLedger.vue'
import ThreadFilter from '@/desk/ThreadFilter.vue'
import TellPhone from '@/desk/TellPhone.vue'
import ThreadHead from '@/desk/ThreadHead.vue'
import ThreadList from '@/desk/ThreadList.vue'
import ToAllBox from '@/desk/ToAllBox.vue'
import { useBeginning } from '@/desk/beginning'
import { putFiles, saidIn, sayIn } from '@/desk/said'

const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const may = useRights()
const times = useTimes()

const { data: desks, error } = useDesks()
const desk = computed(() => desks.value?.find((d) => d.id === Number(route.params.desk)) ?? desks.value?.[0])
const open = computed(() => Number(route.params.thread ?? 0))
const show = (thread: number) => router.push(`/desks/${desk.value?.id}/${thread}`)

/** Each thread opens at its newest. */
const pane = useTemplateRef('pane')
watch(open, () => pane.value?.scrollTo(0, 0), { flush: 'post' })

const mine = ref(false)
const typed = ref('')
const find = refDebounced(typed, 200)
const byName = useLocalStorage('lantern.threads.by-name', false)
const language = ref('')
const area = ref(0)
const kind = ref<'' | Schemas['ThreadRow']['with']>('')
watch(
  () => desk.value?.id,
  () => ((language.value = kind.value = ''), (area.value = 0)),
)
const lists = computed(() =>
  byName.value
    ? [{ title: 'All threads', some: 100 }]
    : [
        { waits: 'us' as const, title: 'Waits for us', some: 60 },
        { waits: 'them' as const, title: 'Waits for them', some: 20 },
        { waits: 'quiet' as const, title: 'Quiet', some: 15 },
      ],
)
const beginning = ref(false)

const { data: view, error: gone } = useQuery({
  queryKey: ['desks', 'thread', open],
  queryFn: () => take(api.GET('/threads/{id}', { params: { path: { id: open.value } } })),
  enabled: computed(() => open.value > 0),
  placeholderData: keepPreviousData,
})
const shown = computed(() => (open.value && view.value?.thread.id === open.value ? view.value : undefined))
// What one of the desk reads, all have read: once it is opened, and whenever something new
// stands in it. What is left for the next shift meanwhile stays unread.
watch(
  () => shown.value && `${shown.value.thread.id} ${shown.value.entries.at(-1)?.id}`,
  async () => {
    if (!shown.value?.thread.unread) return
    await api.POST('/threads/{id}/read', { params: { path: { id: shown.value.thread.id } } })
    await refresh()
  },
)
// What came in is read in the desk's language, as far as that can be said.
const unread = computed(
  () => shown.value?.entries.filter((e) => e.kind === 'in' && e.said && !e.copy).at(-1)?.id,
)
const copies = useMutation({
  mutationFn: (naming: boolean) =>
    take(api.POST('/threads/{id}/copies', { params: { path: { id: open.value } }, body: { naming } })),
  onSuccess: refresh,
})
watch([() => shown.value?.thread.id, unread], ([thread, entry]) => {
  copies.reset()
  if (thread && entry && (shown.value?.person || shown.value?.many)) copies.mutate(false)
})
// The others of the desk see who looks at a thread, and who writes.
const writing = computed(() => Boolean(shown.value && saidIn(shown.value.thread.id).trim()))
async function here() {
  const id = shown.value?.thread.id
  if (id) await api.POST('/threads/{id}/here', { params: { path: { id } }, body: { writing: writing.value } })
}
watch([() => shown.value?.thread.id, writing], here, { immediate: true })
useIntervalFn(here, 15_000)
const others = computed(() => {
  const list = shown.value?.here ?? []
  return list.map((p) => `${p.name} ${p.writing ? 'is writing' : 'looks at it too'}`).join(', ')
})
function refresh() {
  return client.invalidateQueries({ queryKey: ['desks'] })
}

const takeBack = useMutation({
  mutationFn: async (message: number) => {
    const thread = open.value
    const { text, files } = await take(
      api.POST('/threads/{id}/take-back', { params: { path: { id: thread } }, body: { message } }),
    )
    sayIn(thread, text)
    putFiles(thread, files)
  },
  onSettled: refresh,
})
async function begun(thread: number) {
  beginning.value = false
  typed.value = ''
  await refresh()
  await show(thread)
}
/** The thread with one alone, who is in this one too. */
const alone = (person: number) => begin.mutate({ with: 'one', person })
const begin = useBeginning(
  computed(() => desk.value?.id ?? 0),
  begun,
)
const hours = computed(() => {
  const d = desk.value
  if (!d) return ''
  const on = d.members.length > 1 ? ` · ${count(d.members.length - 1, 'other sits', 'others sit')} here` : ''
  if (d.until) return `open until ${times.clock(d.until)}${on}`
  return `${d.open ? 'open' : 'outside its hours'}${on}`
})
</script>

<template>
  <EmptyNote v-if="error" title="The desks cannot be read">{{ error.message }}</EmptyNote>
  <EmptyNote v-else-if="desks && !desk" title="You sit at no desk">
    At a desk, people of the office look after what comes back.
    <template v-if="may('change-settings')" #action>
      <v-btn color="primary" variant="flat" to="/settings?of=desks">Make a desk</v-btn>
    </template>
  </EmptyNote>
  <div v-else-if="desk" class="page">
    <PageHead :title="desks!.length > 1 ? 'Desks' : desk.name" :note="hours">
      <template #beside>
        <div v-if="desks!.length > 1" class="tabs" role="group" aria-label="Desks">
          <router-link
            v-for="d in desks"
            :key="d.id"
            :to="`/desks/${d.id}`"
            :class="{ on: d.id === desk.id }"
            :aria-current="d.id === desk.id ? 'page' : undefined"
            >{{ d.name }}<span v-if="d.us" class="num"> {{ thousands(d.us) }}</span></router-link
          >
        </div>
        <div class="seg" role="radiogroup" aria-label="Whose">
          <button role="radio" :aria-checked="!mine" @click="mine = false">Everybody’s</button>
          <button role="radio" :aria-checked="mine" @click="mine = true">Mine</button>
        </div>
      </template>
      <TellPhone :key="desk.id" :desk="desk.id" />
      <v-btn v-if="may('see-people')" @click="beginning = !beginning">{{
        beginning ? 'Never mind' : 'New thread…'
      }}</v-btn>
    </PageHead>
    <SayNote v-if="begin.error.value" kind="bad">{{ begin.error.value.message }}</SayNote>
    <NewThread v-if="beginning" :name="desk.name" @begin="begin.mutate" />
    <div class="panes" :class="{ none: !shown }">
      <nav aria-label="Threads">
        <TextField
          v-model="typed"
          class="find"
          placeholder="Name, number or words"
          aria-label="Find threads"
        />
        <ThreadFilter
          v-model:by-name="byName"
          v-model:language="language"
          v-model:area="area"
          v-model:with="kind"
          :desk="desk.id"
        />
        <ThreadList
          v-if="find"
          :desk="desk.id"
          title="Found"
          :find="find"
          :by-name="byName"
          :language="language"
          :area="area"
          :with="kind"
          :open="open"
          :some="50"
          @open="show"
        />
        <FoundBeyond v-if="find && may('see-people')" :find="find" @begin="begin.mutate" />
        <template v-if="!find">
          <ThreadList
            v-for="s in lists"
            :key="s.title"
            v-bind="s"
            :desk="desk.id"
            :mine="mine"
            :by-name="byName"
            :language="language"
            :area="area"
            :with="kind"
            :open="open"
            @open="show"
          />
        </template>
      </nav>
      <section v-if="shown" ref="pane" class="thread newest" :aria-label="shown.thread.name">
        <div>
          <ThreadHead :view="shown" />
          <p v-if="others" class="small others" role="status">{{ others }}</p>
          <SayNote v-if="takeBack.error.value" kind="bad">{{ takeBack.error.value.message }}</SayNote>
          <ThreadLedger
            :view="shown"
            :busy="takeBack.isPending.value"
            @take-back="takeBack.mutate($event)"
            @alone="alone"
          />
          <p v-if="copies.data.value?.left" class="small quiet" role="status">
            {{ copies.data.value.note }}
            <button
              v-if="copies.data.value.withheld"
              class="link small"
              :disabled="copies.isPending.value"
              @click="copies.mutate(true)"
            >
              Let it be read all the same
            </button>
          </p>
          <p v-if="shown.many?.ended" class="small quiet ended">
            This thread has ended: nothing more is written in it. What comes later is in the threads of those
            who write.
          </p>
          <ToAllBox v-else-if="shown.many" :view="shown" @done="refresh" />
          <AnswerBox v-else :view="shown" @done="refresh" />
        </div>
      </section>
      <section v-else class="thread">
        <EmptyNote v-if="open && gone" title="This thread is not here">{{ gone.message }}</EmptyNote>
        <EmptyNote
          v-else-if="!open"
          :title="
            desk.us ? `${count(desk.us, 'thread waits', 'threads wait')} for us` : 'Nothing waits for us'
          "
        >
          {{ desk.us ? 'The one that waits longest is on top.' : 'What people answer comes here.' }}
        </EmptyNote>
      </section>
      <BesideMany
        v-if="shown?.many"
        :view="shown"
        :many="shown.many"
        @gone="router.push('/desks')"
        @moved="alone"
      />
      <BesideThread v-else-if="shown" :view="shown" @moved="show" />
    </div>
  </div>
</template>

<style scoped>
.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 268px minmax(0, 1fr) 292px;
}

.panes.none {
  grid-template-columns: 268px minmax(0, 1fr);
}

nav {
  overflow: auto;
  padding: 12px 14px;
  border-inline-end: 1px solid var(--line);
}

.find {
  width: 100%;
}

.thread {
  overflow: auto;
  padding: 12px 14px;
}

/* The newest is in sight, and stays there while what is written grows. */
.newest {
  display: flex;
  flex-direction: column-reverse;
  padding-bottom: 0;
}

.newest > div {
  margin-bottom: auto;
  padding-bottom: 12px;
}

.ended {
  margin-top: 12px;
}

.others {
  color: #8a5a00;
  margin-bottom: 6px;
}

@media (width < 1100px) {
  .panes {
    grid-template-columns: 236px minmax(0, 1fr) 224px;
  }

  .panes.none {
    grid-template-columns: 268px minmax(0, 1fr);
  }
}
</style>
