<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useMutation } from '@tanstack/vue-query'
import { api, asFile, take, type Part, type Schemas } from '@/api/client'
import { count, people } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import AreaField from '@/controls/AreaField.vue'

/** A pasted or uploaded list, looked at before it becomes parts of the audience. */
const text = defineModel<string>()
const emit = defineEmits<{ add: [parts: Part[]] }>()

const open = computed({ get: () => text.value !== undefined, set: (now) => !now && (text.value = undefined) })
const found = ref<Schemas['Listed']>()
const named = ref('')

const read = useMutation({
  mutationFn: () => take(api.POST('/plan/list', { body: { text: text.value ?? '' } })),
  onSuccess: (l) => (found.value = l),
})
const readFile = useMutation({
  mutationFn: (file: File) => take(api.POST('/plan/list-file', asFile(file))),
  onSuccess: (l) => (found.value = l),
})
const problem = computed(() => read.error.value ?? readFile.error.value)

watch(text, (now, before) => {
  found.value = undefined
  if (now === undefined) return
  if (before === undefined && now) read.mutate() // it was pasted elsewhere
  if (before === undefined) named.value = ''
})

function picked(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  named.value = file.name
  readFile.mutate(file)
}

const strangers = computed(() => (found.value ? found.value.addresses.length - found.value.known : 0))
const size = computed(() => (found.value ? found.value.addresses.length + found.value.people.length : 0))

function add() {
  const list = found.value
  if (!list) return
  const parts: Part[] = []
  if (list.addresses.length)
    parts.push({
      kind: 'addresses',
      addresses: list.addresses,
      ...(named.value ? { name: named.value } : {}),
    })
  if (list.people.length) parts.push({ kind: 'people', people: list.people })
  emit('add', parts)
  open.value = false
}
</script>

<template>
  <SideDrawer v-model="open" title="People from a list" note="numbers, mail addresses, names or ids">
    <AreaField
      v-model="text"
      rows="8"
      aria-label="The list"
      placeholder="07700 900123, sami@example.org"
      spellcheck="false"
    />
    <div class="row">
      <v-btn
        color="primary"
        variant="flat"
        :disabled="!text?.trim() || read.isPending.value"
        @click="read.mutate()"
        >Look it through</v-btn
      >
      <label class="file link">or a file (CSV, XLSX, vCard)<input type="file" @change="picked" /></label>
    </div>
    <SayNote v-if="problem" kind="bad">{{ problem.message }}</SayNote>
    <div v-if="found" role="status">
      <p v-if="found.addresses.length">
        {{ count(found.addresses.length, 'address', 'addresses') }}: {{ found.known }} on the roster,
        {{ strangers }} not. Whoever is not on the roster gets it at that address alone.
      </p>
      <p v-if="found.people.length">{{ people(found.people.length) }} by name or id.</p>
      <p v-if="!size">Nobody is meant by it.</p>
      <template v-if="found.unclear.length">
        <h3>{{ count(found.unclear.length, 'item', 'items') }} cannot be used</h3>
        <ul class="small">
          <li v-for="u in found.unclear.slice(0, 200)" :key="`${u.line}${u.text}`">
            line {{ u.line }}:
            <b
              ><bdi>{{ u.text }}</bdi></b
            >
            {{ u.problem }}
          </li>
        </ul>
      </template>
      <v-btn v-if="size" class="add" color="primary" variant="flat" @click="add"
        >Add {{ count(size, 'person or address', 'people and addresses') }}</v-btn
      >
    </div>
  </SideDrawer>
</template>

<style scoped>
.row {
  margin: 8px 0 12px;
}

.file input {
  position: absolute;
  opacity: 0;
  width: 1px;
}

.file:focus-within {
  outline: 2px solid var(--deep2);
}

h3 {
  font-size: 12.5px;
  margin: 10px 0 4px;
}

ul {
  margin: 0;
  padding-inline-start: 18px;
}

.add {
  margin-top: 12px;
}

.control {
  width: 100%;
}
</style>
