<script setup lang="ts">
/** A button that takes a file. */
defineProps<{ label: string; accept: string; busy?: boolean }>()
const emit = defineEmits<{ give: [file: File] }>()

function picked(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) emit('give', file)
  input.value = '' // the same file can be given again
}
</script>

<template>
  <label class="pick" :class="{ busy }"
    >{{ label }}<input type="file" :accept="accept" :aria-label="label" :disabled="busy" @change="picked"
  /></label>
</template>

<style scoped>
.pick {
  position: relative;
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 6px 14px;
  font-weight: 600;
  background: var(--sheet);
  cursor: pointer;
}

.pick:focus-within {
  outline: 2px solid var(--deep2);
  outline-offset: 2px;
}

.busy {
  color: var(--ink2);
}

input {
  position: absolute;
  inset: 0;
  opacity: 0;
  cursor: pointer;
}
</style>
