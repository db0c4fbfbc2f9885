<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Draft, Plan } from '@/api/client'
import SelectField from '@/controls/SelectField.vue'

/** Under which name and numbers a message goes out, and where replies come. */
const draft = defineModel<Draft>('draft', { required: true })
const props = defineProps<{ plan: Plan }>()

const open = ref(false)
const sender = computed(() => props.plan.sender)
const from = computed(() => draft.value.from ?? {})

const said = computed(() => {
  const used = sender.value.inUse
  if (!used.length) return sender.value.names[0] ?? ''
  return used.length > 3 ? `${used.slice(0, 3).join(', ')} and ${used.length - 3} more` : used.join(', ')
})

function change(key: 'name' | 'number' | 'caller', value: string) {
  const next = { ...from.value }
  if (value) next[key] = value
  else delete next[key]
  if (Object.keys(next).length) draft.value.from = next
  else delete draft.value.from
}

/** Where answers come: by the rule, to a desk, or to the sender's own mailbox. */
const replies = computed(() => (draft.value.replyTo ? -1 : (draft.value.desk ?? 0)))
const places = computed(() => [
  { value: 0, title: sender.value.desks.length ? 'the desk by the rule' : sender.value.replies },
  ...sender.value.desks.map((d) => ({ value: d.id, title: `desk: ${d.name}` })),
  ...(sender.value.own && sender.value.own !== sender.value.replies
    ? [{ value: -1, title: sender.value.own }]
    : []),
])
function reply(to: number) {
  if (to === -1) draft.value.replyTo = sender.value.own
  else delete draft.value.replyTo
  if (to > 0) draft.value.desk = to
  else delete draft.value.desk
}
</script>

<template>
  <section class="sheet sender" aria-label="Sender" tabindex="-1">
    <div class="row small">
      <span class="quiet">From</span> <b class="said">{{ said }}</b>
      <button class="link push" :aria-expanded="open" @click="open = !open">
        {{ open ? 'Done' : 'Change' }}
      </button>
    </div>
    <p class="small quiet">
      <template v-if="sender.desk && !draft.replyTo">Answers come to the desk {{ sender.desk }}</template>
      <template v-else>Replies to emails come back to {{ draft.replyTo || sender.replies }}</template>
      <template v-if="sender.prefix"> · subject begins with {{ sender.prefix }}</template>
      <template v-if="sender.footer"> · a footer stands under it</template>
    </p>
    <div v-if="open" class="choices small">
      <label
        >Name
        <SelectField
          :model-value="from.name ?? ''"
          :items="[
            { value: '', title: 'by the rule of the groups' },
            ...sender.names.map((n) => ({ value: n, title: n })),
          ]"
          @update:model-value="change('name', $event)"
      /></label>
      <label
        >Texts from
        <SelectField
          :model-value="from.number ?? ''"
          :items="[
            { value: '', title: 'by the rule, or as before' },
            ...sender.numbers.map((n, i) => ({ value: n, title: sender.shown[i] ?? n })),
          ]"
          @update:model-value="change('number', $event)"
      /></label>
      <label
        >Calls from
        <SelectField
          :model-value="from.caller ?? ''"
          :items="[
            { value: '', title: 'by the rule of the groups' },
            ...sender.numbers.map((n, i) => ({ value: n, title: sender.shown[i] ?? n })),
          ]"
          @update:model-value="change('caller', $event)"
      /></label>
      <label
        >Replies to
        <SelectField :model-value="replies" :items="places" @update:model-value="reply(Number($event))"
      /></label>
      <pre v-if="sender.footer" class="footer quiet">{{ sender.footer }}</pre>
    </div>
  </section>
</template>

<style scoped>
.sender {
  padding: 6px 9px;
  margin-top: 9px;
  display: grid;
  gap: 3px;
}

.said {
  overflow-wrap: anywhere;
}

.choices {
  display: grid;
  gap: 5px;
}

.choices label {
  display: grid;
  grid-template-columns: 84px 1fr;
  align-items: center;
}

.footer {
  font: inherit;
  white-space: pre-wrap;
  border-top: 1px solid var(--hair);
  padding-top: 4px;
  margin: 0;
}

.choices {
  --control-height: 28px;
}
</style>
