<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { api, take, type Channel, type Schemas } from '@/api/client'
import { channels } from '@/composables/steps'
import FindBox from '@/components/FindBox.vue'
import StepEditor from '@/write/StepEditor.vue'
import AreaField from '@/controls/AreaField.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SelectField from '@/controls/SelectField.vue'
import NumberField from '@/controls/NumberField.vue'
import BudgetList from './BudgetList.vue'
import QuietHours from './QuietHours.vue'

const props = defineProps<{
  settings: Schemas['SettingsView']
  change: (request: () => Promise<unknown>) => Promise<boolean>
}>()

type Urgency = 'routine' | 'timely' | 'emergency'
const urgencies: Urgency[] = ['routine', 'timely', 'emergency']

const form = reactive({
  hold: 30,
  wishes: true,
  limit: 0,
  rest: 0,
  big: 200,
  secondYes: false,
  mail: 20,
  late: 60,
  change: 10,
  again: false,
  steps: {} as Record<Urgency, Channel[][]>,
  quiet: {} as Record<Channel, { from: string; to: string } | undefined>,
  testers: [] as { id: number; name: string }[],
  footer: '',
  postal: 0,
  reads: 0,
  voiceless: [] as string[],
  budgets: [] as { unit: number; month: number }[],
})
const saved = ref(false)

watch(
  () => props.settings,
  ({ sending }) => {
    const rules = sending.now.rules
    form.hold = sending.now.holdSeconds
    form.wishes = !rules.unwished
    form.limit = rules.loadLimit ?? 0
    form.rest = rules.restHours ?? 0
    form.big = rules.bigFrom || 200
    form.secondYes = rules.secondYes ?? false
    form.mail = rules.mailLimit || 20
    form.late = rules.lateAfter || 60
    form.change = rules.mayChange || 10
    form.again = rules.sendAgain ?? false
    for (const u of urgencies)
      form.steps[u] = ((sending.now.steps[u] ?? sending.defaults[u]) as Channel[][]).map((s) => [...s])
    for (const c of channels) form.quiet[c] = rules.quiet?.[c] ? { ...rules.quiet[c] } : undefined
    form.postal = rules.postal ?? 0
    form.reads = rules.reads ?? 0
    form.voiceless = [...(rules.voiceless ?? [])]
    form.footer = rules.signature?.footer ?? ''
    form.testers = sending.testers.map((t) => ({ id: t.id, name: t.name }))
    form.budgets = (rules.budgets ?? []).map((b) => ({ unit: b.unit ?? 0, month: b.month / 100 }))
  },
  { immediate: true },
)
watch(form, () => (saved.value = false), { flush: 'sync' })

/** The attributes that hold words, to choose one from. */
const texts = computed(() => [
  { value: 0, title: 'no attribute' },
  ...props.settings.attributes.filter((a) => a.kind === 'text').map((a) => ({ value: a.id!, title: a.name })),
])

const usual = (u: Urgency) =>
  JSON.stringify(form.steps[u]) === JSON.stringify(props.settings.sending.defaults[u])

async function save() {
  const quiet = Object.fromEntries(channels.filter((c) => form.quiet[c]).map((c) => [c, form.quiet[c]!]))
  const steps = Object.fromEntries(urgencies.filter((u) => !usual(u)).map((u) => [u, form.steps[u]]))
  saved.value = await props.change(() =>
    take(
      api.PUT('/settings/sending', {
        body: {
          holdSeconds: Number(form.hold),
          steps,
          rules: {
            unwished: !form.wishes,
            loadLimit: Number(form.limit),
            restHours: Number(form.rest),
            bigFrom: Number(form.big),
            secondYes: form.secondYes,
            mailLimit: Number(form.mail),
            lateAfter: Number(form.late),
            mayChange: Number(form.change),
            sendAgain: form.again,
            quiet,
            ...(form.postal ? { postal: form.postal } : {}),
            ...(form.reads ? { reads: form.reads } : {}),
            ...(form.voiceless.length ? { voiceless: form.voiceless } : {}),
            signature: { ...props.settings.sending.now.rules.signature, footer: form.footer },
            testers: form.testers.map((t) => t.id),
            budgets: form.budgets
              .filter((b) => b.month > 0)
              .map((b) => ({ ...(b.unit ? { unit: b.unit } : {}), month: Math.round(b.month * 100) })),
          },
        },
      }),
    ),
  )
}
</script>

