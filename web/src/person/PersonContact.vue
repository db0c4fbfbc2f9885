<script setup lang="ts">
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { together } from '@/composables/addresses'
import { usePersonDrawer } from '@/composables/personDrawer'
import { dayWords, healthWords } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'

/** How somebody is reached, with whom they are tied, and in which groups they are. */
const { person } = defineProps<{ person: Schemas['PersonDetailView'] }>()
const { close, show } = usePersonDrawer()
const router = useRouter()

function consent(a: Schemas['AddressView']): string {
  if (a.channel === 'push' && a.carrierStop) return 'push is switched off on the device'
  if (a.channel === 'push') return a.connected ? '' : 'not connected yet: open a personal link on it'
  if (a.carrierStop) return 'the carrier recorded a stop: nothing gets through'
  const declined = [a.declinesRoutine && 'routine', a.declinesTimely && 'timely'].filter(Boolean)
  return declined.length ? `declines ${declined.join(' and ')} messages; emergencies still come` : ''
}

function tie(t: Schemas['TieView']): string {
  if (t.barred) return 'contact barred'
  return t.receives ? 'receives messages' : 'does not receive messages'
}

function openGroup(id: number) {
  close()
  void router.push({ name: 'groups', query: { group: id } })
}
</script>

<template>
  <section>
    <h3>Addresses, in order</h3>
    <p v-if="!person.addresses.length" class="quiet">None of their own.</p>
    <ol class="list">
      <li v-for="a in together(person.addresses)" :key="a.value">
        <ChannelMark v-for="c in a.channels" :key="c" :channel="c" />
        <span class="value">{{ a.shown }}</span>
        <span class="quiet small">{{ a.label }}</span>
        <span
          class="small push"
          :class="{ bad: a.health === 'dead' || a.health === 'failing', quiet: a.health !== 'dead' }"
          >{{ healthWords[a.health ?? 'untried'] }}</span
        >
        <span v-if="a.lastFailure" class="small under bad"
          >{{ a.lastFailure }}{{ a.failedOn ? `, ${dayWords(a.failedOn)}` : '' }}</span
        >
        <span v-if="consent(a)" class="small under mind">{{ consent(a) }}</span>
        <span v-if="a.checkedOn" class="small under quiet">checked on {{ dayWords(a.checkedOn) }}</span>
      </li>
    </ol>
    <template v-if="person.ties.length">
      <h3>Ties</h3>
      <ul class="list">
        <li v-for="t in person.ties" :key="t.id" :class="{ barred: t.barred }">
          <span class="kind quiet small">{{ t.guardian ? 'guardian' : 'dependent' }}</span>
          <button class="link" @click="show(t.id)">
            <bdi>{{ t.name }}</bdi>
          </button>
          <span v-if="t.guardian && !t.barred && !t.reached" class="bad small">cannot be reached</span>
          <span class="small push" :class="t.barred ? 'stop' : 'quiet'">{{ tie(t) }}</span>
        </li>
      </ul>
    </template>
    <h3>Groups</h3>
    <p v-if="!person.in.length" class="quiet">In none.</p>
    <ul class="list">
      <li v-for="g in person.in" :key="g.id">
        <button class="link" @click="openGroup(g.id)">
          <bdi>{{ g.name }}</bdi>
        </button>
        <span v-if="g.within.length" class="quiet small">in {{ g.within.join(', ') }}</span>
        <span class="quiet small push why">{{ g.why }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped src="./lists.css"></style>

<style scoped>
.value {
  overflow-wrap: anywhere;
  font-variant-numeric: tabular-nums;
}

.kind {
  width: 68px;
}

.why {
  max-width: 55%;
  text-align: end;
}

.barred {
  background: var(--bricksoft);
  border-inline-start: 3px solid var(--brick);
  margin-inline: -8px;
  padding-inline: 8px !important;
}

.stop {
  color: #fff;
  background: var(--brick);
  border-radius: 3px;
  padding: 1px 7px;
  font-weight: 600;
}
</style>
