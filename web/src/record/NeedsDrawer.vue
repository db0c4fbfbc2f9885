<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useRights } from '@/composables/session'
import { people, thousands } from '@/composables/words'
import CheckBox from '@/controls/CheckBox.vue'
import SelectField from '@/controls/SelectField.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import SayNote from '@/components/SayNote.vue'
import { actionWords, doneWords, meant, wayWords, type Group } from './needs'

/** Those whom the same would help, with what can be done for all of them or for some. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ message: number; group: Group; colleagues: Schemas['Colleague'][] }>()
const { show } = usePersonDrawer()
const may = useRights()
const router = useRouter()
const client = useQueryClient()

const chosen = ref<number[]>([])
watch(open, () => (chosen.value = []))
const list = computed(() => meant(props.group, chosen.value))
const ids = computed(() => list.value.map((p) => p.person).filter(Boolean))
const path = computed(() => ({ id: props.message }))

function choose(person: number, on: boolean) {
  chosen.value = on ? [...chosen.value, person] : chosen.value.filter((p) => p !== person)
}

const said = ref('')
const settled = () => client.invalidateQueries({ queryKey: ['needs', props.message] })

/** What the group needs, for those meant. */
const act = useMutation({
  mutationFn: async () => {
    said.value = ''
    switch (props.group.way) {
      case 'next-channel': {
        const recipients = list.value.map((p) => p.recipient)
        const answer = await take(
          api.POST('/messages/{id}/next', { params: { path: path.value }, body: { recipients } }),
        )
        said.value = `${people(answer.tried)} tried on the next step now.`
        return
      }
      case 'again':
      case 'words': {
        const body = { as: 'again' as const, people: ids.value }
        const draft = await take(api.POST('/messages/{id}/follow', { params: { path: path.value }, body }))
        return router.push(`/write/${draft.id}`)
      }
      case 'details':
        return router.push({ path: '/people/sheets', query: { ids: ids.value.join(',') } })
      default:
        return router.push({
          path: `/write/${props.message}/letters`,
          query: { people: ids.value.join(',') },
        })
    }
  },
  onSettled: settled,
})

const look = useMutation({
  mutationFn: (body: Schemas['Look-afterRequest']) =>
    take(api.POST('/messages/{id}/needs', { params: { path: path.value }, body })),
  onSuccess: () => (chosen.value = []),
  onSettled: settled,
})
const error = computed(() => act.error.value ?? look.error.value)
const others = computed(() => [
  { value: 0, title: 'nobody' },
  ...props.colleagues.map((c) => ({ value: c.id, title: c.name })),
])
</script>

<template>
  <SideDrawer
    v-model="open"
    wide
    :title="wayWords[group.way]"
    :note="`${people(group.open)} to look after, of ${thousands(group.people.length)}`"
  >
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <SayNote v-if="said" kind="good">{{ said }}</SayNote>
    <div v-if="may('write') && group.open" class="acts">
      <v-btn color="primary" variant="flat" :loading="act.isPending.value" @click="act.mutate()">{{
        actionWords(group.way, list.length)
      }}</v-btn>
      <v-btn :disabled="look.isPending.value || !ids.length" @click="look.mutate({ people: ids, done: true })"
        >Tick off</v-btn
      >
      <label class="give"
        ><span class="quiet small">Give to</span>
        <SelectField
          :model-value="null"
          :items="others"
          placeholder="a colleague…"
          aria-label="Give to a colleague"
          @update:model-value="look.mutate({ people: ids, givenTo: $event as number })"
        />
      </label>
    </div>
    <p v-if="group.open > 1" class="quiet small">
      {{ chosen.length ? `For the ${people(chosen.length)} chosen.` : 'For all of them, or choose some.' }}
    </p>
    <p v-if="!group.people.length" class="quiet">Nobody is left here.</p>
    <ul class="needs">
      <li v-for="(p, i) in group.people" :key="i" :class="{ done: p.done }">
        <CheckBox
          v-if="!p.done && p.person"
          :model-value="chosen.includes(p.person)"
          :aria-label="`Choose ${p.name}`"
          @update:model-value="choose(p.person, Boolean($event))"
        />
        <span v-else class="tick" aria-hidden="true">{{ p.done ? '✓' : '' }}</span>
        <span class="who">
          <button class="link" :disabled="!p.person" @click="show(p.person)">
            <bdi>{{ p.name }}</bdi>
          </button>
          <span class="small" :class="p.done ? 'quiet' : 'bad'">{{ p.done ? doneWords(p) : p.what }}</span>
        </span>
        <span v-if="p.given && !p.done" class="quiet small push">{{ p.given }} looks after them</span>
        <button
          v-if="p.done && !p.reached && may('write')"
          class="link small push"
          @click="look.mutate({ people: [p.person], done: false })"
        >
          Not done
        </button>
        <button
          v-else-if="!p.done && group.way === 'address' && p.person && may('edit-people')"
          class="link small"
          :class="{ push: !p.given }"
          @click="show(p.person)"
        >
          Correct it
        </button>
      </li>
    </ul>
  </SideDrawer>
</template>

<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-bottom: 8px;
}

.give {
  display: flex;
  align-items: center;
  gap: 6px;
}

.give .control {
  width: 150px;
}

.needs {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

.needs li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 6px 0;
  border-bottom: 1px solid var(--hair);
}

.who {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
}

.tick {
  width: 22px;
  text-align: center;
  color: var(--sea);
}

.done .link {
  font-weight: 400;
}
</style>