<template>
  <form class="cols" @submit.prevent="save">
    <section class="sheet">
      <h2>Steps</h2>
      <p class="quiet small">Which channel is tried first, unless a message says otherwise.</p>
      <div v-for="u in urgencies" :key="u" class="steps">
        <h3>{{ u }}</h3>
        <StepEditor v-model="form.steps[u]" :name="`of ${u} messages`" />
      </div>
      <label><CheckBox v-model="form.wishes" /> Routine messages honour what a person asked for first</label>
    </section>
    <section class="sheet">
      <h2>Before anything leaves</h2>
      <label
        >Hold
        <NumberField v-model="form.hold" min="0" max="600" aria-label="Hold in seconds" />
        seconds, in which Stop undoes everything</label
      >
      <label
        >From <NumberField v-model="form.big" min="1" aria-label="Big audience from" /> people on, and for
        emergencies,
        <SelectField
          v-model="form.secondYes"
          aria-label="How a big audience is confirmed"
          :items="[
            { value: false, title: 'the number of people is typed' },
            { value: true, title: 'somebody else must say yes' },
          ]"
      /></label>
      <label
        >Files of an email: at most
        <NumberField v-model="form.mail" min="1" max="100" aria-label="Megabytes of files" />
        MB</label
      >
      <label
        >When the program was not running, a message that is late by more than
        <NumberField v-model="form.late" min="1" max="10080" aria-label="Minutes late" /> minutes waits for a
        yes</label
      >
      <label
        >A scheduled message is planned again before it leaves. When the roster changed for more than
        <NumberField v-model="form.change" min="1" max="100000" aria-label="People who may change" /> people
        since it was checked, it waits for a yes</label
      >
      <label
        >An email of which nobody can tell whether it left, since the program ended while it was handed over,
        <SelectField
          v-model="form.again"
          aria-label="Emails of which nobody can tell whether they left"
          :items="[
            { value: false, title: 'is shown and left' },
            { value: true, title: 'is sent again' },
          ]"
      /></label>
      <label
        >Whoever did a job is asked for none for
        <NumberField v-model="form.rest" min="0" max="168" aria-label="Hours of rest" /> hours after it; 0 is
        no rest</label
      >
      <label
        >Weekly limit <NumberField v-model="form.limit" min="0" aria-label="Weekly limit" /> messages a
        person; 0 is none</label
      >
      <label class="footer"
        >Under every email, unless its unit has a footer of its own<AreaField
          v-model="form.footer"
          rows="3"
          maxlength="2000"
          dir="auto"
        />
      </label>
      <QuietHours v-model="form.quiet" />
    </section>
    <section class="sheet">
      <h2>Testers</h2>
      <p class="quiet small">To whom exercises of emergencies go, and nobody else.</p>
      <ul>
        <li v-for="t in form.testers" :key="t.id">
          <bdi>{{ t.name }}</bdi>
          <button
            type="button"
            class="link small"
            @click="form.testers = form.testers.filter((o) => o.id !== t.id)"
          >
            Take away
          </button>
        </li>
      </ul>
      <FindBox
        :kinds="['person']"
        label="Add a tester"
        @pick="
          form.testers.some((t) => t.id === $event.id) ||
          form.testers.push({ id: $event.id, name: $event.name })
        "
      />
      <h2>Letters</h2>
      <label
        >Postal addresses stand in
        <SelectField v-model="form.postal" aria-label="Attribute with postal addresses" :items="texts"
      /></label>
      <h2>Copies</h2>
      <label
        >Who reads which languages for you stands in
        <SelectField
          v-model="form.reads"
          aria-label="Attribute with the languages that somebody reads"
          :items="texts"
      /></label>
      <p class="quiet small">
        Such as “Polish, Arabic” for a parent who checks those copies. Whoever has it is offered first when a
        reading is asked for.
      </p>
      <fieldset class="voiceless">
        <legend>No voice of the gateway speaks</legend>
        <label v-for="l in settings.languages" :key="l.value"
          ><CheckBox
            :model-value="form.voiceless.includes(l.value)"
            @update:model-value="
              form.voiceless = $event
                ? [...form.voiceless, l.value]
                : form.voiceless.filter((tag) => tag !== l.value)
            "
          />
          {{ l.words }}</label
        >
      </fieldset>
      <BudgetList v-model="form.budgets" :units="settings.units" :currency="settings.currency" />
    </section>
    <div class="row save">
      <v-btn type="submit" color="primary" variant="flat">Save how messages are sent</v-btn>
      <span v-if="saved" role="status" class="quiet">Saved.</span>
    </div>
  </form>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 12px;
  align-items: start;
}

.voiceless {
  border: 0;
  padding: 0;
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}

.voiceless legend {
  font-size: 12.5px;
  color: var(--ink2);
}

@media (max-width: 1100px) {
  .cols {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}

section {
  padding: 12px 14px;
  display: grid;
  gap: 8px;
}

h2 {
  margin: 0;
}

h3 {
  font-size: 12.5px;
  color: var(--ink2);
  text-transform: capitalize;
  margin: 0 0 3px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  padding: 4px 0;
  border-bottom: 1px solid var(--hair);
}

.save {
  grid-column: 1 / -1;
}

.footer .control {
  display: grid;
  margin-top: 3px;
}

.sheet {
  --control-height: 28px;
}
</style>
