<script setup lang="ts">
defineProps<{ title: string; note?: string }>()
</script>

<template>
  <header class="head">
    <h1 dir="auto" :title="title">{{ title }}</h1>
    <slot name="beside" />
    <span v-if="note" class="quiet small note">{{ note }}</span>
    <div class="actions"><slot /></div>
  </header>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 14px;
  min-height: 56px;
  padding: 8px 16px;
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}

h1 {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  flex: 0 1 auto;
}

.note {
  flex: 0 1 auto;
  min-width: 0;
}

.actions {
  margin-inline-start: auto;
  display: flex;
  gap: 10px;
  flex: none;
  align-items: center;
}
</style>
