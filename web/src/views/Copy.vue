<script setup lang="ts">
import { computed, nextTick, ref, toRef, useTemplateRef, watch } from 'vue'
import { useEventListener } from '@vueuse/core'
import { useMutation, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useCopy, useDrafting } from '@/composables/copies'
import { count } from '@/composables/words'
import LineHelp from '@/copies/LineHelp.vue'
import LineRow from '@/copies/LineRow.vue'
import CopyFiles from '@/copies/CopyFiles.vue'
import CopyList from '@/copies/CopyList.vue'
import ReadingsBox from '@/copies/ReadingsBox.vue'
import { nextToRead } from '@/copies/lineText'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'

/** A message in another language, line against line. */
const props = defineProps<{ id: string; language: string }>()
const message = computed(() => Number(props.id))
const { copy, error, write } = useCopy(message, toRef(props, 'language'))
const { drafting, done, all, said, withheld } = useDrafting(message)

// The draft as it is kept, and its plan: which languages its people read.
const { data: kept } = useQuery({
  queryKey: computed(() => ['messages', message.value]),
  queryFn: () => take(api.GET('/messages/{id}', { params: { path: { id: message.value } } })),
  staleTime: 0,
})
const { data: plan } = useQuery({
  queryKey: computed(() => ['plan', message.value, kept.value?.revision]),
  queryFn: () =>
    take(api.POST('/plan', { params: { query: { message: message.value } }, body: kept.value!.draft })),
  enabled: computed(() => kept.value?.state === 'draft'),
})

const trial = useMutation({
  mutationFn: () =>
    take(
      api.POST('/plan/try', {
        params: { query: { message: message.value, language: props.language } },
        body: kept.value!.draft,
      }),
    ),
})

const current = ref(0)
const lines = computed(() => copy.value?.lines ?? [])
const line = computed(() => lines.value[current.value])
const rows = useTemplateRef<InstanceType<typeof LineRow>[]>('rows')
const help = useTemplateRef<InstanceType<typeof LineHelp>>('help')
watch(
  () => props.language,
  () => {
    current.value = 0
    said.value = ''
    write.reset()
    trial.reset()
  },
)

function keep(at: number, text: string, checked: boolean, was: string) {
  const l = lines.value[at]
  if (l) write.mutate([{ key: l.key, was, text, checked }])
}

async function go(to: number) {
  if (to < 0 || to >= lines.value.length) return
  current.value = to
  await nextTick()
  document.querySelector(`[aria-label="Line ${to + 1}"]`)?.scrollIntoView({ block: 'nearest' })
}
const next = () => go(nextToRead(lines.value, current.value))
const row = () => rows.value?.[current.value]

useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const acts: Record<string, () => unknown> = {
    ArrowDown: next,
    PageDown: () => go(current.value + 1),
    PageUp: () => go(current.value - 1),
    b: () => help.value?.readBack(),
    t: () => {
      const text = help.value?.first()
      if (text) row()?.put(text)
    },
  }
  const act = event.altKey ? acts[event.key] : undefined
  if (!act) return
  event.preventDefault()
  void act()
})
const left = computed(() => lines.value.filter((l) => !l.target).length)
const unread = computed(() =>
  lines.value.filter((l) => l.target && !l.checkedBy && !l.doubts.length && !l.others.length),
)

/** Checks every line that is filled and not suspicious: whoever presses it has read them. */
const checkAll = () =>
  write.mutate(unread.value.map((l) => ({ key: l.key, was: l.target, text: l.target, checked: true })))
</script>

