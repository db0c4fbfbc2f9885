<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import { useSaid } from '@/composables/said'
import { useSelection } from '@/composables/selection'
import { useRights } from '@/composables/session'
import { thousands } from '@/composables/words'
import SelectionDrawer from './SelectionDrawer.vue'

const props = defineProps<{ onScreen: number[]; matching: number; narrowed: boolean }>()
const emit = defineEmits<{ matching: [] }>()

const may = useRights()
const router = useRouter()
const selection = useSelection()
const { fail } = useSaid()
const doing = ref('')

/** Begins a draft to those who are selected, and to nobody else. */
async function write() {
  try {
    const message = await take(api.POST('/messages', { body: {} }))
    const list = selection.list.value
    await take(
      api.PUT('/messages/{id}', {
        params: { path: { id: message.id } },
        body: {
          revision: message.revision,
          draft: {
            ...message.draft,
            audience: {
              ...message.draft.audience,
              parts: [
                list.length === 1 ? { kind: 'person', person: list[0]! } : { kind: 'people', people: list },
              ],
            },
          },
        },
      }),
    )
    await router.push(`/write/${message.id}`)
  } catch (problem) {
    fail(problem)
  }
}

const actions = [
  { key: 'group', words: 'Add to a group…' },
  { key: 'set', words: 'Set…' },
  { key: 'sheets', words: 'Print sheets' },
  { key: 'merge', words: 'Merge…' },
  { key: 'remove', words: 'Remove…' },
]

const mostSheets = 500 // as many as are printed at once
const fits = (a: { key: string }) =>
  a.key === 'merge'
    ? selection.size.value >= 2 && selection.size.value <= 5
    : a.key !== 'sheets' || selection.size.value <= mostSheets

function act(key: string) {
  if (key === 'sheets') {
    void router.push({ name: 'sheets', query: { ids: selection.list.value.join(',') } })
    return
  }
  doing.value = key
}
</script>

<template>
  <div class="bar" :class="{ some: selection.size.value }" role="group" aria-label="Selection">
    <span class="words" role="status">{{
      selection.size.value ? selection.words(props.onScreen) : 'Nobody is selected'
    }}</span>
    <span class="choose small">
      <button class="link" :disabled="!onScreen.length" @click="selection.add(onScreen)">
        Select the {{ onScreen.length }} on screen
      </button>
      <button class="link" :disabled="!matching" @click="emit('matching')">
        {{ narrowed ? `all ${thousands(matching)} that match` : `all ${thousands(matching)}` }}
      </button>
      <button class="link" :disabled="!selection.size.value" @click="selection.clear()">none</button>
    </span>
    <span v-if="selection.size.value" class="acts">
      <v-btn v-if="may('write')" size="small" @click="write">Write to them</v-btn>
      <template v-if="may('edit-people')">
        <v-btn v-for="a in actions" :key="a.key" size="small" :disabled="!fits(a)" @click="act(a.key)">{{
          a.words
        }}</v-btn>
      </template>
      <v-btn size="small" @click="act('export')">Save as a file…</v-btn>
    </span>
    <SelectionDrawer v-model="doing" />
  </div>
</template>

<style scoped>
.bar {
  border-top: 1px solid var(--line);
  background: var(--pane);
  padding: 6px 16px;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 16px;
  min-height: 40px;
  box-sizing: border-box;
}

.words {
  font-weight: 600;
}

.bar:not(.some) .words {
  color: var(--ink2);
  font-weight: 400;
}

.choose {
  display: flex;
  gap: 14px;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.acts .v-btn {
  height: 28px !important;
  padding-inline: 10px !important;
}
</style>
