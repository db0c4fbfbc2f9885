<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Done } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { dayWords } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import PersonContact from './PersonContact.vue'
import PersonFacts from './PersonFacts.vue'
import PersonFoot from './PersonFoot.vue'
import PersonForm from './PersonForm.vue'
import PersonGot from './PersonGot.vue'
import PersonHistory from './PersonHistory.vue'

const { person, adding, open: wanted, close, show } = usePersonDrawer()
const { done } = useSaid()
const open = computed({ get: () => wanted.value, set: (now) => !now && close() })
const editing = ref(false)
watch([person, adding], () => (editing.value = false))

const { data, error } = useQuery({
  queryKey: ['roster', 'person', person],
  queryFn: () => take(api.GET('/people/{id}', { params: { path: { id: person.value } } })),
  enabled: computed(() => person.value !== 0),
})

async function saved(d: Done) {
  editing.value = false
  if (adding.value && d.person) show(d.person)
  await done(d)
}
</script>

<template>
  <SideDrawer
    v-model="open"
    wide
    :title="adding ? 'Somebody new' : (data?.name ?? 'Person')"
    :note="
      adding
        ? 'A name is enough to begin with'
        : [data?.knownAs && `called ${data.knownAs}`, data?.roles.join(', ') || 'no role']
            .filter(Boolean)
            .join(' · ')
    "
  >
    <template v-if="data?.editable && !editing && !adding" #actions>
      <v-btn size="small" @click="editing = true">Edit</v-btn>
    </template>
    <SayNote v-if="error && !adding" kind="bad">{{ error.message }}</SayNote>
    <PersonForm v-if="adding" @saved="saved" @leave="close" />
    <PersonForm
      v-else-if="editing && data"
      :key="data.id"
      :person="data"
      @saved="saved"
      @leave="editing = false"
    />
    <template v-else-if="data">
      <SayNote v-if="data.status !== 'active'" kind="mind">
        {{
          data.status === 'left'
            ? 'Has left: gets nothing.'
            : data.awayUntil
              ? `Away until ${dayWords(data.awayUntil)}: gets nothing before.`
              : 'Away: gets nothing until back.'
        }}
      </SayNote>
      <SayNote v-for="g in data.gaps" :key="g" kind="bad"
        >{{ g.charAt(0).toUpperCase() + g.slice(1) }}.</SayNote
      >
      <SayNote v-if="data.guest" kind="mind"
        >Of another unit: you see them as the guardian of somebody in yours. They are edited there.</SayNote
      >
      <PersonContact :person="data" />
      <PersonFacts :person="data" />
      <PersonGot :person="data" />
      <PersonHistory :person="data" />
      <PersonFoot v-if="data.editable" :key="data.id" :person="data" />
    </template>
  </SideDrawer>
</template>
