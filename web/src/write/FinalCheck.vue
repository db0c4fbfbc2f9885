<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Plan } from '@/api/client'
import { people } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'

const open = defineModel<boolean>({ required: true })
/** With an asker, the plan is theirs, and sending it is the yes that they asked for. */
const props = defineProps<{ plan: Plan; title: string; sending: boolean; problem: string; asker?: string }>()
const emit = defineEmits<{
  send: [typed: number]
  ask: []
  mend: [place: Plan['problems'][number]['mend']]
}>()

const warnings = computed(() => props.plan.problems.filter((p) => !p.blocks))
const typed = ref('')
watch(open, () => (typed.value = ''))
const asks = computed(() => props.plan.secondYes && !props.asker)
const act = () => (asks.value ? emit('ask') : emit('send', Number(typed.value)))
const ready = computed(
  () =>
    !props.sending &&
    props.plan.sendable &&
    (!props.plan.confirm || Number(typed.value) === props.plan.recipients),
)
</script>

<template>
  <v-dialog v-model="open" max-width="640" aria-label="Final check" scrollable>
    <section class="check sheet">
      <header>
        <h2>
          {{ asker ? `${asker} asks for your yes:` : 'Before it leaves:' }} <bdi>“{{ title }}”</bdi>
        </h2>
      </header>
      <div class="middle">
        <ol>
          <li v-for="line in plan.sentences" :key="line">{{ line }}</li>
        </ol>
        <ul v-if="warnings.length" class="warnings" aria-label="To look at again">
          <li v-for="w in warnings" :key="w.sentence">
            <span dir="auto">{{ w.sentence }}</span>
            <button class="link small" @click="emit('mend', w.mend)">
              {{ w.mend === 'left-out' ? 'See who' : 'Look at it' }}
            </button>
          </li>
        </ul>
      </div>
      <p v-if="asks" class="quiet small">
        Somebody else who may write to these people must say yes. They find it under Outgoing; a change takes
        the question back.
      </p>
      <SayNote v-if="problem" kind="bad">{{ problem }}</SayNote>
      <form class="row" @submit.prevent="ready && act()">
        <v-btn @click="open = false">Back to writing</v-btn>
        <label v-if="plan.confirm" class="push confirm"
          >Type the number of people
          <TextField
            v-model="typed"
            inputmode="numeric"
            autocomplete="off"
            aria-label="The number of people"
            autofocus
        /></label>
        <v-btn
          :class="{ push: !plan.confirm }"
          type="submit"
          color="lamp"
          variant="flat"
          :autofocus="!plan.confirm"
          :disabled="!ready"
          >{{
            asks
              ? 'Ask for a second yes'
              : `${asker ? 'Say yes and send' : 'Send'} to ${people(plan.recipients)}`
          }}</v-btn
        >
      </form>
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
  max-height: 100%;
}

.middle {
  overflow-y: auto;
}

ol,
.warnings {
  margin: 0;
  padding: 0;
  list-style: none;
}

ol li {
  padding: 7px 0;
  border-bottom: 1px solid var(--hair);
  font-size: 14.5px;
}

ol li:first-child {
  font-weight: 600;
}

.warnings {
  margin-top: 10px;
  background: var(--lampsoft);
  border-left: 3px solid var(--lamp);
  border-radius: 0 4px 4px 0;
}

.warnings li {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 12px;
  padding: 6px 10px;
}

.warnings li + li {
  border-top: 1px solid #f3dfb4;
}

.warnings .link {
  white-space: nowrap;
}

.confirm {
  display: flex;
  align-items: center;
  gap: 8px;
}

.confirm .control {
  width: 92px;
}
</style>
