<script setup lang="ts">
import { pieces } from './own'

/** What a message says, with links that can be followed. */
defineProps<{ text: string; language: string; rtl?: boolean }>()
</script>

<template>
  <p class="said" :dir="rtl ? 'rtl' : 'auto'" :lang="language">
    <template v-for="(p, i) in pieces(text)" :key="i"
      ><a v-if="p.link" :href="p.text" rel="noreferrer">{{ p.text }}</a
      ><template v-else>{{ p.text }}</template></template
    >
  </p>
</template>

<style scoped>
.said {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
</style>
