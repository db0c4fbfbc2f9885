<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { thousands } from '@/composables/words'
import { sharesOf } from '@/board/answers'
import ShareBar from '@/board/ShareBar.vue'

/** What was answered to the question of a message. */
const props = defineProps<{ message: number; asks: Schemas['AsksView'] }>()
const shares = computed(() => sharesOf(props.asks.question, props.asks.tally))
const answered = computed(() => props.asks.tally.choices.reduce((sum, n) => sum + n, 0))
</script>

<template>
  <section class="card sheet" aria-label="Answers">
    <div class="cap">
      <h3>Answers</h3>
      <span class="quiet small"
        >{{ thousands(answered) }} of {{ thousands(asks.tally.asked) }} have answered<template
          v-if="asks.question.needed"
          >, {{ thousands(asks.tally.fills) }} of {{ thousands(asks.question.needed) }} needed</template
        ></span
      >
      <router-link class="link small push" :to="`/outgoing/${message}/board`">Open the board</router-link>
    </div>
    <ShareBar :shares="shares" />
  </section>
</template>

<style scoped>
.card {
  padding: 9px 12px;
}

.cap {
  display: flex;
  gap: 10px;
  align-items: baseline;
  margin-bottom: 7px;
}
</style>
