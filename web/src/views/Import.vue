<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, asFile, take, type Schemas } from '@/api/client'
import { useChoices } from '@/composables/choices'
import { useSaid } from '@/composables/said'
import { useRights, useTimes } from '@/composables/session'
import { count, people, thousands } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import PeopleTabs from '@/components/PeopleTabs.vue'
import SayNote from '@/components/SayNote.vue'
import FileDrop from '@/roster/FileDrop.vue'
import ImportColumns from '@/roster/ImportColumns.vue'
import ImportFigures from '@/roster/ImportFigures.vue'
import ImportQuestions from '@/roster/ImportQuestions.vue'
import ImportReading from '@/roster/ImportReading.vue'
import ImportOutcome from '@/roster/ImportOutcome.vue'
import RadioBox from '@/controls/RadioBox.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

const props = defineProps<{ id?: string }>()
const router = useRouter()
const client = useQueryClient()
const { undo } = useSaid()
const { moment } = useTimes()
const { data: choices } = useChoices()
const may = useRights()
const number = computed(() => Number(props.id || 0))

const { data, error } = useQuery({
  queryKey: ['import', number],
  queryFn: () => take(api.GET('/imports/{id}', { params: { path: { id: number.value } } })),
  enabled: computed(() => number.value > 0),
  // Events may be missed while loading.
  refetchInterval: (query) => (query.state.data?.state === 'loading' ? 1000 : false),
})
const { data: last } = useQuery({
  queryKey: ['roster', 'last import'],
  queryFn: () => take(api.GET('/imports/last')),
})

type View = Schemas['ImportView']
const keep = (view: View) => client.setQueryData(['import', view.id], view)
watch(
  () => data.value?.state,
  (now) => now === 'loaded' && void client.invalidateQueries({ queryKey: ['roster'] }),
)

const give = useMutation({
  mutationFn: (file: File) =>
    take(api.POST('/imports', { params: { query: { name: file.name } }, ...asFile(file) })),
  onSuccess: async (view) => {
    keep(view)
    await router.push(`/people/import/${view.id}`)
  },
})

interface Understanding {
  meanings?: string[]
  markLeft?: boolean
  unit?: number
  reading?: View['reading']
}

const map = useMutation({
  mutationFn: (u: Understanding): Promise<View> => {
    const d = data.value!
    return take(
      api.PUT('/imports/{id}', {
        params: { path: { id: number.value } },
        body: {
          meanings: d.columns.map((c) => c.meaning),
          markLeft: d.markLeft,
          unit: d.unit,
          reading: d.reading,
          ...u,
        },
      }),
    )
  },
  onSuccess: keep,
})

const load = useMutation({
  mutationFn: (): Promise<View> =>
    take(api.POST('/imports/{id}/load', { params: { path: { id: number.value } } })),
  onSuccess: keep,
})

const makeUnits = useMutation({
  mutationFn: (): Promise<View> =>
    take(api.POST('/imports/{id}/units', { params: { path: { id: number.value } } })),
  onSuccess: async (view) => {
    keep(view)
    await client.invalidateQueries({ queryKey: ['roster'] })
  },
})

const mappingName = ref('')
const naming = ref(false)
const keepMapping = useMutation({
  mutationFn: (): Promise<View> =>
    take(
      api.POST('/imports/{id}/mapping', {
        params: { path: { id: number.value } },
        body: { name: mappingName.value },
      }),
    ),
  onSuccess: (view) => {
    keep(view)
    naming.value = false
    mappingName.value = ''
  },
})

function mean(column: number, meaning: string) {
  map.mutate({ meanings: (data.value?.columns ?? []).map((c, i) => (i === column ? meaning : c.meaning)) })
}

/** Something was asked about the file, now or before: the answers can be changed. */
const asked = computed(
  () =>
    data.value &&
    (data.value.questions.length > 0 ||
      Boolean(data.value.reading.dates) ||
      Object.keys(data.value.reading.statuses ?? {}).length > 0),
)
const leaving = computed(() => (data.value?.markLeft ? data.value.missingAll : 0))

async function back(edit: number) {
  await undo(edit)
  await client.invalidateQueries({ queryKey: ['import'] })
}

const nothing = computed(
  () => data.value && !data.value.added && !data.value.changed && !data.value.groups.length && !leaving.value,
)
const failed = computed(() =>
  [
    give.error.value,
    map.error.value,
    load.error.value,
    makeUnits.error.value,
    keepMapping.error.value,
    error.value,
  ].find(Boolean),
)
</script>

