<script setup lang="ts">
import { computed, ref, useId, watch } from 'vue'
import { refDebounced } from '@vueuse/core'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { people } from '@/composables/words'

/** Something that can be found by typing. */
export interface Found {
  kind: 'group' | 'unit' | 'role' | 'person' | 'message'
  id: number
  role: string
  name: string
  note: string
}

const props = defineProps<{
  kinds: Found['kind'][]
  label: string
  /** Words for a second action on a hit, such as “leave out”. */
  second?: string
  /** Whether a list of addresses may be pasted or typed; it is handed on as it is. */
  lists?: boolean
  dark?: boolean
}>()
const emit = defineEmits<{ pick: [found: Found]; second: [found: Found]; list: [text: string] }>()

const typed = ref('')
const search = refDebounced(typed, 120)
const open = ref(false)
const at = ref(0)
const box = ref<HTMLInputElement>()
const list = useId()

const { data, isPlaceholderData } = useQuery({
  queryKey: ['find', search],
  queryFn: () => take(api.GET('/find', { params: { query: { search: search.value } } })),
  enabled: open,
  placeholderData: keepPreviousData,
})

const hits = computed<Found[]>(() => {
  const found = data.value
  if (!found) return []
  const all: Found[] = [
    ...found.groups.map((g) => ({
      kind: 'group' as const,
      id: g.id,
      role: '',
      name: g.name,
      note: `group, ${people(g.people)}`,
    })),
    ...found.units.map((u) => ({
      kind: 'unit' as const,
      id: u.id,
      role: '',
      name: u.name,
      note: `unit, ${people(u.people)}`,
    })),
    ...found.roles.map((r) => ({
      kind: 'role' as const,
      id: 0,
      role: r.role,
      name: r.role,
      note: `role, ${people(r.people)}`,
    })),
    ...found.people.map((p) => ({
      kind: 'person' as const,
      id: p.id,
      role: '',
      name: p.name,
      note: p.detail,
    })),
    ...found.messages.map((m) => ({
      kind: 'message' as const,
      id: m.id,
      role: '',
      name: m.title,
      note: `message, ${m.state}`,
    })),
  ]
  // While the answer to what was typed is on its way, the last one is narrowed down.
  const wanted = typed.value.trim().toLowerCase()
  return all
    .filter((hit) => props.kinds.includes(hit.kind) && hit.name.toLowerCase().includes(wanted))
    .slice(0, 30)
})
const settled = computed(() => search.value === typed.value && data.value && !isPlaceholderData.value)

// Enter before the answer has come waits for it, so that it never takes another hit.
const waiting = ref<'pick' | 'second'>()
watch(settled, (now) => {
  if (now && waiting.value) choose(hits.value[at.value], waiting.value === 'second')
})

function choose(hit: Found | undefined, second = false) {
  waiting.value = undefined
  if (!hit) return
  if (second) emit('second', hit)
  else emit('pick', hit)
  typed.value = ''
  open.value = false
}

const isList = (text: string) => /[@\n;,\t]/.test(text) || text.replace(/\D/g, '').length >= 7

function paste(event: ClipboardEvent) {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (!props.lists || !isList(text.trim())) return
  event.preventDefault()
  emit('list', text)
}

function key(event: KeyboardEvent) {
  if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    open.value = true
    at.value = Math.max(0, Math.min(hits.value.length - 1, at.value + (event.key === 'ArrowDown' ? 1 : -1)))
    event.preventDefault()
  } else if (event.key === 'Enter') {
    const second = event.shiftKey && Boolean(props.second)
    if (props.lists && !hits.value.length && isList(typed.value)) {
      emit('list', typed.value)
      typed.value = ''
    } else if (settled.value) choose(hits.value[at.value], second)
    else if (typed.value) waiting.value = second ? 'second' : 'pick'
    event.preventDefault()
  } else if (event.key === 'Escape' && open.value) {
    open.value = false
    event.stopPropagation()
  }
}

defineExpose({ focus: () => box.value?.focus() })
</script>

<template>
  <div class="find" :class="{ dark }">
    <input
      ref="box"
      v-model="typed"
      type="text"
      role="combobox"
      autocomplete="off"
      spellcheck="false"
      :aria-label="label"
      :placeholder="label"
      :aria-expanded="open"
      :aria-controls="list"
      :aria-activedescendant="open && hits.length ? `${list}-${at}` : undefined"
      @focus="open = true"
      @click="open = true"
      @input="((open = true), (at = 0), (waiting = undefined))"
      @blur="open = false"
      @keydown="key"
      @paste="paste"
    />
    <ul
      v-if="open && (hits.length || typed)"
      :id="list"
      role="listbox"
      :aria-label="label"
      @mousedown.prevent
    >
      <li
        v-for="(hit, i) in hits"
        :id="`${list}-${i}`"
        :key="`${hit.kind}${hit.id}${hit.role}`"
        role="option"
        :aria-selected="i === at"
        :class="{ at: i === at }"
        @mouseenter="at = i"
        @click="choose(hit)"
      >
        <bdi class="name">{{ hit.name }}</bdi>
        <span class="quiet small">{{ hit.note }}</span>
        <span v-if="second" class="second link small" @click.stop="choose(hit, true)">{{ second }}</span>
      </li>
      <li v-if="typed && !hits.length" class="none quiet" role="option" aria-selected="false">
        Nothing by that name
      </li>
    </ul>
  </div>
</template>

<style scoped>
.find {
  position: relative;
}

input {
  width: 100%;
  box-sizing: border-box;
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid #8fa5ae;
  border-radius: 6px;
  padding: 7px 10px;
}

input::placeholder {
  color: var(--ink3);
  opacity: 1;
}

.dark input {
  background: var(--night);
  border-color: #2a5766;
  color: #fff;
  padding: 5px 10px;
  font-size: 12.5px;
}

.dark input::placeholder {
  color: #9fbcc5;
}

ul {
  position: absolute;
  z-index: 60;
  inset: calc(100% + 4px) auto auto 0;
  width: 100%;
  box-sizing: border-box;
  max-height: 380px;
  overflow-y: auto;
  margin: 0;
  padding: 4px;
  list-style: none;
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--line);
  border-radius: 6px;
  box-shadow: 0 6px 18px rgb(11 39 48 / 14%);
}

.dark ul {
  inset-inline: auto 0;
  width: 330px;
}

li {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 8px;
  padding: 5px 8px;
  border-radius: 4px;
  cursor: pointer;
}

li.at {
  background: #e3edf0;
}

.name {
  font-weight: 600;
  overflow-wrap: anywhere;
}

.second {
  margin-inline-start: auto;
  white-space: nowrap;
  visibility: hidden;
  color: var(--brick);
}

li.at .second {
  visibility: visible;
}

.none {
  cursor: default;
}
</style>
