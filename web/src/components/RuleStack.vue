<script setup lang="ts">
import { computed, ref } from 'vue'
import { mdiClose, mdiPlus } from '@mdi/js'
import type { Condition, Schemas } from '@/api/client'
import { useChoices, useGroups } from '@/composables/choices'
import { condition, needsValue, subjects } from '@/composables/rule'
import { thousands } from '@/composables/words'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

/** Conditions, one on top of the other; each says how many people it leaves. */
const rule = defineModel<Condition[]>({ required: true })
const props = defineProps<{ filters: Schemas['FilterView'][]; all?: number }>()

const { data: choices } = useChoices()
const { data: groups } = useGroups()
const list = computed(() => (choices.value ? subjects(choices.value, groups.value ?? []) : []))

const adding = ref(false)
const key = ref('role')
const subject = computed(() => list.value.find((s) => s.key === key.value))
const test = ref<Condition['test']>('is')
const value = ref('')

function choose(chosen: string) {
  key.value = chosen
  test.value = subject.value?.tests[0]?.test ?? 'is'
  value.value = subject.value?.options?.[0]?.value ?? ''
}

function open() {
  adding.value = true
  choose(list.value[0]?.key ?? 'role')
}

const complete = computed(
  () => Boolean(subject.value) && (!needsValue(test.value) || value.value.trim() !== ''),
)

function add() {
  if (!subject.value || !complete.value) return
  rule.value = [...rule.value, condition(subject.value, test.value, value.value.trim())]
  adding.value = false
}

const words = (i: number) =>
  props.filters.length === rule.value.length ? props.filters[i]?.words : undefined
</script>

<template>
  <div class="stack" role="group" aria-label="Filters">
    <ol v-if="rule.length">
      <li v-for="(c, i) in rule" :key="`${i}${JSON.stringify(c)}`" class="sheet">
        <span class="words"
          ><span v-if="i" class="quiet">and </span><bdi>{{ words(i) ?? '…' }}</bdi></span
        >
        <b class="num" title="People left after this filter">{{
          words(i) === undefined ? '…' : thousands(filters[i]!.leaves)
        }}</b>
        <button
          class="drop"
          :aria-label="`Take away the filter ${words(i) ?? ''}`"
          @click="rule = rule.filter((_, n) => n !== i)"
        >
          <v-icon :icon="mdiClose" size="14" />
        </button>
      </li>
    </ol>
    <button v-if="!adding" class="link more" @click="open">
      <v-icon :icon="mdiPlus" size="15" /> {{ rule.length ? 'And another filter' : 'Add a filter' }}
    </button>
    <form v-else class="sheet edit" @submit.prevent="add" @keydown.esc.stop="adding = false">
      <SelectField
        :model-value="key"
        aria-label="What the filter looks at"
        :items="list.map((s) => ({ value: s.key, title: s.words }))"
        @update:model-value="choose($event)"
      />
      <SelectField
        v-if="subject && subject.tests.length > 1"
        v-model="test"
        aria-label="How it compares"
        :items="subject.tests.map((t) => ({ value: t.test, title: t.words }))"
      />
      <template v-if="needsValue(test)">
        <SelectField
          v-if="subject?.options"
          v-model="value"
          aria-label="What with"
          :items="subject.options.map((o) => ({ value: o.value, title: o.words }))"
        />
        <TextField v-else v-model="value" :type="subject?.type ?? 'text'" step="any" aria-label="What with" />
      </template>
      <div class="row">
        <v-btn type="submit" color="primary" variant="flat" :disabled="!complete">Add</v-btn>
        <v-btn @click="adding = false">Never mind</v-btn>
      </div>
    </form>
  </div>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto 20px;
  gap: 8px;
  align-items: baseline;
  padding: 6px 6px 6px 10px;
}

.words {
  overflow-wrap: anywhere;
}

.drop {
  border: 0;
  background: none;
  padding: 0;
  color: var(--ink2);
  cursor: pointer;
}

.more {
  display: inline-flex;
  align-items: center;
  gap: 3px;
}

.edit {
  padding: 10px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
</style>
