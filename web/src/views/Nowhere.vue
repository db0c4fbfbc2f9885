<script setup lang="ts">
import EmptyNote from '@/components/EmptyNote.vue'
</script>

<template>
  <EmptyNote title="There is nothing at this address">
    It may have been a draft that was deleted.
    <template #action><v-btn to="/outgoing">Go to Outgoing</v-btn></template>
  </EmptyNote>
</template>
