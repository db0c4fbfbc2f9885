<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { usePlanned } from '@/composables/planned'
import { api, take, type Channel, type Draft } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { people } from '@/composables/words'
import PageTurner from '@/components/PageTurner.vue'
import SayNote from '@/components/SayNote.vue'
import SideDrawer from '@/controls/SideDrawer.vue'

/** A figure of the plan behind which there are names. */
export interface Figure {
  title: string
  note?: string
  step?: number
  reason?: string
  over?: boolean
  channel?: Channel
  language?: string
  copy?: string
  wished?: boolean
  overridden?: boolean
  quiet?: boolean
}

const figure = defineModel<Figure | undefined>()
const props = defineProps<{ asked: string; draftId: number }>()
const emit = defineEmits<{ steps: [] }>()
const pageSize = 200
const first = ref(0)
const { show } = usePersonDrawer()

const asking = computed(() => {
  const query: Partial<Figure> = { ...figure.value }
  delete query.title
  delete query.note
  return query
})
const open = computed({ get: () => Boolean(figure.value), set: (now) => !now && (figure.value = undefined) })
watch(figure, () => (first.value = 0))

// The ways out, by the reason for which people get nothing.
const why = (...reasons: string[]) => reasons.includes(figure.value?.reason ?? '')
const byLetter = computed(() => props.draftId > 0 && why('no-address', 'all-dead', 'no-content', 'any'))
const byAsking = computed(() => why('no-address', 'all-dead', 'no-guardian'))
const sheets = computed(() => ({
  path: '/people/sheets',
  query: { ids: data.value?.people.map((p) => p.id).join(',') },
}))

const message = usePlanned()
const { data, error } = useQuery({
  queryKey: computed(() => ['plan-people', message.value, props.asked, figure.value, first.value]),
  queryFn: () =>
    take(
      api.POST('/plan/people', {
        params: {
          query: {
            ...asking.value,
            message: message.value,
            first: first.value,
            count: pageSize,
          },
        },
        body: JSON.parse(props.asked) as Draft,
      }),
    ),
  enabled: open,
  gcTime: 5000,
})
</script>

<template>
  <SideDrawer v-model="open" :title="figure?.title ?? ''" :note="data ? people(data.all) : ''">
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <p v-if="figure?.note" class="quiet way">{{ figure.note }}</p>
    <p v-if="data?.all && (byLetter || byAsking || why('no-content'))" class="way out">
      <router-link v-if="byAsking" class="link" :to="sheets">Sheets that ask for their details</router-link>
      <router-link v-if="byLetter" class="link" :to="`/write/${draftId}/letters`">Print letters</router-link>
      <button v-if="why('no-content')" class="link" @click="((open = false), emit('steps'))">
        Choose other channels
      </button>
    </p>
    <ul>
      <li v-for="p in data?.people" :key="p.id">
        <button class="link" :disabled="p.id < 0" @click="((open = false), show(p.id))">
          <bdi>{{ p.name }}</bdi>
        </button>
        <span class="quiet small">{{ p.detail }}</span>
      </li>
    </ul>
    <PageTurner v-model="first" :size="pageSize" :all="data?.all ?? 0" />
  </SideDrawer>
</template>

<style scoped>
.way {
  margin-bottom: 8px;
}

.out {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 2px 12px;
  padding: 6px 0;
  border-bottom: 1px solid var(--hair);
}
</style>
