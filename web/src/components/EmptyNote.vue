<script setup lang="ts">
/** Says what belongs in an empty place and gives the first action. */
defineProps<{ title: string }>()
</script>

<template>
  <div class="empty">
    <h2>{{ title }}</h2>
    <p class="quiet"><slot /></p>
    <div class="row"><slot name="action" /></div>
  </div>
</template>

<style scoped>
.empty {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 10px;
  padding: 48px 24px;
  text-align: center;
}

p {
  max-width: 46ch;
}
</style>
