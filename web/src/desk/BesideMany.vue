<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { mdiClose } from '@mdi/js'
import { api, take, type Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useRights } from '@/composables/session'
import { channelWords, count, people } from '@/composables/words'
import TextField from '@/controls/TextField.vue'
import ChannelMark from '@/components/ChannelMark.vue'
import FindBox from '@/components/FindBox.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'
import { partWords } from './many'
import ShiftCard from './ShiftCard.vue'

/** Who is in a thread with many, and who of them sees what. */
const props = defineProps<{ view: Schemas['ThreadView']; many: Schemas['ManyView'] }>()
const emit = defineEmits<{ gone: []; moved: [person: number] }>()

const client = useQueryClient()
const may = useRights()
const { show } = usePersonDrawer()
const id = computed(() => props.view.thread.id)
const path = computed(() => ({ params: { path: { id: id.value } } }))
const chosen = computed(() => props.view.thread.with === 'people')
const shared = computed(() => props.view.thread.shared)

const doing = ref<'' | 'name' | 'add' | 'share' | 'delete'>('')
const called = ref('')
watch(id, () => (doing.value = ''))
const act = useMutation({
  mutationFn: (request: () => Promise<unknown>) => request(),
  onSuccess: () => (doing.value = ''),
  onSettled: () => client.invalidateQueries({ queryKey: ['desks'] }),
})
const rename = (name: string) =>
  act.mutate(() => take(api.POST('/threads/{id}/name', { ...path.value, body: { name } })))
const choose = (list: number[]) =>
  act.mutate(() => take(api.POST('/threads/{id}/people', { ...path.value, body: { people: list } })))
const share = (on: boolean) =>
  act.mutate(() => take(api.POST('/threads/{id}/share', { ...path.value, body: { shared: on } })))
const remove = useMutation({
  mutationFn: () => take(api.DELETE('/threads/{id}', path.value)),
  onSuccess: async () => {
    emit('gone')
    await client.invalidateQueries({ queryKey: ['desks'] })
  },
})
const problem = computed(() => act.error.value ?? remove.error.value)
const inside = computed(() => props.many.people.filter((p) => !p.left))
const ids = computed(() => inside.value.map((p) => p.id))

const some = 12
const all = ref(false)
watch(id, () => (all.value = false))
const listed = computed(() => (all.value ? props.many.people : props.many.people.slice(0, some)))
function note(p: Schemas['InThread']): string {
  if (p.left) return 'left it'
  const words = [p.part && p.part !== 'does' ? partWords[p.part] : '', p.reason]
  if (shared.value && !p.told && !p.reason) words.push('is told next')
  return words.filter(Boolean).join(', ')
}
</script>