<template>
  <EmptyNote v-if="error" title="This copy cannot be opened">
    {{ error.message }}
    <template #action><v-btn :to="`/write/${id}`">Back to writing</v-btn></template>
  </EmptyNote>
  <div v-else-if="copy" class="page">
    <PageHead :title="copy.title" :note="copy.editable ? '' : 'sent: its copies stay as they were'">
      <v-btn
        v-if="copy.editable && left"
        :loading="drafting.isPending.value"
        @click="drafting.mutate({ languages: [language] })"
        >Draft missing lines</v-btn
      >
      <v-btn v-if="copy.editable && unread.length" :loading="write.isPending.value" @click="checkAll"
        >I read all {{ count(unread.length, 'line', 'lines') }}: they are right</v-btn
      >
      <v-btn
        v-if="copy.editable && plan?.recipients && copy.filled"
        :loading="trial.isPending.value"
        @click="trial.mutate()"
        >Try it on me</v-btn
      >
      <v-btn :to="copy.editable ? `/write/${id}` : `/outgoing/${id}`">{{
        copy.editable ? 'Back to writing' : 'Back to the record'
      }}</v-btn>
    </PageHead>
    <SayNote v-if="write.error.value" kind="bad" class="note">{{ write.error.value.message }}</SayNote>
    <SayNote v-if="drafting.error.value" kind="bad" class="note">{{ drafting.error.value.message }}</SayNote>
    <SayNote v-else-if="said" kind="good" class="note">{{ said }}</SayNote>
    <SayNote v-if="trial.error.value" kind="bad" class="note">{{ trial.error.value.message }}</SayNote>
    <SayNote v-else-if="trial.data.value" kind="good" class="note"
      >Sent to you in {{ copy.name }} as a trial: {{ trial.data.value.sent.join(', ') }}.</SayNote
    >
    <SayNote v-if="withheld.length" kind="mind" class="note">
      Lines that name somebody of the roster were not sent to the translation service.
      <button class="link" @click="drafting.mutate({ languages: [language], naming: true })">
        Send them too
      </button>
    </SayNote>
    <div class="panes">
      <CopyList class="pane" :copies="plan?.copies ?? []" :message="message" :language="language">
        <ReadingsBox :message="message" :language="language" :name="copy.name" :editable="copy.editable" />
        <CopyFiles :key="language" :message="message" :language="language" :editable="copy.editable" />
      </CopyList>
      <section class="pane mid" :aria-label="`${copy.name}, line against line`">
        <PaneHead :title="copy.name">
          {{ count(lines.length, 'line', 'lines') }} · <kbd>Alt ↓</kbd> next to read ·
          <kbd>Ctrl Enter</kbd> it is right · <kbd>Alt B</kbd> read back · <kbd>Alt T</kbd> from memory
        </PaneHead>
        <progress v-if="drafting.isPending.value" :value="done" :max="all || 1" aria-label="Filling" />
        <div v-if="lines.length" class="sheet lines">
          <LineRow
            v-for="(l, i) in lines"
            :key="l.key"
            ref="rows"
            :line="l"
            :number="i + 1"
            :current="i === current"
            :editable="copy.editable"
            :from="copy.from"
            :language="copy.language"
            :rtl="copy.rtl"
            @choose="current = i"
            @write="(text, checked, was) => keep(i, text, checked, was)"
            @next="next"
          />
        </div>
        <p v-else class="quiet">The message says nothing yet that could be translated.</p>
      </section>
      <LineHelp
        v-if="line"
        ref="help"
        class="pane last"
        :message="message"
        :language="copy.language"
        :rtl="copy.rtl"
        :line="line"
        :number="current + 1"
        :editable="copy.editable"
        @take="row()?.put($event)"
      />
    </div>
  </div>
  <EmptyNote v-else title="Opening the copy…">A moment.</EmptyNote>
</template>

<style scoped>
.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 248px minmax(0, 1fr) 300px;
}

.pane {
  overflow-y: auto;
  min-height: 0;
}

.mid {
  border-inline: 1px solid var(--line);
  padding: 12px 14px;
}

.last {
  background: var(--pane);
}

.note {
  margin: 8px 16px 0;
}

progress {
  width: 100%;
  accent-color: var(--sea);
}

kbd {
  font: inherit;
  font-size: 11px;
  font-weight: 600;
  border: 1px solid var(--line);
  border-bottom-width: 2px;
  border-radius: 4px;
  padding: 0 4px;
  background: var(--sheet);
}

@media (max-width: 1100px) {
  .panes {
    grid-template-columns: 190px minmax(0, 1fr) 240px;
  }
}
</style>
