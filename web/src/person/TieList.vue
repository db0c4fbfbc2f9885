<script setup lang="ts">
import { computed, reactive } from 'vue'
import { mdiClose } from '@mdi/js'
import type { Schemas, Sheet } from '@/api/client'
import FindBox, { type Found } from '@/components/FindBox.vue'
import CheckBox from '@/controls/CheckBox.vue'
import TextField from '@/controls/TextField.vue'

/** The guardians and dependents of somebody, who receives, and who is barred. */
const sheet = defineModel<Sheet>({ required: true })
const props = defineProps<{
  /** Whose they are; 0 for somebody new. */
  self: number
  /** As the person was. */
  before?: Schemas['PersonDetailView']
  remarks: Schemas['Remark'][]
}>()
const names = reactive(new Map<number, string>(props.before?.ties.map((t) => [t.id, t.name]) ?? []))

function addTie(found: Found, guardian: boolean) {
  if (found.id === props.self) return
  names.set(found.id, found.name)
  sheet.value.ties.push(
    guardian
      ? { guardian: found.id, dependent: props.self, receives: true, barred: false }
      : { guardian: props.self, dependent: found.id, receives: true, barred: false },
  )
}

/** Whether a bar is taken away, which needs a reason. */
const lifting = computed(() =>
  props.before?.sheet.ties.some(
    (was) =>
      was.barred &&
      !sheet.value.ties.some((t) => t.guardian === was.guardian && t.dependent === was.dependent && t.barred),
  ),
)
</script>

<template>
  <ul class="ties">
    <li v-for="(t, i) in sheet.ties" :key="i" class="sheet" :class="{ barred: t.barred }">
      <span class="quiet small">{{ t.dependent === self ? 'guardian' : 'dependent' }}</span>
      <bdi>{{ names.get(t.dependent === self ? t.guardian : t.dependent) }}</bdi>
      <label class="tickbox small push"
        ><CheckBox v-model="t.receives" :disabled="t.barred" />receives messages</label
      >
      <label class="tickbox small"
        ><CheckBox v-model="t.barred" @update:model-value="t.receives = !t.barred" />contact barred</label
      >
      <button type="button" class="icon" aria-label="Take the tie away" @click="sheet.ties.splice(i, 1)">
        <v-icon :icon="mdiClose" size="15" />
      </button>
    </li>
  </ul>
  <label v-if="lifting" class="field"
    ><span>Why is contact allowed again? The history keeps the reason.</span>
    <TextField v-model="sheet.liftReason" dir="auto" maxlength="1000" />
  </label>
  <p v-for="r in remarks" :key="r.value" class="small bad">
    <bdi>{{ r.value }}</bdi> {{ r.reason }}
  </p>
  <div class="two">
    <FindBox :kinds="['person']" label="Add a guardian" @pick="addTie($event, true)" />
    <FindBox :kinds="['person']" label="Add a dependent" @pick="addTie($event, false)" />
  </div>
</template>

<style scoped>
.ties {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.ties li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  padding: 6px 10px;
}

.ties .barred {
  background: var(--bricksoft);
  border-inline-start: 3px solid var(--brick);
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 12px;
}
</style>
