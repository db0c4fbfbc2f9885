<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { thousands } from '@/composables/words'
import ReachBar from '@/components/ReachBar.vue'
import type { Search } from './clauses'

/** Messages that were found, whatever their state, in an order that the headings set. */
const props = defineProps<{ messages: Schemas['MessageView'][]; order: NonNullable<Search['order']> }>()
const emit = defineEmits<{ order: [order: NonNullable<Search['order']>] }>()
const times = useTimes()

const states: Record<Schemas['MessageView']['state'], string> = {
  draft: 'draft',
  held: 'on hold',
  sending: 'going out',
  sent: '',
  stopped: 'stopped',
}
const path = (m: Schemas['MessageView']) => (m.state === 'draft' ? `/write/${m.id}` : `/outgoing/${m.id}`)

/** The day's heading turns the order around. */
const byDay = () => emit('order', props.order === 'newest' || props.order === '' ? 'oldest' : 'newest')
const sorted = (order: string) => (props.order === order ? 'descending' : undefined)
</script>

<template>
  <table class="plain sheet">
    <thead>
      <tr>
        <th :aria-sort="order === 'title' ? 'ascending' : undefined">
          <button @click="emit('order', 'title')">Message</button>
        </th>
        <th class="num" :aria-sort="sorted('recipients')">
          <button @click="emit('order', 'recipients')">Recipients</button>
        </th>
        <th class="num">Reached</th>
        <th class="num" :aria-sort="sorted('not-reached')">
          <button @click="emit('order', 'not-reached')">Missed</button>
        </th>
        <th>How far it got</th>
        <th :aria-sort="order === 'oldest' ? 'ascending' : order === 'title' ? undefined : 'descending'">
          <button @click="byDay">Left</button>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="m in messages" :key="m.id" class="go" @click="$router.push(path(m))">
        <td class="title">
          <router-link :to="path(m)" @click.stop
            ><bdi>{{ m.title }}</bdi></router-link
          >
          <div class="quiet small">
            {{ m.urgency }} · {{ m.sender || m.author
            }}<template v-if="states[m.state]"> · {{ states[m.state] }}</template>
          </div>
        </td>
        <template v-if="m.state === 'draft'">
          <td />
          <td />
          <td />
          <td />
        </template>
        <template v-else>
          <td class="num">{{ thousands(m.figures.recipients) }}</td>
          <td class="num">{{ thousands(m.figures.reached) }}</td>
          <td class="num" :class="{ bad: m.figures.notReached }">
            {{ thousands(m.figures.notReached + m.figures.leftOut) }}
          </td>
          <td class="bar"><ReachBar :figures="m.figures" /></td>
        </template>
        <td>{{ times.moment(m.leavesAt ?? m.updatedAt) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.title {
  width: 38%;
}

.title a {
  font-weight: 600;
  text-decoration: none;
}

.bar {
  width: 160px;
  vertical-align: middle;
}

th button {
  border: 0;
  background: none;
  font: inherit;
  color: inherit;
  padding: 0;
  cursor: pointer;
}

th button:hover {
  text-decoration: underline;
}

th[aria-sort] button {
  color: var(--ink);
  font-weight: 700;
}
</style>
