<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { mdiClose, mdiPlus } from '@mdi/js'
import { useDebounceFn } from '@vueuse/core'
import { api, take } from '@/api/client'
import { count } from '@/composables/words'
import FileMenu from '@/components/FileMenu.vue'
import PageTurner from '@/components/PageTurner.vue'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'
import ClauseForm from './ClauseForm.vue'
import FoundTable from './FoundTable.vue'
import { readSearch, writeSearch, type Clause, type Search } from './clauses'

/** Any message that was ever written, by conditions that stand in the page's address. */
const active = defineModel<boolean>('active', { required: true })

const route = useRoute()
const router = useRouter()
const client = useQueryClient()

const search = computed(() => readSearch(route.query.find))
watch(search, (s) => (active.value = Boolean(writeSearch(s))), { immediate: true })

const first = ref(0)
const pageSize = 100
function look(s: Search) {
  first.value = 0
  void router.replace({ query: { ...route.query, find: writeSearch(s) } })
}

/** The words are a condition like any other, typed where everybody looks first. */
const typed = ref(search.value.conditions.find((c) => c.on === 'words' && !c.not)?.value ?? '')
const others = computed(() => search.value.conditions.filter((c) => c.on !== 'words' || c.not))
const lookForWords = useDebounceFn((value: string) => {
  const words: Clause[] = value.trim() ? [{ on: 'words', value: value.trim() }] : []
  look({ ...search.value, conditions: [...words, ...others.value] })
}, 250)
watch(typed, (value) => void lookForWords(value))

const { data, error } = useQuery({
  queryKey: ['messages', 'found', search, first],
  queryFn: () =>
    take(api.POST('/messages/search', { body: { ...search.value, first: first.value, count: pageSize } })),
  enabled: active,
  placeholderData: keepPreviousData,
})
const words = (c: Clause) => data.value?.words[search.value.conditions.indexOf(c)] ?? '…'
const lost = (c: Clause) => data.value?.missing.includes(search.value.conditions.indexOf(c))

const { data: kept } = useQuery({ queryKey: ['searches'], queryFn: () => take(api.GET('/searches')) })
const adding = ref(false)
const name = ref('')
const naming = ref(false)

const keep = useMutation({
  mutationFn: () => take(api.POST('/searches', { body: { name: name.value, search: search.value } })),
  onSuccess: () => {
    naming.value = false
    name.value = ''
  },
  onSettled: () => client.invalidateQueries({ queryKey: ['searches'] }),
})
const forget = useMutation({
  mutationFn: (id: number) => take(api.DELETE('/searches/{id}', { params: { path: { id } } })),
  onSettled: () => client.invalidateQueries({ queryKey: ['searches'] }),
})

function use(s: Search) {
  typed.value = s.conditions.find((c) => c.on === 'words' && !c.not)?.value ?? ''
  look(s)
}
function drop(c: Clause) {
  look({ ...search.value, conditions: search.value.conditions.filter((o) => o !== c) })
}
function clear() {
  typed.value = ''
  look({ conditions: [] })
}
</script>

<template>
  <section class="find" aria-label="Find messages">
    <div class="top">
      <TextField
        v-model="typed"
        type="search"
        class="words"
        placeholder="Words in a subject or a text"
        aria-label="Words in a subject or a text"
        maxlength="300"
      />
      <button v-if="!adding" class="link more" @click="adding = true">
        <v-icon :icon="mdiPlus" size="15" /> Add a condition
      </button>
      <span v-for="k in kept?.kept" :key="k.id" class="kept">
        <button class="link" @click="use(k.search)">
          <bdi>{{ k.name }}</bdi>
        </button>
        <button v-if="k.own" class="drop" :aria-label="`Forget ${k.name}`" @click="forget.mutate(k.id)">
          <v-icon :icon="mdiClose" size="13" />
        </button>
      </span>
      <FileMenu v-slot="{ menu }" :what="{ search }">
        <button v-bind="menu" class="link file">
          {{ active ? 'Save what is found as…' : 'Save the list as…' }}
        </button>
      </FileMenu>
    </div>
    <ClauseForm
      v-if="adding"
      :senders="kept?.senders ?? []"
      @close="adding = false"
      @add="((adding = false), look({ ...search, conditions: [...search.conditions, $event] }))"
    />
    <ul v-if="others.length" class="clauses" aria-label="Conditions">
      <li v-for="(c, i) in others" :key="i" class="sheet" :class="{ bad: lost(c) }">
        <bdi>{{ words(c) }}</bdi>
        <button class="drop" :aria-label="`Take away: ${words(c)}`" @click="drop(c)">
          <v-icon :icon="mdiClose" size="14" />
        </button>
      </li>
    </ul>
    <SayNote v-if="error ?? keep.error.value" kind="bad">{{ (error ?? keep.error.value)?.message }}</SayNote>
    <template v-if="active">
      <div class="sum">
        <b v-if="data">{{ count(data.all, 'message', 'messages') }}</b>
        <span v-if="data?.missing.length" class="bad small"
          >A condition names something that is no longer there.</span
        >
        <form v-if="naming" class="row" @submit.prevent="keep.mutate()" @keydown.esc.stop="naming = false">
          <TextField v-model="name" aria-label="Name of the search" placeholder="Name" maxlength="100" />
          <v-btn type="submit" size="small" :disabled="!name.trim()">Keep</v-btn>
        </form>
        <button v-else class="link small" @click="naming = true">Keep this search…</button>
        <button class="link small" @click="clear">Show everything</button>
      </div>
      <FoundTable
        v-if="data?.messages.length"
        :messages="data.messages"
        :order="search.order ?? ''"
        @order="look({ ...search, order: $event })"
      />
      <p v-else-if="data" class="quiet">No message is found by this.</p>
      <PageTurner v-model="first" :size="pageSize" :all="data?.all ?? 0" />
    </template>
  </section>
</template>

<style scoped>
.find {
  display: flex;
  flex-direction: column;
  gap: 8px;
  margin-bottom: 14px;
}

.top,
.sum {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 14px;
}

.words {
  width: 320px;
}

.more {
  display: inline-flex;
  align-items: center;
  gap: 3px;
}

.kept {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  border-inline-start: 2px solid var(--line);
  padding-inline-start: 8px;
}

.file {
  margin-inline-start: auto;
}

.clauses {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.clauses li {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  padding: 3px 6px 3px 10px;
}

.drop {
  border: 0;
  background: none;
  padding: 0;
  color: var(--ink2);
  cursor: pointer;
}
</style>
