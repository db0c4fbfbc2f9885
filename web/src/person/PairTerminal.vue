<script setup lang="ts">
import { ref } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { useSaid } from '@/composables/said'
import TextField from '@/controls/TextField.vue'

/** A vehicle terminal becomes a device of somebody by the code that it shows. */
const { person } = defineProps<{ person: Schemas['PersonDetailView'] }>()
const emit = defineEmits<{ leave: [] }>()
const { done, fail } = useSaid()
const code = ref('')
const address = `${location.host}/terminal`
async function pair() {
  try {
    const path = { id: person.id }
    await done(
      await take(api.POST('/people/{id}/terminals', { params: { path }, body: { code: code.value } })),
    )
    emit('leave')
  } catch (problem) {
    fail(problem)
  }
}
</script>

<template>
  <form class="pair" aria-label="Pair a terminal" @submit.prevent="pair">
    <p class="small">
      Open <b>{{ address }}</b> on the terminal in their vehicle. It shows a code.
    </p>
    <div class="row">
      <TextField
        v-model="code"
        aria-label="The code that it shows"
        placeholder="its code"
        autofocus
        autocomplete="off"
      />
      <v-btn type="submit" size="small" color="primary" variant="flat" :disabled="!code.trim()"
        >Pair it</v-btn
      >
      <v-btn size="small" @click="emit('leave')">Leave it</v-btn>
    </div>
  </form>
</template>

<style scoped>
.pair {
  width: 100%;
}

.row {
  margin-top: 6px;
}

.row :deep(.v-input) {
  flex: 0 0 170px;
}
</style>
