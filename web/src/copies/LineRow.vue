<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useTimes } from '@/composables/session'
import AreaField from '@/controls/AreaField.vue'
import DifferenceText from './DifferenceText.vue'
import LineText from './LineText.vue'
import TrustMark from './TrustMark.vue'
import { placesToPut, sourceWords, trustOf, type LineView } from './lineText'

/** One line beside how it is said. The current one can be written in. */
const props = defineProps<{
  line: LineView
  number: number
  current: boolean
  editable: boolean
  from: string
  language: string
  rtl: boolean
}>()
const emit = defineEmits<{
  choose: []
  write: [text: string, checked: boolean, was: string]
  next: []
}>()
const times = useTimes()
const charactersOfRow = 30

const typed = ref(props.line.target)
/** What stood here when the typing began: what is written over it meanwhile is not lost. */
const seen = ref(props.line.target)
const box = useTemplateRef<HTMLElement>('box')
const changed = computed(() => typed.value.trim() !== props.line.target)
/** Somebody else wrote here since the typing began; which words stand is for a person to say. */
const overwritten = computed(() => seen.value !== props.line.target)
const writing = computed(() => props.current && props.editable)
const trust = computed(() => trustOf(props.line))
const rows = computed(() => Math.min(8, Math.max(2, Math.ceil(typed.value.length / charactersOfRow))))

// What comes from elsewhere is shown, unless something was typed over it.
watch(
  () => props.line.target,
  (now, before) => {
    if (typed.value !== before && typed.value.trim() !== now) return
    typed.value = now
    seen.value = now
  },
)
watch(
  writing,
  async (on) => {
    if (!on) return keep()
    await nextTick()
    field()?.focus()
  },
  { immediate: true },
)

const field = () => box.value?.querySelector('textarea')

/** Keeps what was typed; a line that was changed is unread again unless it is checked. */
function keep(checked = false) {
  if (checked || (changed.value && !overwritten.value)) emit('write', typed.value, checked, seen.value)
}

function check() {
  if (!typed.value.trim()) return
  keep(true)
  emit('next')
}

/** Takes what a reader says: the desk decides between what stands here and their words. */
function decide(text: string) {
  typed.value = text
  emit('choose')
  emit('write', text, true, seen.value)
}

function takeTheirs() {
  typed.value = props.line.target
  seen.value = props.line.target
}

function keepMine() {
  seen.value = props.line.target
  keep()
}

/** Puts a place where the cursor stands, around what is selected. */
async function put(before: string, after: string) {
  const area = field()
  const from = area?.selectionStart ?? typed.value.length
  const to = area?.selectionEnd ?? from
  typed.value =
    typed.value.slice(0, from) + before + typed.value.slice(from, to) + after + typed.value.slice(to)
  await nextTick()
  area?.focus()
  area?.setSelectionRange(to + before.length, to + before.length)
}

defineExpose({ put: (text: string) => (typed.value = text), check, keep })
</script>

<template>
  <div class="line" :class="{ current }" role="group" :aria-label="`Line ${number}`" @click="emit('choose')">
    <div class="n num">{{ number }}</div>
    <div class="o" :lang="from" dir="auto">
      <DifferenceText v-if="line.was" :pieces="line.was.difference" :places="line.places" />
      <LineText v-else :text="line.original" :places="line.places" />
      <div v-if="writing && line.places.length" class="puts small" dir="ltr">
        <button
          v-for="p in placesToPut(line.places)"
          :key="p.before"
          type="button"
          class="link small"
          :title="`Put ${p.before}${p.after} in`"
          @click.stop="put(p.before, p.after)"
        >
          {{ p.before }} {{ p.words }}
        </button>
      </div>
    </div>
    <div class="t" :lang="language">
      <div v-if="writing" ref="box">
        <AreaField
          v-model="typed"
          :dir="rtl ? 'rtl' : 'ltr'"
          :lang="language"
          :rows="rows"
          maxlength="4000"
          :aria-label="`Line ${number} in this language`"
          @blur="keep()"
          @keydown.ctrl.enter.prevent.stop="check"
        />
      </div>
      <div v-else class="text" :dir="rtl ? 'rtl' : 'ltr'">
        <LineText v-if="line.target" :text="line.target" :places="line.places" />
        <span v-else-if="line.was" class="quiet"
          ><LineText :text="line.was.target" :places="line.places"
        /></span>
        <span v-else class="quiet" dir="ltr">not translated yet</span>
      </div>
      <div class="small quiet state">
        <TrustMark :trust="trust" />
        <span>{{ changed ? 'not kept yet' : sourceWords(line, times.day) }}</span>
        <button
          v-if="writing && (trust !== 'checked' || changed)"
          type="button"
          class="link small push"
          :disabled="!typed.trim()"
          @click.stop="check"
        >
          It is right
        </button>
        <button
          v-else-if="writing"
          type="button"
          class="link small push"
          @click.stop="emit('write', typed, false, seen)"
        >
          Take the check back
        </button>
      </div>
      <p v-if="overwritten" class="doubts small" role="status">
        {{ line.by }} wrote <bdi>“{{ line.target }}”</bdi> here meanwhile.
        <button type="button" class="link small" @click.stop="takeTheirs">Take it</button> or
        <button type="button" class="link small" @click.stop="keepMine">keep what you wrote</button>.
      </p>
      <p v-for="o in line.others" :key="o.reader" class="others small">
        <span
          ><bdi>{{ o.reader }}</bdi> says</span
        >
        <bdi :lang="language" class="words">“<LineText :text="o.text" :places="line.places" />”</bdi>
        <button v-if="editable" type="button" class="link small" @click.stop="decide(o.text)">Take it</button>
      </p>
      <ul v-if="line.doubts.length && !line.checkedBy" class="doubts small">
        <li v-for="d in line.doubts" :key="d.code" dir="auto">{{ d.sentence }}</li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 30px 1fr 1fr;
  border-bottom: 1px solid var(--hair);
  cursor: pointer;
}

.line:last-child {
  border: 0;
}

.n {
  padding: 9px 0;
  text-align: center;
  background: var(--pane);
  color: var(--ink2);
  font-size: 11.5px;
}

.o,
.t {
  padding: 8px 11px;
  min-width: 0;
  overflow-wrap: anywhere;
}

.o {
  border-inline-end: 1px solid var(--hair);
}

.current .o,
.current .t {
  background: #eef5f6;
}

.current .n {
  background: var(--deep2);
  color: #fff;
}

.text {
  line-height: 1.55;
  min-height: 21px;
}

[lang^='ar'] .text,
[lang^='ar'] :deep(textarea) {
  font-size: 15px;
}

.puts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin-top: 6px;
}

.state {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 7px;
  align-items: center;
  margin-top: 4px;
}

.t :deep(textarea) {
  padding-top: 6px;
}

.t .control {
  display: grid;
  width: 100%;
}

.state > span {
  flex: 1 1 110px;
}

.others {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 6px;
  margin: 6px 0 0;
  padding: 4px 9px;
  background: var(--seasoft);
  border-inline-start: 3px solid var(--sea);
}

.doubts {
  list-style: none;
  margin: 6px 0 0;
  padding: 4px 9px;
  background: var(--lampsoft);
  border-inline-start: 3px solid var(--lamp);
}
</style>
