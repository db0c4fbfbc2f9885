<script setup lang="ts">
import { computed } from 'vue'
import { copyWords, type CopyUse } from '@/composables/copies'
import { count, people, thousands } from '@/composables/words'
import PaneHead from '@/components/PaneHead.vue'
import CopyBar from './CopyBar.vue'

/** The languages in which a message is or could be. */
const props = defineProps<{ copies: CopyUse[]; message: number; language: string }>()
const readers = computed(() => props.copies.reduce((n, c) => n + c.people, 0))
const current = computed(() => props.copies.find((c) => c.language === props.language))
const own = (tag: string) =>
  new Intl.DisplayNames([tag], { type: 'language', fallback: 'none' }).of(tag) ?? ''
</script>

<template>
  <nav class="list" aria-label="Copies">
    <PaneHead title="Copies" :note="people(readers)" />
    <router-link
      v-for="c in copies"
      :key="c.language"
      :to="`/write/${message}/copies/${c.language}`"
      replace
      class="one"
      :class="{ on: c.language === language }"
    >
      <span
        ><b>{{ c.name }}</b> <bdi class="quiet" :lang="c.language">{{ own(c.language) }}</bdi></span
      >
      <b class="num">{{ thousands(c.people) }}</b>
      <CopyBar :copy="c" class="bar" />
      <span class="small quiet how">{{ copyWords(c) }}</span>
    </router-link>
    <p v-if="current?.texts" class="small texts">
      As a text in {{ current.name }}: {{ count(current.parts, 'part', 'parts') }} at most,
      {{ current.alphabet === 'ucs2' ? 'long' : 'short' }} alphabet ·
      {{ count(current.texts, 'text', 'texts') }},
      {{ current.cost }}
    </p>
    <slot />
    <p v-if="!copies.length" class="quiet small">Nobody whom this message reaches reads another language.</p>
  </nav>
</template>

<style scoped>
.list {
  padding: 12px 10px;
}

.texts {
  margin: 10px 10px 0;
}

.one {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 8px;
  padding: 8px 10px;
  border: 1px solid transparent;
  border-radius: 6px;
  color: inherit;
  text-decoration: none;
}

.one:hover {
  background: var(--pane);
}

.one.on {
  background: var(--sheet);
  border-color: var(--line);
  box-shadow: inset 3px 0 0 var(--deep2);
}

.bar,
.how {
  grid-column: 1 / -1;
}
</style>
