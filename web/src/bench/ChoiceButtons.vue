<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** The answers that somebody can press in something that they got. */
defineProps<{ item: Schemas['BenchItem']; busy: boolean }>()
const emit = defineEmits<{ press: [key: string] }>()
</script>

<template>
  <div v-if="item.choices?.length" class="row choices">
    <v-btn v-for="c in item.choices" :key="c.key" :disabled="busy" @click="emit('press', c.key)"
      ><span v-if="!c.words">Press&nbsp;</span>{{ c.key }}&nbsp;<bdi>{{ c.words }}</bdi></v-btn
    >
  </div>
</template>

<style scoped>
.choices {
  flex-wrap: wrap;
  margin-top: 6px;
}
</style>
