<script setup lang="ts">
import { ref } from 'vue'

/** Where a roster file is chosen, or dropped. */
defineProps<{ reading: boolean }>()
const emit = defineEmits<{ give: [file: File] }>()
const over = ref(false)

function give(file?: File) {
  if (file) emit('give', file)
}

function dropped(event: DragEvent) {
  over.value = false
  give(event.dataTransfer?.files[0])
}
</script>

<template>
  <label
    class="drop sheet"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="dropped"
  >
    <h2>Choose a roster file, or drop it here</h2>
    <span class="quiet">
      A spreadsheet (CSV or XLSX), an address book (vCard) or a OneRoster bundle (ZIP). People with their
      roles, languages, numbers, mail addresses and groups; for dependents, their guardians. Nothing is loaded
      before you have seen how it was understood.
    </span>
    <input
      type="file"
      accept=".csv,.txt,.tsv,.xlsx,.vcf,.zip,text/csv"
      aria-label="Roster file"
      @change="give(($event.target as HTMLInputElement).files?.[0])"
    />
    <span v-if="reading" class="quiet">Reading…</span>
  </label>
</template>

<style scoped>
.drop {
  border-style: dashed;
  border-width: 1.5px;
  padding: 44px;
  display: flex;
  flex-direction: column;
  gap: 10px;
  align-items: center;
  text-align: center;
}

.drop .quiet {
  max-width: 62ch;
}

.drop.over,
.drop:focus-within {
  border-color: var(--deep2);
  background: var(--pane);
}
</style>
