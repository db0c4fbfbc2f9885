<script setup lang="ts">
import { computed, ref } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { thousands } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'
import AnswerMark from './AnswerMark.vue'
import { lookOf, toCall, type BoardView, type Mark } from './answers'

/** Whom to call by hand; one key writes down what they answered. */
const props = defineProps<{ message: number; board: BoardView }>()
const client = useQueryClient()
const mostShown = 200
const all = computed(() => toCall(props.board))
const list = computed(() => all.value.slice(0, mostShown))
const rows = ref<HTMLElement>()
const stands: Record<string, string> = {
  missed: 'not reached',
  silent: 'has it, no answer',
  'on-the-way': 'on the way',
  wrote: 'wrote something else',
}

const write = useMutation({
  mutationFn: ({ mark, answer }: { mark: Mark; answer: number }) =>
    take(
      api.POST('/messages/{id}/answers', {
        params: { path: { id: props.message } },
        body: { person: mark.person, answer },
      }),
    ),
  onSettled: () => client.invalidateQueries({ queryKey: ['record', props.message] }),
})

/** The next one of the list takes the focus when this one leaves it. */
function note(mark: Mark, answer: number) {
  const at = list.value.indexOf(mark)
  const next = list.value[at + 1] ?? list.value[at - 1]
  write.mutate({ mark, answer })
  if (next) row(next)?.focus()
}

const row = (m: Mark) => rows.value?.querySelector<HTMLElement>(`[data-recipient="${m.recipient}"]`)

function key(event: KeyboardEvent, mark: Mark) {
  const answer = Number(event.key)
  if (answer >= 1 && answer <= props.board.question.choices.length) return note(mark, answer)
  const at = list.value.indexOf(mark) + ({ ArrowDown: 1, ArrowUp: -1 }[event.key] ?? 0)
  const to = list.value[at]
  if (!to || to === mark) return
  event.preventDefault()
  row(to)?.focus()
}
</script>

<template>
  <div>
    <p v-if="!all.length" class="quiet">Everybody has answered.</p>
    <p v-else class="quiet small">
      Choose a row and press the number of what they answer;
      <kbd>↓</kbd> goes on.
    </p>
    <SayNote v-if="write.error.value" kind="bad">{{ write.error.value.message }}</SayNote>
    <ul v-if="list.length" ref="rows" aria-label="To call">
      <li
        v-for="m in list"
        :key="m.recipient"
        :data-recipient="m.recipient"
        tabindex="0"
        @keydown="key($event, m)"
      >
        <div class="who">
          <b
            ><bdi>{{ m.name }}</bdi></b
          >
          <span class="quiet small">{{ stands[m.stand] }}</span>
        </div>
        <div class="row small">
          <span v-if="m.numbers.length" class="number">{{ m.numbers.join(', ') }}</span>
          <span v-else class="quiet">no number on file</span>
          <span class="keys push">
            <button
              v-for="(c, i) in board.question.choices"
              :key="i"
              type="button"
              :title="c.words"
              :aria-label="`${m.name}: ${c.words}`"
              tabindex="-1"
              @click="note(m, i + 1)"
            >
              <AnswerMark :look="lookOf(board.question, i + 1)" :number="i + 1" />
            </button>
          </span>
        </div>
      </li>
    </ul>
    <p v-if="all.length > list.length" class="quiet small">
      and {{ thousands(all.length - list.length) }} more, as these answer
    </p>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 6px 0;
  padding: 0;
}

li {
  padding: 6px 8px;
  border-bottom: 1px solid var(--hair);
  background: var(--sheet);
}

li:focus {
  outline: 2px solid var(--deep2);
  outline-offset: -2px;
}

.who {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}

.keys {
  display: flex;
  gap: 3px;
}

.keys button {
  border: 0;
  background: none;
  padding: 1px;
  cursor: pointer;
  font-size: 14px;
}
</style>
