<script setup lang="ts">
defineProps<{ title: string; note?: string }>()
</script>

<template>
  <div class="cap">
    <h2>{{ title }}</h2>
    <span class="quiet small"
      ><slot>{{ note }}</slot></span
    >
  </div>
</template>

<style scoped>
.cap {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
  margin-bottom: 8px;
}
</style>
