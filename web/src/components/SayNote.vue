<script setup lang="ts">
/** Says what went wrong, what to mind, or what was done. */
defineProps<{ kind: 'bad' | 'mind' | 'good' }>()
</script>

<template>
  <div class="say" :class="kind" :role="kind === 'bad' ? 'alert' : 'status'"><slot /></div>
</template>

<style scoped>
.say {
  border-left: 3px solid var(--slate);
  border-radius: 0 4px 4px 0;
  padding: 6px 10px;
  font-size: 13px;
  background: var(--pane);
}

.bad {
  color: var(--ink);
  border-color: var(--brick);
  background: var(--bricksoft);
}

.mind {
  color: var(--ink);
  border-color: var(--lamp);
  background: var(--lampsoft);
}

.good {
  border-color: var(--sea);
  background: var(--seasoft);
  color: var(--ink);
}
</style>
