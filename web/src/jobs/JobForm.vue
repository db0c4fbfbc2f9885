<script setup lang="ts">
import { computed, reactive, ref, onMounted, useTemplateRef } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { mdiClose } from '@mdi/js'
import { api, take, type Schemas } from '@/api/client'
import { useChoices, useGroups } from '@/composables/choices'
import { useSession } from '@/composables/session'
import { people } from '@/composables/words'
import FindBox from '@/components/FindBox.vue'
import SayNote from '@/components/SayNote.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'
import TimeField from '@/controls/TimeField.vue'
import type { Job } from './jobs'

/** What a job is called, where and when it is; a new one can begin like another. */
const props = defineProps<{ job?: Job; like?: Job; templates: Schemas['JobTemplate'][] }>()
const emit = defineEmits<{ saved: [id: number]; leave: [] }>()

const client = useQueryClient()
const { data: session } = useSession()
const { data: choices } = useChoices()
const { data: groups } = useGroups()
const of = props.job ?? props.like
const draft = reactive({
  name: props.job?.name ?? '',
  reference: props.job?.reference ?? '',
  place: of?.place ?? '',
  unit: of?.unit ?? session.value?.scope.units[0] ?? 0,
  inside: [...(of?.inside ?? [])],
})
const starts = ref(props.job?.starts)
const ends = ref(props.job?.ends)
const template = ref(0)
const nested = computed(() =>
  draft.inside.map((id) => ({ id, name: groups.value?.find((x) => x.id === id)?.name ?? '…' })),
)
const units = computed(() => [
  ...(session.value?.scope.whole ? [{ value: 0, title: 'the whole organisation' }] : []),
  ...(choices.value?.units ?? []).map((u) => ({ value: u.id, title: u.path })),
])
const templates = computed(() => [
  { value: 0, title: 'nothing' },
  ...props.templates.map((t) => ({ value: t.id, title: `${t.name} (${people(t.people)})` })),
])

const save = useMutation({
  mutationFn: async () => {
    const body = {
      name: draft.name,
      ...(draft.reference ? { reference: draft.reference } : {}),
      ...(draft.place ? { place: draft.place } : {}),
      ...(draft.unit ? { unit: draft.unit } : {}),
      ...(starts.value ? { starts: starts.value } : {}),
      ...(ends.value ? { ends: ends.value } : {}),
      ...(draft.inside.length ? { inside: draft.inside } : {}),
    }
    if (props.job) {
      await take(api.PUT('/jobs/{id}', { params: { path: { id: props.job.id } }, body }))
      return props.job.id
    }
    const made = await take(
      api.POST('/jobs', {
        body: {
          ...body,
          ...(props.like ? { like: props.like.id } : {}),
          ...(template.value ? { template: template.value } : {}),
        },
      }),
    )
    return made.id
  },
  onSuccess: async (id) => {
    await client.invalidateQueries({ queryKey: ['roster'] })
    emit('saved', id)
  },
})
const form = useTemplateRef('form')
onMounted(() => form.value?.querySelector('input')?.focus())
</script>

<template>
  <form
    ref="form"
    class="form"
    :aria-label="job ? 'Change the job' : 'A new job'"
    @submit.prevent="save.mutate()"
  >
    <h2>{{ job ? job.name : like ? `A new job like ${like.name}` : 'A new job' }}</h2>
    <p v-if="like" class="quiet small">
      It begins with the {{ people(like.people) }} of {{ like.name }}, each with their part, and with its
      length.
    </p>
    <SayNote v-if="save.error.value" kind="bad">{{ save.error.value.message }}</SayNote>
    <div class="two wide">
      <label class="field"
        ><span>Name</span
        ><TextField v-model="draft.name" dir="auto" maxlength="200" placeholder="Pump at the mill"
      /></label>
      <label class="field"
        ><span>Reference</span
        ><TextField v-model="draft.reference" dir="auto" maxlength="80" placeholder="as others call it"
      /></label>
    </div>
    <label class="field"
      ><span>Place</span><TextField v-model="draft.place" dir="auto" maxlength="200"
    /></label>
    <div class="two">
      <label class="field"><span>Starts</span><TimeField v-model="starts" /></label>
      <label class="field"><span>Expected to end</span><TimeField v-model="ends" /></label>
    </div>
    <div class="two">
      <label class="field"><span>Belongs to</span><SelectField v-model="draft.unit" :items="units" /></label>
      <label v-if="!job && !like && props.templates.length" class="field"
        ><span>Begins with the people of</span><SelectField v-model="template" :items="templates"
      /></label>
    </div>
    <div class="field">
      <span>Groups that stay in it</span>
      <p class="quiet small">Whoever is in them is in the job, also who comes into them later.</p>
      <div v-if="nested.length" class="chips">
        <span v-for="n in nested" :key="n.id" class="chip"
          ><bdi>{{ n.name }}</bdi
          ><button
            type="button"
            class="icon"
            :aria-label="`Take ${n.name} out`"
            @click="draft.inside = draft.inside.filter((id) => id !== n.id)"
          >
            <v-icon :icon="mdiClose" size="13" /></button
        ></span>
      </div>
      <FindBox
        :kinds="['group']"
        label="Put a group inside"
        @pick="(f) => f.id !== job?.id && !draft.inside.includes(f.id) && draft.inside.push(f.id)"
      />
    </div>
    <div class="acts">
      <v-btn
        type="submit"
        color="primary"
        variant="flat"
        :disabled="!draft.name.trim() || save.isPending.value"
      >
        {{ job ? 'Save the job' : 'Begin the job' }}
      </v-btn>
      <v-btn @click="$emit('leave')">Never mind</v-btn>
    </div>
  </form>
</template>

<style scoped>
.form {
  max-width: 640px;
  padding: 14px 18px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}

.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}

.wide {
  grid-template-columns: 2fr 1fr;
}

.field {
  display: flex;
  flex-direction: column;
  gap: 4px;
}

.field > span {
  font-size: 12px;
  color: var(--ink2);
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.chip {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 5px;
  padding: 3px 4px 3px 8px;
  font-size: 12.5px;
}

.acts {
  display: flex;
  gap: 10px;
}
</style>
