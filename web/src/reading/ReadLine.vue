<script setup lang="ts">
import { computed, nextTick, useTemplateRef } from 'vue'
import type { Schemas } from '@/api/client'
import LineText from '@/copies/LineText.vue'
import { placesToPut } from '@/copies/lineText'

/** One line beside how it is said: it is right, or how it is right is typed. */
const props = defineProps<{
  line: Schemas['ReadingLineView']
  number: number
  visit: Schemas['ReadingVisitView']
  /** What is typed; undefined while nothing is. */
  typed?: string
  busy: boolean
  say: (key: string, values?: Record<string, string | number>) => string
}>()
const emit = defineEmits<{ type: [text: string]; drop: []; keep: [text: string] }>()
const box = useTemplateRef<HTMLTextAreaElement>('box')

const direction = computed(() => (props.visit.rtl ? 'rtl' : 'ltr'))
const shown = computed(() => props.line.said || props.line.target)
const found = computed(() => (props.line.own ? 'reading kept' : 'reading found right'))

/** Puts a place where the cursor stands, around what is selected. */
async function put(before: string, after: string) {
  const area = box.value!
  const { selectionStart: from, selectionEnd: to, value } = area
  emit('type', value.slice(0, from) + before + value.slice(from, to) + after + value.slice(to))
  await nextTick()
  area.focus()
  area.setSelectionRange(to + before.length, to + before.length)
}

async function write() {
  emit('type', shown.value)
  await nextTick()
  box.value?.focus()
}
</script>

<template>
  <li :class="{ said: line.said }" :aria-label="String(number)">
    <div class="original small" :lang="visit.from" dir="auto">
      <LineText :text="line.original" :places="line.places" />
    </div>
    <div class="target">
      <template v-if="typed !== undefined">
        <textarea
          ref="box"
          :value="typed"
          rows="3"
          maxlength="4000"
          :lang="visit.language"
          :dir="direction"
          :aria-label="`${visit.languageName} ${number}`"
          @input="emit('type', ($event.target as HTMLTextAreaElement).value)"
        />
        <div v-if="line.places.length" class="row small">
          <button
            v-for="p in placesToPut(line.places)"
            :key="p.before"
            type="button"
            class="link small"
            @click="put(p.before, p.after)"
          >
            <bdi>{{ p.before }}</bdi> <bdi>{{ p.words }}</bdi>
          </button>
        </div>
        <div class="row">
          <button
            type="button"
            class="button main"
            :disabled="busy || !typed.trim()"
            @click="emit('keep', typed)"
          >
            {{ say('reading keep') }}
          </button>
          <button type="button" class="button" @click="emit('drop')">{{ say('reading never mind') }}</button>
        </div>
      </template>
      <template v-else>
        <p v-if="shown" :lang="visit.language" :dir="direction" class="words">
          <LineText :text="shown" :places="line.places" />
        </p>
        <p v-else class="quiet">{{ say('reading missing') }}</p>
        <div class="row">
          <button
            v-if="line.target && !line.said"
            type="button"
            class="button"
            :disabled="busy"
            @click="emit('keep', line.target)"
          >
            {{ say('reading right') }}
          </button>
          <span v-else-if="line.said" class="quiet small">✓ {{ say(found) }}</span>
          <button type="button" class="link" @click="write">{{ say('reading change') }}</button>
        </div>
      </template>
    </div>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 2fr 3fr;
  gap: 6px 18px;
  padding: 12px 14px;
}

li + li {
  border-top: 1px solid var(--line);
}

.said {
  background: #f4f9f7;
}

.original {
  color: var(--ink2);
  overflow-wrap: anywhere;
}

.target {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-width: 0;
}

.words {
  font-size: 16px;
  line-height: 1.5;
  overflow-wrap: anywhere;
}

textarea {
  width: 100%;
  font-size: 16px;
}

.row {
  gap: 8px 14px;
}

@media (max-width: 640px) {
  li {
    grid-template-columns: 1fr;
  }
}
</style>
