<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useTimes } from '@/composables/session'
import { channelWords, count, stateWords, things } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import SaidContent from './SaidContent.vue'

/** One recipient's story: why they were chosen, each try, and what they got. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ message: number; recipient: number }>()
const { show } = usePersonDrawer()
const times = useTimes()

const { data, error } = useQuery({
  queryKey: ['record', computed(() => props.message), 'story', computed(() => props.recipient)],
  queryFn: () =>
    take(
      api.GET('/messages/{id}/recipients/{recipient}', {
        params: { path: { id: props.message, recipient: props.recipient } },
      }),
    ),
  enabled: () => open.value && props.recipient > 0,
  staleTime: 0,
})

const endings: Record<Schemas['StoryView']['outcome'], string> = {
  reached: 'Reached',
  answered: 'Reached, and answered',
  waiting: 'Still waiting',
  'not-reached': 'Not reached',
  stopped: 'Stopped before it left',
}

/** An event in words. */
function happened(e: Schemas['EventView']): string {
  if (e.report) return stateWords[e.state]
  if (e.state === 'carrier') return `the ${e.carrier || 'carrier'} took it`
  if (e.state === 'retrying') return `the ${e.carrier || 'carrier'} did not take it; tried again`
  return `the ${e.carrier || 'carrier'} did not take it`
}
</script>

<template>
  <SideDrawer
    v-model="open"
    wide
    :title="data?.name ?? ''"
    :note="
      data
        ? `${endings[data.outcome]}${data.reachedAt ? `, ${times.moment(data.reachedAt)}` : ''} · in ${data.copy}`
        : ''
    "
  >
    <template #actions>
      <button v-if="data?.person" class="link small" @click="((open = false), show(data.person))">
        Their details
      </button>
    </template>
    <p v-if="error" class="bad">{{ error.message }}</p>
    <template v-if="data">
      <h3>Why they were chosen</h3>
      <p>{{ data.why }}</p>
      <template v-if="data.aside.length">
        <h3>Addresses that could not be used</h3>
        <ul class="aside">
          <li v-for="a in data.aside" :key="a.channel + a.address">
            <ChannelMark :channel="a.channel" /><bdi>{{ a.address }}</bdi
            ><span class="quiet">{{ a.why }}</span>
          </li>
        </ul>
      </template>
      <section v-for="(d, i) in data.sent" :key="i" class="sent sheet" :aria-label="channelWords[d.channel]">
        <header>
          <ChannelMark :channel="d.channel" :state="d.state" />
          <b
            >{{ channelWords[d.channel] }} to <bdi>{{ d.address }}</bdi></b
          >
          <span class="quiet small push">step {{ d.step }} · {{ d.cost }}</span>
        </header>
        <ol class="events">
          <li>
            <time class="num">{{ times.exact(d.freeAt) }}</time><span
              >free to leave, {{ times.day(d.freeAt) }}</span
            >
          </li>
          <li v-for="(e, n) in d.events" :key="n">
            <time class="num">{{ times.exact(e.at) }}</time>
            <span :class="{ bad: e.state === 'failed' || e.state === 'expired' }">
              {{ happened(e)
              }}<template v-if="e.plainly"
                >. {{ e.plainly }} <span class="quiet small">“{{ e.said }}”</span></template
              ><template v-else-if="e.said && e.said !== stateWords[e.state]">: {{ e.said }}</template>
            </span>
          </li>
          <li v-if="!d.events.length">
            <time class="num">{{ times.exact(d.at) }}</time><span>{{ d.detail || stateWords[d.state] }}</span>
          </li>
        </ol>
        <p v-if="d.shared > 1" class="quiet small">
          The same {{ things[d.channel][0] }} counts for {{ count(d.shared - 1, 'other', 'others') }} too.
        </p>
        <SaidContent :delivery="d" />
      </section>
      <p v-if="!data.sent.length" class="quiet">Nothing was planned for them.</p>
    </template>
  </SideDrawer>
</template>

<style scoped>
h3 {
  margin-top: 12px;
}

h3:first-child {
  margin-top: 0;
}

.aside {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}

.aside li {
  display: flex;
  align-items: center;
  gap: 7px;
  padding: 2px 0;
}

.sent {
  margin-top: 12px;
  padding: 9px 12px 11px;
}

.sent header {
  display: flex;
  align-items: center;
  gap: 7px;
}

.events {
  list-style: none;
  margin: 7px 0;
  padding: 0;
  border-inline-start: 2px solid var(--line);
}

.events li {
  display: grid;
  grid-template-columns: 62px minmax(0, 1fr);
  gap: 8px;
  padding: 1px 0 1px 10px;
}

.events time {
  color: var(--ink2);
}
</style>
