<script setup lang="ts">
import { ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { useTimes } from '@/composables/session'
import KeptPages from './KeptPages.vue'
import PairTerminal from './PairTerminal.vue'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'

/** What can be done with somebody: a link to correct their details, their sheet, and taking them off the roster. */
const { person } = defineProps<{ person: Schemas['PersonDetailView'] }>()
const { close } = usePersonDrawer()
const { done, fail, tell } = useSaid()
const { moment } = useTimes()

async function makeLink() {
  try {
    const link = await take(api.POST('/people/{id}/link', { params: { path: { id: person.id } } }))
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

async function remove() {
  try {
    const d = await take(api.POST('/people/remove', { body: { people: [person.id] } }))
    close()
    await done(d)
  } catch (problem) {
    fail(problem)
  }
}
const removing = ref(false)
const { data: removal } = useQuery({
  queryKey: ['roster', 'removal', person.id],
  queryFn: () => take(api.POST('/people/removal', { body: { people: [person.id] } })),
  enabled: removing,
})
const pairing = ref(false)
</script>

<template>
  <section>
    <div class="foot">
      <v-btn size="small" @click="makeLink">Link to their page</v-btn>
      <v-btn size="small" :to="{ name: 'sheets', query: { ids: person.id } }" @click="close()"
        >Print their sheet</v-btn
      >
      <v-btn v-if="!pairing" size="small" @click="pairing = true">Pair a terminal…</v-btn>
      <v-btn v-if="!removing" size="small" @click="removing = true">Remove…</v-btn>
      <SayNote v-if="made" kind="good">
        Only {{ person.name }} should get this link; it works until {{ moment(made.until) }}.
        <TextField
          :model-value="made.url"
          readonly
          aria-label="Personal link"
          @focus="($event.target as HTMLInputElement).select()"
        />
        <button class="link" @click="copy(made.url)">Copy it</button>
      </SayNote>
      <PairTerminal v-if="pairing" :person="person" @leave="pairing = false" />
      <KeptPages :person="person.id" />
      <SayNote v-if="removing && removal" kind="bad">
        {{ person.name }} would leave the roster with {{ removal.addresses }} addresses,
        {{ removal.memberships }} group places and {{ removal.ties }} ties.
        <template v-if="removal.alone.all"
          >Nobody would receive for {{ removal.alone.people.map((p) => p.name).join(', ') }} any
          more.</template
        >
        <div class="row">
          <v-btn size="small" @click="remove">Remove {{ person.name }}</v-btn>
          <v-btn size="small" @click="removing = false">Keep</v-btn>
        </div>
      </SayNote>
    </div>
  </section>
</template>

<style scoped src="./lists.css"></style>

<style scoped>
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
