<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Plan } from '@/api/client'
import { people } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'
import TimeField from '@/controls/TimeField.vue'

const open = defineModel<boolean>({ required: true })
/** With an asker, the plan is theirs, and sending it is the yes that they asked for. */
const props = defineProps<{
  plan: Plan
  title: string
  sending: boolean
  problem: string
  asker?: string
  /** Who has not finished reading a copy, in words. */
  readers?: string[]
}>()
const emit = defineEmits<{
  send: [typed: number]
  await: [typed: number, until: string]
  ask: []
  mend: [place: Plan['problems'][number]['mend']]
}>()

const warnings = computed(() => props.plan.problems.filter((p) => !p.blocks))
const typed = ref('')
const waiting = ref(false)
const until = ref<string>()
const usualWait = 2 * 3_600_000 // in milliseconds
watch(open, () => {
  typed.value = ''
  waiting.value = false
  until.value = new Date(Math.ceil((Date.now() + usualWait) / 900_000) * 900_000).toISOString()
})
const waits = computed(() => waiting.value && Boolean(props.readers?.length))
const asks = computed(() => props.plan.secondYes && !props.asker)
function act() {
  if (asks.value) emit('ask')
  else if (waits.value) emit('await', Number(typed.value), until.value!)
  else emit('send', Number(typed.value))
}
const ready = computed(
  () =>
    !props.sending &&
    props.plan.sendable &&
    (!waits.value || Boolean(until.value)) &&
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
      <div v-if="readers?.length && !asks" class="wait" role="group" aria-label="Readings">
        <p class="small">Still reading: {{ readers.join(', ') }}.</p>
        <div class="row">
          <label class="row"><CheckBox v-model="waiting" /> Wait for them, at the latest until</label>
          <TimeField v-model="until" aria-label="Until when it waits" />
        </div>
        <p v-if="waits" class="small quiet">
          It leaves by itself when they are done, or then, with the copies as they are. If it would go to
          other people by then, it stays here and says so.
        </p>
      </div>
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
              : `${asker ? 'Say yes and send' : waits ? 'Wait, then send' : 'Send'} to ${people(plan.recipients)}`
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
  max-height: calc(100dvh - 48px);
}

.middle {
  overflow-y: auto;
  min-height: 0;
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

.wait {
  display: flex;
  flex-direction: column;
  gap: 4px;
  background: var(--seasoft);
  border-left: 3px solid var(--sea);
  border-radius: 0 4px 4px 0;
  padding: 8px 10px;
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
