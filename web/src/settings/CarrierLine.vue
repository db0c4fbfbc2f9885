<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { thousands, things } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import { conditionOf, whereWords } from './carriers'

/** The carriers of one channel, in the order in which they are tried. */
defineProps<{
  line: Schemas['CarriedView']
  standIns: boolean
  pushKey: string
  chosen?: number
}>()
const emit = defineEmits<{ choose: [id: number]; first: [id: number] }>()
const times = useTimes()
const names = { email: 'Emails', text: 'Texts', voice: 'Calls', push: 'Pushes' }
const ofToday = (n: number) => `${thousands(n)} today`
</script>

<template>
  <section class="sheet" :aria-label="names[line.channel]">
    <header>
      <ChannelMark :channel="line.channel" />
      <h2>{{ names[line.channel] }}</h2>
      <span v-if="line.off" class="bad small">off: nothing carries them</span>
      <button v-if="line.channel !== 'push'" class="link small add" @click="emit('choose', 0)">
        Add a carrier…
      </button>
    </header>
    <p v-if="line.channel === 'push'" class="row-line small">
      <span
        >To the push services of people’s own devices. {{ standIns ? 'The stand-ins play them.' : '' }}</span
      >
      <span class="quiet num">{{ ofToday(line.today) }}</span>
    </p>
    <p v-else-if="standIns && !line.off" class="row-line small">
      <span>The stand-in takes them.</span>
      <span class="quiet num">{{ ofToday(line.today) }}</span>
    </p>
    <p v-else-if="line.started" class="row-line small">
      <span
        ><b class="where">{{ line.started }}</b>
        <span class="quiet"
          >was named when the program was started, and wins over what stands here.</span
        ></span
      >
      <span class="quiet num">{{ ofToday(line.today) }}</span>
    </p>
    <p v-if="line.trouble" class="trouble small">
      “{{ line.trouble.detail }}” since {{ times.moment(line.trouble.since) }}, tried again
      {{ times.clock(line.trouble.retryAt) }}
    </p>
    <ol v-if="line.list.length">
      <li
        v-for="(c, i) in line.list"
        :key="c.id"
        :class="{ on: chosen === c.id, idle: !c.used }"
        @click="emit('choose', c.id)"
      >
        <span class="rank num">{{ i + 1 }}</span>
        <span class="what">
          <button class="link name" @click.stop="emit('choose', c.id)">{{ c.setup.name }}</button>
          <span class="quiet small where">{{ whereWords(c.setup) }}</span>
          <span v-if="c.trouble" class="trouble small">
            “{{ c.trouble.detail }}” since {{ times.moment(c.trouble.since) }}, tried again
            {{ times.clock(c.trouble.retryAt) }}
          </span>
        </span>
        <span class="small state" :class="conditionOf(c, standIns).kind">{{
          conditionOf(c, standIns).words
        }}</span>
        <span class="quiet small num today">{{ ofToday(c.today) }}</span>
        <button v-if="i" class="link small" @click.stop="emit('first', c.id)">
          Put first<span class="sr-only">: {{ c.setup.name }}</span>
        </button>
        <span v-else />
      </li>
    </ol>
    <p v-else-if="line.off" class="quiet small">
      Nobody gets {{ things[line.channel][1] }} until there is a carrier for them.
    </p>
  </section>
</template>

<style scoped>
section {
  padding: 10px 14px;
}

header {
  display: flex;
  align-items: center;
  gap: 8px;
}

h2 {
  margin: 0;
}

.add {
  margin-inline-start: auto;
}

p {
  margin: 6px 0 2px;
}

.row-line {
  display: flex;
  gap: 12px;
  justify-content: space-between;
}

.row-line .num {
  white-space: nowrap;
}

ol {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr) minmax(0, 130px) 74px 58px;
  gap: 10px;
  align-items: baseline;
  padding: 6px 4px;
  border-top: 1px solid var(--hair);
  cursor: pointer;
}

li.on {
  background: #e3edf0;
}

.rank {
  color: var(--ink2);
  font-size: 12px;
}

.what {
  display: grid;
}

.name {
  justify-self: start;
  text-align: start;
  overflow-wrap: anywhere;
}

.where {
  overflow-wrap: anywhere;
}

.today {
  text-align: end;
}

.state.good {
  color: var(--sea);
}

.state.bad,
.trouble {
  color: var(--brick);
}

.state.quiet {
  color: var(--ink2);
}
</style>
