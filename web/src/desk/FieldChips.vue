<script setup lang="ts">
/** The fields that can be put into a text. */
defineProps<{ fields: string[] }>()
const emit = defineEmits<{ insert: [name: string] }>()
</script>

<template>
  <div class="fields small">
    <span class="quiet">Insert:</span>
    <button v-for="f in fields" :key="f" class="field" @click="emit('insert', f)">{{ f }}</button>
  </div>
</template>

<style scoped>
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: baseline;
}

.field {
  border: 0;
  border-radius: 3px;
  background: #e3edf0;
  color: var(--deep2);
  font: inherit;
  font-weight: 600;
  padding: 1px 6px;
  cursor: pointer;
}

.field:hover {
  background: #d0e0e5;
}
</style>
