<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { count } from '@/composables/words'
import FindBox, { type Found } from '@/components/FindBox.vue'
import SayNote from '@/components/SayNote.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SelectField from '@/controls/SelectField.vue'

/** Asks people or accounts to read a copy by a personal link. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ message: number; language: string; name: string }>()
const client = useQueryClient()
const path = () => ({ id: props.message, language: props.language })

type Reader = Schemas['ReaderView']

const { data, error } = useQuery({
  queryKey: computed(() => ['readers', props.message, props.language]),
  queryFn: () => take(api.GET('/messages/{id}/copies/{language}/readers', { params: { path: path() } })),
  enabled: open,
  staleTime: 0,
})
const found = ref<Reader[]>([])
const chosen = reactive(new Set<string>())
const keyOf = (r: Reader) => (r.person ? `person ${r.person}` : `account ${r.account}`)
const readers = computed(() => [...found.value, ...(data.value?.readers ?? [])])

function add(f: Found) {
  const reader = { person: f.id, name: f.name, detail: f.note }
  if (!readers.value.some((r) => r.person === f.id)) found.value.unshift(reader)
  chosen.add(keyOf(reader))
}

const days = ref(3)
const ask = useMutation({
  mutationFn: () => {
    const asked = readers.value.filter((r) => chosen.has(keyOf(r)))
    return take(
      api.POST('/messages/{id}/copies/{language}/readings', {
        params: { path: path() },
        body: {
          people: asked.flatMap((r) => r.person ?? []),
          accounts: asked.flatMap((r) => r.account ?? []),
          until: new Date(Date.now() + days.value * 86_400_000).toISOString(),
        },
      }),
    )
  },
  onSuccess: (asked) => {
    if (!asked.some((r) => r.problem)) open.value = false
  },
  onSettled: () => client.invalidateQueries({ queryKey: ['messages', props.message] }),
})
watch(open, () => {
  chosen.clear()
  found.value = []
  ask.reset()
})
</script>

<template>
  <v-dialog v-model="open" max-width="520" :aria-label="`Ask for a reading of the ${name} copy`" scrollable>
    <form class="ask sheet" @submit.prevent="chosen.size && ask.mutate()">
      <h2>Ask for a reading of the {{ name }} copy</h2>
      <p class="small quiet">
        Each gets a message in their own language, by their own channels, with a link of their own. They see
        the original and the copy line by line, and need no account.
      </p>
      <FindBox :kinds="['person']" label="Find somebody on the roster" @pick="add" />
      <ul aria-label="Who is asked">
        <li v-for="r in readers" :key="keyOf(r)">
          <label
            ><CheckBox
              :model-value="chosen.has(keyOf(r))"
              @update:model-value="$event ? chosen.add(keyOf(r)) : chosen.delete(keyOf(r))"
            />
            <span class="who"
              ><bdi>{{ r.name }}</bdi>
              <span class="small quiet">
                {{ r.account ? `account${r.detail ? `, ${r.detail}` : ''}` : r.detail }}</span
              ></span
            ></label
          >
        </li>
      </ul>
      <p v-if="data && !data.set" class="small quiet">
        Settings, Sending can name the attribute that says who reads which language for you: then they stand
        here.
      </p>
      <label class="field"
        ><span>The link works for</span>
        <SelectField
          v-model="days"
          :items="[
            { value: 1, title: 'a day' },
            { value: 3, title: '3 days' },
            { value: 7, title: 'a week' },
            { value: 30, title: '30 days' },
          ]"
      /></label>
      <SayNote v-if="error ?? ask.error.value" kind="bad">{{ (error ?? ask.error.value)?.message }}</SayNote>
      <SayNote v-for="r in ask.data.value?.filter((r) => r.problem)" :key="r.id" kind="mind">
        The request to {{ r.name }} did not leave: {{ r.problem }} Copy their link and give it to them by
        hand.
      </SayNote>
      <div class="row">
        <v-btn @click="open = false">{{ ask.data.value ? 'Close' : 'Never mind' }}</v-btn>
        <v-btn
          type="submit"
          color="primary"
          variant="flat"
          class="push"
          :disabled="!chosen.size"
          :loading="ask.isPending.value"
          >Ask {{ count(chosen.size, 'reader', 'readers') }}</v-btn
        >
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
.ask {
  padding: 16px 18px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 260px;
  overflow-y: auto;
}

.who {
  display: flex;
  align-items: baseline;
  gap: 8px;
}

li label {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 34px;
  border-bottom: 1px solid var(--hair);
}
</style>
