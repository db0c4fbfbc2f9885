<script setup lang="ts">
import { computed, ref } from 'vue'
import WriteToUs from '@/bench/WriteToUs.vue'
import TextField from '@/controls/TextField.vue'

/** Somebody whom nobody knows, with a number or a mailbox of any kind. */
const from = ref('+44 7700 900872')
const ways = computed(() => {
  const channels = from.value.includes('@') ? (['email'] as const) : (['text', 'voice'] as const)
  return channels.map((channel) => ({ channel, from: from.value }))
})
</script>

<template>
  <h3>Somebody unknown</h3>
  <TextField v-model="from" class="from" aria-label="Number or mailbox of somebody unknown" />
  <WriteToUs :ways="ways" />
</template>

<style scoped>
h3 {
  margin: 14px 0 4px;
}

.from {
  width: 100%;
}
</style>
