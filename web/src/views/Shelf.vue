<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { whenever } from '@vueuse/core'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Content, type Schemas } from '@/api/client'
import { useChoices } from '@/composables/choices'
import { emptyDraft } from '@/composables/draft'
import { useSession, useTimes } from '@/composables/session'
import { contentOf, useShelf } from '@/composables/shelf'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'
import ShelfTabs from '@/components/ShelfTabs.vue'
import ShelfVersions from '@/shelf/ShelfVersions.vue'
import RichEditor from '@/write/RichEditor.vue'
import WhatPane from '@/write/WhatPane.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

type Item = Schemas['ShelfView']

const client = useQueryClient()
const times = useTimes()
const { data: session } = useSession()
const { data: choices } = useChoices()
const { data: shelf, error } = useShelf()

const kinds = [
  {
    kind: 'template' as const,
    words: 'Templates',
    none: 'No templates yet. Write a message and save it as one, or add one here.',
  },
  {
    kind: 'quick-text' as const,
    words: 'Quick texts',
    none: 'No quick texts yet: words that are put into messages again and again.',
  },
]
const form = reactive({
  id: 0,
  kind: 'template' as Item['kind'],
  name: '',
  shared: 'own',
  content: emptyDraft(),
})
const editing = ref(false)
const changeable = ref(true)

function edit(kind: Item['kind'], item?: Item) {
  Object.assign(form, {
    id: item?.id ?? 0,
    kind,
    name: item?.name ?? '',
    shared: !item || item.own ? 'own' : String(item.unit || 'all'),
    content: { ...emptyDraft(), ...(JSON.parse(JSON.stringify(item?.content ?? {})) as Content) },
  })
  changeable.value = item?.mine ?? true
  editing.value = true
  save.reset()
}

// Something is always open, so that the page shows what a shelf is for.
whenever(
  () => !editing.value && shelf.value?.[0],
  (first) => edit(first.kind, first),
  { immediate: true },
)

const done = (list: Item[]) => {
  client.setQueryData(['shelf'], list)
  editing.value = false
}
const save = useMutation({
  mutationFn: () =>
    take(
      api.POST('/shelf', {
        body: {
          ...(form.id ? { id: form.id } : {}),
          kind: form.kind,
          name: form.name,
          own: form.shared === 'own',
          ...(Number(form.shared) ? { unit: Number(form.shared) } : {}),
          content: contentOf(form.content),
        },
      }),
    ),
  onSuccess: async (list) => {
    await client.invalidateQueries({ queryKey: ['shelf-versions'] })
    done(list)
  },
})
const drop = useMutation({
  mutationFn: (id: number) => take(api.DELETE('/shelf/{id}', { params: { path: { id } } })),
  onSuccess: () => done((shelf.value ?? []).filter((s) => s.id !== form.id)),
})

const fields = computed(() => session.value?.fields ?? [])
const problem = computed(() => error.value ?? save.error.value ?? drop.error.value)
</script>

<template>
  <div class="page">
    <PageHead title="Shelf" note="templates and quick texts"
      ><template #beside><ShelfTabs /></template
    ></PageHead>
    <div class="panes">
      <aside>
        <section v-for="k in kinds" :key="k.kind">
          <div class="row">
            <h2>{{ k.words }}</h2>
            <button class="link small push" @click="edit(k.kind)">
              Add<span class="sr-only"> to {{ k.words }}</span>
            </button>
          </div>
          <ul>
            <li v-for="s in shelf?.filter((i) => i.kind === k.kind)" :key="s.id">
              <button class="item" :aria-pressed="editing && form.id === s.id" @click="edit(s.kind, s)">
                <b
                  ><bdi>{{ s.name }}</bdi></b
                >
                <span class="quiet small">for {{ s.shared }} · {{ s.by }}, {{ times.day(s.at) }}</span>
                <span class="quiet small said" dir="auto">{{ s.plain }}</span>
              </button>
            </li>
          </ul>
          <p v-if="!shelf?.some((i) => i.kind === k.kind)" class="quiet small">{{ k.none }}</p>
        </section>
      </aside>
      <section v-if="editing" class="edit" :aria-label="form.id ? form.name : 'New'">
        <SayNote v-if="problem" kind="bad">{{ problem.message }}</SayNote>
        <form id="item" class="sheet" @submit.prevent="save.mutate()">
          <div class="line">
            <label
              >Name <TextField v-model="form.name" maxlength="200" required :readonly="!changeable"
            /></label>
            <label
              >For
              <SelectField
                v-model="form.shared"
                :disabled="!changeable"
                :items="[
                  { value: 'own', title: 'only me' },
                  ...(session?.scope.whole || form.shared === 'all'
                    ? [{ value: 'all', title: 'everybody' }]
                    : []),
                  ...(choices?.units ?? []).map((u) => ({ value: String(u.id), title: u.path })),
                ]"
            /></label>
          </div>
          <RichEditor
            v-if="form.kind === 'quick-text'"
            :key="form.id"
            v-model="form.content.email"
            label="Words"
            placeholder="A few words"
            :fields="fields"
          />
          <p v-else class="quiet small">
            Write <code v-pre>{{ask: day}}</code> where something is to be filled in when it is used.
          </p>
        </form>
        <WhatPane
          v-if="form.kind === 'template'"
          :key="form.id"
          v-model:draft="form.content"
          :stale="false"
        />
        <div class="row">
          <v-btn v-if="changeable" type="submit" form="item" color="primary" variant="flat">{{
            form.id ? 'Save a new version' : 'Put on the shelf'
          }}</v-btn>
          <v-btn @click="editing = false">Never mind</v-btn>
          <v-btn v-if="form.id && changeable" class="push" @click="drop.mutate(form.id)">Delete</v-btn>
        </div>
        <ShelfVersions
          v-if="form.id"
          :item="form.id"
          :changeable="changeable"
          @bring-back="form.content = { ...emptyDraft(), ...$event }"
        />
      </section>
      <EmptyNote v-else title="Choose something, or add it">
        A template is a whole message without its people. A quick text is a few words that are put into
        messages again and again. Each keeps its earlier versions.
      </EmptyNote>
    </div>
  </div>
</template>

<style scoped>
.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 360px minmax(0, 1fr);
}

aside,
.edit {
  overflow-y: auto;
  padding: 14px 16px;
}

aside {
  border-inline-end: 1px solid var(--line);
  background: var(--pane);
}

aside section + section {
  margin-top: 18px;
}

ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

.item {
  display: grid;
  width: 100%;
  gap: 1px;
  border: 0;
  border-bottom: 1px solid var(--hair);
  background: none;
  padding: 7px 6px;
  font: inherit;
  color: inherit;
  text-align: start;
  cursor: pointer;
}

.item[aria-pressed='true'] {
  background: #e3edf0;
}

.said {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

form {
  padding: 14px;
  display: grid;
  gap: 10px;
}

.edit {
  max-width: 800px;
}

.edit :deep(.what) {
  padding: 8px 0;
}

.line {
  display: grid;
  grid-template-columns: 1fr 220px;
  gap: 12px;
}

label {
  display: grid;
  gap: 3px;
  font-size: 12.5px;
  color: var(--ink2);
}

h2 {
  font-size: 13.5px;
}
</style>
