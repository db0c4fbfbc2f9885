<script setup lang="ts">
import { computed } from 'vue'
import { useMutation, useQuery } from '@tanstack/vue-query'
import { mdiClose } from '@mdi/js'
import { api, asFile, take, type Schemas } from '@/api/client'
import { plainOf } from '@/composables/rich'
import { useRights } from '@/composables/session'
import { bytes } from '@/composables/words'
import SelectField from '@/controls/SelectField.vue'
import SayNote from '@/components/SayNote.vue'

/** Files that go with an answer by email, and texts that are kept on the shelf. */
const files = defineModel<Schemas['File'][]>({ required: true })
const props = defineProps<{ thread: number; carries: boolean }>()
const emit = defineEmits<{ put: [text: string] }>()
const may = useRights()

const { data: shelf } = useQuery({
  queryKey: ['shelf'],
  queryFn: () => take(api.GET('/shelf')),
  staleTime: 10_000,
  enabled: () => may('write'),
})
const quick = computed(() => shelf.value?.filter((s) => s.kind === 'quick-text') ?? [])

function put(id: number) {
  const item = quick.value.find((q) => q.id === id)
  if (item) emit('put', plainOf(item.content.email).trim())
}

const add = useMutation({
  mutationFn: async (picked: File[]) => {
    for (const file of picked) {
      const kept = await take(
        api.POST('/threads/{id}/files', {
          params: { path: { id: props.thread }, query: { name: file.name } },
          ...asFile(file),
        }),
      )
      files.value = [...files.value.filter((f) => f.hash !== kept.hash), kept]
    }
  },
})

function pick(event: Event) {
  const input = event.target as HTMLInputElement
  add.mutate([...(input.files ?? [])])
  input.value = ''
}
</script>

<template>
  <div v-if="quick.length || carries || files.length" class="extras small">
    <label v-if="carries" class="link"
      >Add files<input
        type="file"
        multiple
        class="unseen"
        aria-label="Add files to the answer"
        @change="pick"
    /></label>
    <span v-for="f in files" :key="f.hash" class="row file">
      <bdi>{{ f.name }}</bdi> <span class="quiet">{{ bytes(f.size) }}</span>
      <button
        type="button"
        class="icon"
        :aria-label="`Take away ${f.name}`"
        @click="files = files.filter((o) => o.hash !== f.hash)"
      >
        <v-icon :icon="mdiClose" size="13" />
      </button>
    </span>
    <span v-if="files.length && !carries" class="mind">Files go with an email only.</span>
    <SelectField
      v-if="quick.length"
      class="quick push"
      :model-value="0"
      :items="[{ value: 0, title: 'Quick text…' }, ...quick.map((q) => ({ value: q.id, title: q.name }))]"
      aria-label="Quick text"
      @update:model-value="put"
    />
    <SayNote v-if="add.error.value" kind="bad" class="problem">{{ add.error.value.message }}</SayNote>
  </div>
</template>

<style scoped>
.extras {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 5px 14px;
}

.unseen {
  position: absolute;
  opacity: 0;
  width: 0;
  height: 0;
}

.extras label:focus-within {
  outline: 2px solid var(--deep2);
}

.quick {
  flex: 0 0 142px;
}

.mind {
  color: var(--lampink);
}

.problem {
  flex: 1 1 100%;
}
</style>
