<script setup lang="ts">
import { useTimes } from '@/composables/session'
import ChannelMark from '@/components/ChannelMark.vue'
import AnswerMark from './AnswerMark.vue'
import { lookOf, type BoardView } from './answers'

/** The last answers that came, the newest first. */
defineProps<{ board: BoardView }>()
const times = useTimes()
</script>

<template>
  <div>
    <p v-if="!board.latest.length" class="quiet">Nobody has answered yet.</p>
    <ul v-else aria-label="Answers as they come">
      <li v-for="(a, i) in board.latest" :key="i">
        <AnswerMark :look="lookOf(board.question, a.answer)" :number="a.answer" />
        <span class="who"
          ><bdi>{{ a.name || 'Somebody' }}</bdi>
          <bdi v-if="a.remark" class="small remark">“{{ a.remark }}”</bdi></span
        >
        <span class="quiet small row">
          <ChannelMark v-if="a.channel" :channel="a.channel" />
          <span v-else :title="`written down by ${a.by}`">by hand</span>
          {{ times.moment(a.at) }}
        </span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  gap: 8px;
  padding: 4px 0;
  border-bottom: 1px solid var(--hair);
}

.who {
  overflow-wrap: anywhere;
}

.remark {
  display: block;
}
</style>
