<script setup lang="ts">
import { computed } from 'vue'
import { thousands } from '@/composables/words'
import AnswerMark from './AnswerMark.vue'
import type { Share } from './answers'

/** Everybody who was asked as one bar, with the count of each share beneath. */
const props = defineProps<{ shares: Share[] }>()
const some = computed(() => props.shares.filter((s) => s.people))
</script>

<template>
  <div>
    <div class="bar" aria-hidden="true">
      <i v-for="s in some" :key="s.key" :class="s.look" :style="{ flexGrow: s.people }" />
    </div>
    <ul>
      <li v-for="s in shares" :key="s.key">
        <AnswerMark :look="s.look" :number="s.number" />
        <b class="num">{{ thousands(s.people) }}</b> <bdi>{{ s.words }}</bdi>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 2px;
  height: 9px;
}

.bar i {
  min-width: 3px;
  background: var(--line);
}

.bar .counts {
  background: var(--sea);
}

.bar .attend {
  background: var(--brick);
}

.bar .plain {
  background: var(--slate);
}

.bar .wrote {
  background: var(--lamp);
}

.bar .missed {
  background: var(--bricksoft);
}

ul {
  list-style: none;
  margin: 7px 0 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 3px 18px;
}

li {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
