<script setup lang="ts">
import { computed } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useRights } from '@/composables/session'
import { channelWords } from '@/composables/words'
import FindBox from '@/components/FindBox.vue'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'
import ShiftCard from './ShiftCard.vue'

/** What is to be known of whom a thread is with, and what the shift does with it. */
const props = defineProps<{ view: Schemas['ThreadView'] }>()
const emit = defineEmits<{ moved: [thread: number] }>()

const client = useQueryClient()
const may = useRights()
const { show } = usePersonDrawer()
const id = computed(() => props.view.thread.id)
const path = computed(() => ({ params: { path: { id: id.value } } }))

const identify = useMutation({
  mutationFn: (person: number) =>
    take(api.POST('/threads/{id}/identify', { ...path.value, body: { person } })),
  onSuccess: async (found) => {
    await client.invalidateQueries({ queryKey: ['desks'] })
    emit('moved', found.id)
  },
})
const person = computed(() => props.view.person)
/** An address once, with all that goes there. */
const reached = computed(() => {
  const by = new Map<string, string[]>()
  for (const p of props.view.places)
    by.set(p.shown, [
      ...(by.get(p.shown) ?? []),
      `${channelWords[p.channel].toLowerCase()}${p.aside ? `: ${p.aside}` : ''}`,
    ])
  return [...by]
})
</script>

<template>
  <aside aria-label="Beside it">
    <PaneHead title="Beside it" />
    <SayNote v-if="identify.error.value" kind="bad">{{ identify.error.value.message }}</SayNote>
    <SayNote v-if="view.thread.note" kind="mind"><b>Left for this shift.</b> {{ view.thread.note }}</SayNote>
    <SayNote v-if="person?.barred.length" kind="bad"
      >Contact with them about <bdi>{{ person.barred.join(', ') }}</bdi> is barred. Say nothing of it
      here.</SayNote
    >
    <div v-if="person" class="sheet card">
      <dl>
        <dt>Who</dt>
        <dd>
          <button class="link" @click="show(person.id)">
            <bdi>{{ person.name }}</bdi>
          </button>
        </dd>
        <dt>Reads</dt>
        <dd>{{ person.speaks || 'not known' }}</dd>
        <dt>Reached by</dt>
        <dd>
          <span v-for="[shown, ways] in reached" :key="shown" class="address"
            ><template v-for="(part, i) in shown.split('@')" :key="i"
              ><wbr v-if="i" />{{ i ? `@${part}` : part }}</template
            >{{ ' ' }}<span class="quiet">{{ ways.join(', ') }}</span></span
          >
        </dd>
        <template v-if="person.about.length">
          <dt>About</dt>
          <dd>
            <bdi>{{ person.about.join(', ') }}</bdi>
          </dd>
        </template>
        <template v-if="person.groups.length">
          <dt>Groups</dt>
          <dd>{{ person.groups.join(', ') }}</dd>
        </template>
        <template v-if="person.unit">
          <dt>Unit</dt>
          <dd>{{ person.unit }}</dd>
        </template>
        <template v-if="person.wish">
          <dt>Wish</dt>
          <dd>{{ channelWords[person.wish].toLowerCase() }} first</dd>
        </template>
        <template v-if="person.notes">
          <dt>Notes</dt>
          <dd dir="auto">{{ person.notes }}</dd>
        </template>
      </dl>
    </div>
    <div v-else class="sheet card">
      <h3>{{ view.maybe.length ? 'Which of them is it?' : 'Nobody on the roster' }}</h3>
      <p class="small quiet">
        <bdi>{{ view.address }}</bdi>
        {{
          view.maybe.length
            ? 'is an address of several people. What you choose is remembered.'
            : 'belongs to nobody whom you see. Say who it is, and what they wrote stands with them.'
        }}
      </p>
      <p v-for="m in view.maybe" :key="m.id">
        <button class="link" :disabled="identify.isPending.value" @click="identify.mutate(m.id)">
          <bdi>{{ m.name }}</bdi>
        </button>
        <span class="small quiet note">{{ m.note }}</span>
      </p>
      <FindBox
        v-if="may('see-people')"
        :kinds="['person']"
        label="Somebody on the roster"
        @pick="identify.mutate($event.id)"
      />
    </div>
    <ShiftCard :view="view" />
  </aside>
</template>

<style scoped>
aside {
  overflow: auto;
  background: var(--pane);
  border-inline-start: 1px solid var(--line);
  padding: 12px 14px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.card {
  padding: 9px 11px;
}

.card h3 {
  font-size: 12px;
  color: var(--ink2);
  margin-bottom: 4px;
}

dl {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr);
  gap: 3px 8px;
  margin: 0;
  font-size: 12.5px;
}

dt {
  color: var(--ink2);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
}

.note {
  display: block;
}

.address {
  display: block;
}
</style>
