<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { useRights, useTimes } from '@/composables/session'
import { count, people } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'
import { parts, whenOf, type Job, type Part } from './jobs'
import JobPart from './JobPart.vue'

/** A job: its people by part, who is coming, and its thread. */
const props = defineProps<{ id: number }>()
defineEmits<{ change: [job: Job]; like: [job: Job] }>()

const client = useQueryClient()
const router = useRouter()
const may = useRights()
const times = useTimes()
const params = computed(() => ({ path: { id: props.id } }))
const { data, error } = useQuery({
  queryKey: ['roster', 'job', computed(() => props.id)],
  queryFn: () => take(api.GET('/jobs/{id}', { params: params.value })),
  placeholderData: keepPreviousData,
  refetchInterval: 10_000, // answers and threads change without the roster
})
const view = computed(() => (data.value?.job.id === props.id ? data.value : undefined))
const job = computed(() => view.value?.job)
const of = (part: Part) => view.value?.people.filter((p) => p.part === part) ?? []

const doing = ref<'' | 'close' | 'template'>('')
const called = ref('')
const kept = ref('')
watch(
  () => props.id,
  () => ((doing.value = ''), (kept.value = '')),
)
const act = useMutation({
  mutationFn: (request: () => Promise<unknown>) => request(),
  onSuccess: () => (doing.value = ''),
  onSettled: () => client.invalidateQueries({ queryKey: ['roster'] }),
})
const put = (whom: Partial<Schemas['PutPeople']>, part: Part) =>
  act.mutate(() => take(api.POST('/jobs/{id}/people', { params: params.value, body: { part, ...whom } })))
const out = (person: number) =>
  act.mutate(() => take(api.POST('/jobs/{id}/out', { params: params.value, body: { people: [person] } })))
const close = () => act.mutate(() => take(api.POST('/jobs/{id}/close', { params: params.value })))
const reopen = () => act.mutate(() => take(api.POST('/jobs/{id}/reopen', { params: params.value })))
const keep = () =>
  act.mutate(async () => {
    await take(api.POST('/jobs/{id}/template', { params: params.value, body: { name: called.value } }))
    kept.value = called.value
  })
const ask = useMutation({
  mutationFn: () => take(api.POST('/jobs/{id}/ask', { params: params.value })),
  onSuccess: (made) => router.push(`/write/${made.id}`),
})
const talk = useMutation({
  mutationFn: () =>
    take(
      api.POST('/desks/{id}/many', {
        params: { path: { id: view.value!.desk } },
        body: { with: 'job', group: props.id },
      }),
    ),
  onSuccess: (made) => router.push(`/desks/${view.value!.desk}/${made.id}`),
})
const problem = computed(() => act.error.value ?? ask.error.value ?? talk.error.value)
const waits = { us: 'waits for us', them: 'waits for them', quiet: 'quiet' }
const share = (a: Schemas['JobAsk']) => Math.min(100, (100 * a.coming) / Math.max(1, a.needed || a.asked))
</script>