<template>
  <aside aria-label="Beside it">
    <PaneHead title="Beside it" />
    <SayNote v-if="problem" kind="bad">{{ problem.message }}</SayNote>
    <SayNote v-if="view.thread.note" kind="mind"><b>Left for this shift.</b> {{ view.thread.note }}</SayNote>
    <div class="sheet card">
      <h3>
        <span>In it</span><span class="num">{{ people(inside.length + many.beyond) }}</span>
      </h3>
      <ul>
        <li v-for="p in listed" :key="`${p.id}${p.left}`" :class="{ left: p.left || p.reason }">
          <ChannelMark v-if="p.by" :channel="p.by" :title="channelWords[p.by]" />
          <span v-else />
          <span>
            <button class="link" @click="show(p.id)">
              <bdi>{{ p.name }}</bdi>
            </button>
            <span v-if="note(p)" class="quiet small note">{{ note(p) }}</span>
          </span>
          <button
            v-if="chosen && !p.left && inside.length > 1"
            class="icon"
            :aria-label="`Take ${p.name} out`"
            @click="choose(ids.filter((o) => o !== p.id))"
          >
            <v-icon :icon="mdiClose" size="13" />
          </button>
        </li>
      </ul>
      <p v-if="many.beyond" class="small quiet">
        {{ count(many.beyond, 'more whom you do not see', 'more whom you do not see') }}
      </p>
      <button v-if="many.people.length > some" class="link small" @click="all = !all">
        {{ all ? 'Show fewer' : `Show all ${many.people.length}` }}
      </button>
      <p v-if="!chosen" class="small quiet follows">
        Follows the roster.
        <router-link v-if="view.thread.with === 'job'" class="link" :to="`/jobs/${many.group}`"
          >Open the job</router-link
        ><router-link v-else-if="many.group" class="link" :to="`/groups?group=${many.group}`"
          >Open the group</router-link
        >
      </p>
      <p v-else class="ways">
        <button
          v-if="may('see-people')"
          class="link"
          :aria-expanded="doing === 'add'"
          @click="doing = doing === 'add' ? '' : 'add'"
        >
          Add somebody…
        </button>
        <button
          class="link"
          :aria-expanded="doing === 'name'"
          @click="((doing = doing === 'name' ? '' : 'name'), (called = many.named ? view.thread.name : ''))"
        >
          {{ many.named ? 'Rename…' : 'Give it a name…' }}
        </button>
        <button v-if="many.named" class="link" @click="rename('')">Call it after its people</button>
        <button
          class="link"
          :aria-expanded="doing === 'delete'"
          @click="doing = doing === 'delete' ? '' : 'delete'"
        >
          Delete…
        </button>
      </p>
      <FindBox
        v-if="doing === 'add'"
        :kinds="['person']"
        label="Whom to add"
        @pick="choose([...ids, $event.id])"
      />
      <form v-if="doing === 'name'" @submit.prevent="rename(called)">
        <TextField v-model="called" maxlength="120" aria-label="What it is called" />
        <v-btn type="submit" :disabled="!called.trim()">Keep the name</v-btn>
      </form>
      <form v-if="doing === 'delete'" @submit.prevent="remove.mutate()">
        <p class="small">All that was said in it goes. What they answer later is in threads of their own.</p>
        <v-btn type="submit" color="error">Delete the thread</v-btn>
      </form>
    </div>
    <div v-if="!many.ended" class="sheet card">
      <h3>Who sees what is said</h3>
      <p class="small">
        {{
          shared
            ? 'All in it see what anybody writes, by name and never by number. Whoever answers with the word for it leaves.'
            : 'What they answer comes to the desk only.'
        }}
      </p>
      <p class="ways">
        <button v-if="shared" class="link" :disabled="act.isPending.value" @click="share(false)">
          Let it come to the desk only
        </button>
        <button
          v-else
          class="link"
          :aria-expanded="doing === 'share'"
          @click="doing = doing === 'share' ? '' : 'share'"
        >
          Let all see it…
        </button>
      </p>
      <form v-if="doing === 'share'" @submit.prevent="share(true)">
        <p class="small">
          {{ people(inside.length + many.beyond) }} are told so first, each in their language, with the word
          by which they leave. What was said before stays here.
        </p>
        <v-btn type="submit" :disabled="act.isPending.value">Tell them, and let all see it</v-btn>
      </form>
    </div>
    <ShiftCard :view="view" />
  </aside>
</template>

<style scoped>
aside {
  overflow: auto;
  background: var(--pane);
  border-inline-start: 1px solid var(--line);
  padding: 12px 14px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.card {
  padding: 9px 11px;
}

.card h3 {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  color: var(--ink2);
  margin-bottom: 4px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 12.5px;
}

li {
  display: grid;
  grid-template-columns: 16px minmax(0, 1fr) auto;
  gap: 6px;
  align-items: start;
  padding: 1px 0;
  overflow-wrap: anywhere;
}

li :deep(.mark) {
  margin-top: 2px;
}

.note {
  margin-inline-start: 6px;
}

.left .link {
  color: var(--ink2);
}

.follows {
  margin-top: 6px;
}

.ways {
  margin-top: 4px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}

.ways > .link {
  min-height: 24px;
}

form {
  margin-top: 8px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 8px;
}

form > :first-child {
  align-self: stretch;
}
</style>