<template>
  <div class="page">
    <PageHead title="Load a file" :note="data ? data.fileName : ''">
      <template v-if="!number" #beside><PeopleTabs /></template>
      <v-btn v-if="data" to="/people">{{ data.state === 'loaded' ? 'See people' : 'Back to people' }}</v-btn>
      <v-btn v-if="data" to="/people/import">Another file…</v-btn>
      <v-btn
        v-if="data?.state === 'proposed'"
        color="primary"
        variant="flat"
        :disabled="Boolean(data.problem) || Boolean(nothing) || load.isPending.value || map.isPending.value"
        @click="load.mutate()"
        >{{
          data.added + data.changed + leaving ? `Load ${people(data.added + data.changed + leaving)}` : 'Load'
        }}</v-btn
      >
    </PageHead>
    <div class="body">
      <SayNote v-if="failed" kind="bad">{{ failed.message }}</SayNote>
      <template v-if="!number">
        <FileDrop :reading="give.isPending.value" @give="give.mutate($event)" />
        <section v-if="last?.id" class="sheet last" aria-label="The last file">
          <div>
            <b
              ><bdi>{{ last.fileName }}</bdi></b
            >
            was the last file, loaded by {{ last.by || 'the program' }}, {{ moment(last.at) }}.
            {{ last.result }}
          </div>
          <v-btn size="small" @click="back(last.edit)">Undo it as a whole</v-btn>
        </section>
      </template>

      <template v-else-if="data?.state === 'loading'">
        <section class="sheet progress">
          <h2>Loading {{ data.fileName }}</h2>
          <progress :value="data.done" :max="data.total || 1" aria-label="Loading" />
          <span class="quiet num"
            >{{ thousands(data.done) }} of {{ thousands(data.total) }} people. You can leave this page; it
            goes on.</span
          >
        </section>
      </template>

      <EmptyNote v-else-if="data?.state === 'loaded'" :title="data.result">
        Every row of {{ data.fileName }} went in together. Loading the same file again changes nothing.
        <template #action>
          <v-btn color="primary" variant="flat" to="/people">See people</v-btn>
          <v-btn v-if="data.edit && last?.edit === data.edit" @click="back(data.edit)"
            >Undo it as a whole</v-btn
          >
        </template>
      </EmptyNote>

      <template v-else-if="data">
        <SayNote v-if="data.result" kind="bad">{{ data.result }}</SayNote>
        <ImportQuestions
          v-if="asked"
          :proposed="data"
          @answer="map.mutate({ reading: { ...data.reading, ...$event } })"
        />
        <SayNote v-else-if="data.problem" kind="bad">{{ data.problem }}</SayNote>
        <SayNote v-else-if="nothing" kind="good"
          >Everybody in this file is on the roster already, just so. Loading it would change nothing.
          <template v-if="data.barsKept"
            >It has {{ count(data.barsKept, 'guardian', 'guardians') }} as receiving whose contact is barred:
            that stays so.</template
          ></SayNote
        >
        <ImportFigures v-else :proposed="data" />

        <section>
          <PaneHead title="How the columns were understood">
            {{ data.read }}<template v-if="data.mapping"> · as kept under “{{ data.mapping }}”</template>
            <button v-else-if="!naming" class="link keep" @click="naming = true">
              Keep this for next time…
            </button>
          </PaneHead>
          <form v-if="naming" class="row name" @submit.prevent="keepMapping.mutate()">
            <TextField
              v-model="mappingName"
              aria-label="Name of the mapping"
              placeholder="Name, such as school office"
            />
            <v-btn type="submit" size="small" :disabled="!mappingName.trim()">Keep</v-btn>
            <v-btn size="small" @click="naming = false">Never mind</v-btn>
          </form>
          <ImportReading :proposed="data" @read="map.mutate({ reading: { ...data.reading, ...$event } })" />
          <ImportColumns :proposed="data" @mean="mean" />
        </section>

        <section class="choices">
          <label class="field"
            ><span>New people whose row names no unit belong to</span>
            <SelectField
              :model-value="data.unit"
              :items="[
                { value: 0, title: 'the whole organisation' },
                ...(choices?.units ?? []).map((u) => ({ value: u.id, title: u.path })),
              ]"
              @update:model-value="map.mutate({ unit: Number($event) })"
          /></label>
          <div v-if="data.units.length && may('change-settings')" class="field units">
            <span>{{ count(data.units.length, 'name', 'names') }} of units that are not here</span>
            <span class="row small"
              ><bdi>{{ data.units.slice(0, 3).join(', ') }}{{ data.units.length > 3 ? ' …' : '' }}</bdi>
              <v-btn size="small" :disabled="makeUnits.isPending.value" @click="makeUnits.mutate()"
                >Make them units</v-btn
              ></span
            >
          </div>
          <fieldset v-if="data.missingAll" class="ticks">
            <legend>
              {{ people(data.missingAll) }} with the same roles {{ data.missingAll === 1 ? 'is' : 'are' }} not
              in the file
            </legend>
            <label class="tickbox"
              ><RadioBox
                name="missing"
                :model-value="!data.markLeft"
                @update:model-value="map.mutate({ markLeft: false })"
              />leave them alone</label
            >
            <label class="tickbox"
              ><RadioBox
                name="missing"
                :model-value="data.markLeft"
                @update:model-value="map.mutate({ markLeft: true })"
              />mark them as left</label
            >
          </fieldset>
        </section>

        <ImportOutcome :proposed="data" />
      </template>
    </div>
  </div>
</template>

<style scoped>
.keep {
  margin-inline-start: 14px;
}

.name {
  margin-bottom: 8px;
}

.last {
  padding: 10px 14px;
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
}

.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 32px;
  align-items: flex-start;
}

.progress {
  padding: 28px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}

.progress progress {
  width: 100%;
  accent-color: var(--sea);
}

.progress .num {
  text-align: start;
}
</style>