<template>
  <EmptyNote v-if="error" title="This job is not here">{{ error.message }}</EmptyNote>
  <div v-else-if="view && job" class="pane">
    <div class="cap">
      <h2>
        <bdi>{{ job.name }}</bdi>
        <span v-if="job.reference" class="quiet reference">{{ job.reference }}</span>
      </h2>
      <div class="acts">
        <v-btn v-if="job.editable && !job.closed" @click="$emit('change', job)">Change…</v-btn>
        <v-btn v-if="job.editable" @click="$emit('like', job)">Another like it…</v-btn>
        <v-btn v-if="job.editable && job.closed" @click="reopen">Open it again</v-btn>
        <v-btn v-else-if="job.editable" @click="doing = doing === 'close' ? '' : 'close'"
          >Close the job…</v-btn
        >
      </div>
    </div>
    <p class="small">
      <span :class="{ late: job.overdue }">{{ whenOf(job, times) }}</span><b v-if="job.overdue" class="late">
        · overdue: its end has passed</b
      ><template v-if="job.place">
        · <bdi>{{ job.place }}</bdi></template
      ><span v-if="job.unitPath" class="quiet"> · {{ job.unitPath }}</span>
      <button
        v-if="job.editable"
        class="link small keep"
        @click="((doing = doing === 'template' ? '' : 'template'), (called = job.name))"
      >
        Keep as a template…
      </button>
    </p>
    <SayNote v-if="problem" kind="bad">{{ problem.message }}</SayNote>
    <SayNote v-if="kept" kind="good"
      >Kept as the template <bdi>{{ kept }}</bdi>. A new job can begin with it.</SayNote
    >
    <form v-if="doing === 'close'" class="sheet card ask" @submit.prevent="close">
      <p class="small">
        All of it is kept. Its thread ends: nothing more is written in it, and what people answer later is in
        threads of their own.
      </p>
      <v-btn type="submit" color="primary" variant="flat">Close the job</v-btn>
    </form>
    <form v-if="doing === 'template'" class="sheet card ask" @submit.prevent="keep">
      <TextField v-model="called" maxlength="120" aria-label="What the template is called" />
      <v-btn type="submit" :disabled="!called.trim()">Keep the template</v-btn>
    </form>
    <div class="cards">
      <div class="sheet card">
        <h3>Who is coming</h3>
        <div v-for="a in view.asks" :key="a.message" class="asked">
          <p class="small">
            <router-link class="link" :to="`/outgoing/${a.message}/board`"
              ><bdi>{{ a.title }}</bdi></router-link
            >
          </p>
          <div class="bar" aria-hidden="true"><i :style="{ width: `${share(a)}%` }" /></div>
          <p class="small">
            <b class="num">{{ a.coming }}{{ a.needed ? ` of ${a.needed}` : '' }}</b> coming
            <span class="quiet num"> · {{ people(a.asked) }} asked, {{ a.silent }} without an answer</span>
          </p>
        </div>
        <p v-if="!view.asks.length" class="quiet small">Nobody was asked for this job yet.</p>
        <button
          v-if="may('write') && !job.closed"
          class="link small"
          :disabled="ask.isPending.value"
          @click="ask.mutate()"
        >
          Ask who is coming…
        </button>
      </div>
      <div class="sheet card">
        <h3>Its thread</h3>
        <p v-for="t in view.threads" :key="t.id" class="small">
          <router-link class="link" :to="`/desks/${t.desk}/${t.id}`">Open it at {{ t.name }}</router-link>
          <span class="stands" :class="{ late: t.waits === 'us' }">
            {{ waits[t.waits] }}{{ t.unread ? ', unread' : '' }}</span
          >
        </p>
        <template v-if="!view.threads.length">
          <p class="quiet small">
            {{ job.closed ? 'Nothing was written to its people.' : 'Nothing was written to its people yet.' }}
          </p>
          <button
            v-if="view.desk && !job.closed"
            class="link small"
            :disabled="talk.isPending.value"
            @click="talk.mutate()"
          >
            Write to its {{ people(job.people) }}…
          </button>
          <p v-if="!view.desk" class="quiet small">You sit at no desk; those who do write to them there.</p>
        </template>
      </div>
      <div v-if="view.nested.length || job.beyond" class="sheet card">
        <h3>Groups that stay in it</h3>
        <p v-for="n in view.nested" :key="n.id" class="small">
          <router-link class="link" :to="`/groups?group=${n.id}`"
            ><bdi>{{ n.name }}</bdi></router-link
          >
          <span class="quiet num"> {{ people(n.people) }}</span>
        </p>
        <p v-if="job.beyond" class="quiet small">
          {{ count(job.beyond, 'more whom you do not see', 'more whom you do not see') }}
        </p>
      </div>
    </div>
    <div class="parts">
      <JobPart
        v-for="p in parts"
        :key="p.part"
        class="sheet card"
        :title="p.title"
        :part="p.part"
        :people="of(p.part)"
        :editable="job.editable && !job.closed"
        @put="put"
        @out="out"
      />
    </div>
  </div>
</template>

<style scoped>
.pane {
  padding: 12px 18px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}

.cap {
  display: flex;
  justify-content: space-between;
  align-items: flex-start;
  gap: 12px;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 8px;
  flex: none;
}

.reference {
  margin-inline-start: 8px;
  font-weight: 400;
}

.stands {
  margin-inline-start: 8px;
}

.late {
  color: #8a5a00;
}

.keep {
  margin-inline-start: 10px;
}

.card {
  padding: 10px 12px;
}

.card h3 {
  font-size: 12px;
  color: var(--ink2);
  margin-bottom: 4px;
}

.ask {
  display: flex;
  align-items: center;
  gap: 12px;
}

.ask > :first-child {
  flex: 1;
}

.cards {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(230px, 1fr));
  gap: 10px;
}

.asked + .asked {
  margin-top: 8px;
}

.bar {
  height: 8px;
  margin: 4px 0;
  background: var(--pane);
  border-radius: 3px;
  overflow: hidden;
}

.bar i {
  display: block;
  height: 100%;
  background: var(--deep2);
}

.parts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(290px, 1fr));
  gap: 10px;
  align-items: start;
}
</style>
