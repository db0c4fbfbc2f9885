<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { together } from '@/composables/addresses'
import { usePersonDrawer } from '@/composables/personDrawer'
import ChannelMark from './ChannelMark.vue'
import SayNote from './SayNote.vue'
import SideDrawer from './SideDrawer.vue'

const { person } = usePersonDrawer()
const open = computed({ get: () => person.value !== 0, set: (now) => !now && (person.value = 0) })

const { data, error } = useQuery({
  queryKey: ['person', person],
  queryFn: () => take(api.GET('/people/{id}', { params: { path: { id: person.value } } })),
  enabled: open,
})

const health = {
  untried: 'not tried yet',
  good: 'works',
  failing: 'failed last time',
  dead: 'dead: no longer used',
}

function consent(a: Schemas['AddressView']): string {
  const declined = [a.declinesRoutine && 'routine', a.declinesTimely && 'timely'].filter(Boolean)
  return declined.length ? `declines ${declined.join(' and ')} messages` : ''
}

function tie(t: Schemas['TieView']): string {
  if (t.barred) return 'contact barred'
  return t.receives ? 'receives messages' : 'does not receive messages'
}
</script>

<template>
  <SideDrawer v-model="open" :title="data?.name ?? 'Person'" :note="data?.roles.join(', ') || 'no role'">
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <template v-if="data">
      <SayNote v-if="data.status !== 'active'" kind="mind">
        {{ data.status === 'away' ? 'Away: gets nothing until back.' : 'Has left: gets nothing.' }}
      </SayNote>
      <h3>Addresses, in order</h3>
      <p v-if="!data.addresses.length" class="bad">None. No message can reach them.</p>
      <ul class="list">
        <li v-for="a in together(data.addresses)" :key="a.value">
          <ChannelMark v-for="c in a.channels" :key="c" :channel="c" />
          <span class="value">{{ a.shown }}</span>
          <span
            class="small push"
            :class="{ bad: a.health === 'dead' || a.health === 'failing', quiet: a.health !== 'dead' }"
            >{{ health[a.health] }}</span
          >
          <span v-if="consent(a)" class="small consent">{{ consent(a) }}</span>
        </li>
      </ul>
      <h3>Reads</h3>
      <p>{{ data.speaks || 'language not known' }}</p>
      <h3>Groups</h3>
      <p v-if="!data.groups.length" class="quiet">none</p>
      <ul class="list">
        <li v-for="g in data.groups" :key="g">{{ g }}</li>
      </ul>
      <template v-if="data.ties.length">
        <h3>Ties</h3>
        <ul class="list">
          <li v-for="t in data.ties" :key="t.id" :class="{ barred: t.barred }">
            <span class="quiet small">{{ t.guardian ? 'guardian' : 'dependent' }}</span>
            <button class="link" @click="person = t.id">
              <bdi>{{ t.name }}</bdi>
            </button>
            <span class="small push" :class="t.barred ? 'bad' : 'quiet'">{{ tie(t) }}</span>
          </li>
        </ul>
      </template>
      <p class="quiet small id">
        {{ data.externalId ? `Id in your files: ${data.externalId}` : 'No id in your files' }}
      </p>
    </template>
  </SideDrawer>
</template>

<style scoped>
h3 {
  margin: 16px 0 6px;
}

.list {
  list-style: none;
  margin: 0;
  padding: 0;
}

.list li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 8px;
  padding: 5px 0;
  border-bottom: 1px solid var(--hair);
}

.value {
  overflow-wrap: anywhere;
  font-variant-numeric: tabular-nums;
}

.consent {
  flex-basis: 100%;
  padding-inline-start: 22px;
  color: var(--lampink);
}

.barred {
  background: var(--bricksoft);
  margin-inline: -8px;
  padding-inline: 8px !important;
}

.id {
  margin-top: 18px;
}
</style>
