<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useTimes } from '@/composables/session'
import { count, stateWords, things } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'

/** What somebody was sent of late. */
const { person } = defineProps<{ person: Schemas['PersonDetailView'] }>()
const { close } = usePersonDrawer()
const { moment } = useTimes()

/** What they got, counted by channel. */
const got = computed(() => {
  const by = new Map<Schemas['GotView']['channel'], { all: number; reached: number }>()
  for (const g of person.got) {
    const n = by.get(g.channel) ?? { all: 0, reached: 0 }
    n.all++
    if (g.reached) n.reached++
    by.set(g.channel, n)
  }
  return [...by]
})
const answered = computed(() => person.got.filter((g) => g.state === 'answered').length)
</script>

<template>
  <section>
    <h3>The last 30 days</h3>
    <p v-if="!person.got.length" class="quiet">They got nothing.</p>
    <template v-else>
      <p class="got">
        <span v-for="[c, n] in got" :key="c" class="row"
          ><ChannelMark :channel="c" />{{ count(n.all, ...things[c]) }},
          {{ n.reached === n.all ? 'all' : n.reached }} arrived</span
        >
        <span>{{ answered ? count(answered, 'answer', 'answers') : 'no answers' }}</span>
      </p>
      <ul class="list">
        <li v-for="(g, i) in person.got.slice(0, 8)" :key="i">
          <ChannelMark :channel="g.channel" :state="g.state" />
          <router-link v-if="g.message" :to="`/outgoing/${g.message}`" @click="close()">{{
            g.title
          }}</router-link>
          <span v-else class="quiet">{{ g.title }}</span>
          <span class="quiet small push">{{ stateWords[g.state] }}, {{ moment(g.at) }}</span>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped src="./lists.css"></style>

<style scoped>
.got {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin-bottom: 4px;
}

.got .row {
  gap: 5px;
}
</style>
