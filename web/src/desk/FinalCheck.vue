<script setup lang="ts">
import { computed } from 'vue'
import type { Plan } from '@/api/client'
import { people } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ plan: Plan; title: string; sending: boolean; problem: string }>()
const emit = defineEmits<{ send: [] }>()

const warnings = computed(() => props.plan.problems.filter((p) => !p.blocks))
</script>

<template>
  <v-dialog v-model="open" max-width="620" aria-label="Final check">
    <section class="check sheet">
      <header>
        <h2>
          Before it leaves: <bdi>“{{ title }}”</bdi>
        </h2>
      </header>
      <ol>
        <li v-for="line in plan.sentences" :key="line">{{ line }}</li>
      </ol>
      <SayNote v-for="w in warnings" :key="w.sentence" kind="mind">{{ w.sentence }}</SayNote>
      <SayNote v-if="problem" kind="bad">{{ problem }}</SayNote>
      <div class="row">
        <v-btn @click="open = false">Back to writing</v-btn>
        <v-btn class="push" color="lamp" variant="flat" autofocus :disabled="sending" @click="emit('send')"
          >Send to {{ people(plan.recipients) }}</v-btn
        >
      </div>
    </section>
  </v-dialog>
</template>

<style scoped>
.check {
  padding: 18px 20px 16px;
  display: flex;
  flex-direction: column;
  gap: 12px;
  border-top: 4px solid var(--lamp);
}

ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  padding: 7px 0;
  border-bottom: 1px solid var(--hair);
  font-size: 14.5px;
}

li:first-child {
  font-weight: 600;
}
</style>
