<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { api, take, type Condition, type Draft } from '@/api/client'
import { leaveOut, singled } from '@/composables/draft'
import { usePersonDrawer } from '@/composables/personDrawer'
import { people } from '@/composables/words'
import PageTurner from '@/components/PageTurner.vue'
import RuleStack from '@/components/RuleStack.vue'
import SayNote from '@/components/SayNote.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import TextField from '@/controls/TextField.vue'

/** What is in a part of the audience; without a part, where a rule is made. */
const open = defineModel<boolean>({ required: true })
const draft = defineModel<Draft>('draft', { required: true })
const props = defineProps<{ part?: number; label: string; asked: string }>()
const emit = defineEmits<{ made: [part: number] }>()

const pageSize = 200
const first = ref(0)
const typed = ref('')
const search = refDebounced(typed, 150)
const { show } = usePersonDrawer()
const part = computed(() => draft.value.audience.parts[props.part ?? -1])
const byRule = computed(() => !part.value || part.value.kind === 'rule')
watch([open, search], () => (first.value = 0))
watch(open, () => (typed.value = ''))

const { data, error } = useQuery({
  queryKey: computed(() => ['plan-part', props.asked, props.part, search.value, first.value]),
  queryFn: ({ signal }) =>
    take(
      api.POST('/plan/part', {
        params: { query: { part: props.part, search: search.value, first: first.value, count: pageSize } },
        body: JSON.parse(props.asked) as Draft,
        signal,
      }),
    ),
  // The draft that was asked about may be behind by a moment.
  enabled: computed(
    () =>
      open.value &&
      props.part !== undefined &&
      (JSON.parse(props.asked) as Draft).audience.parts.length > props.part,
  ),
  placeholderData: keepPreviousData,
  gcTime: 5000,
})
const { data: kept } = useQuery({
  queryKey: ['roster', 'filters'],
  queryFn: () => take(api.GET('/filters')),
  enabled: computed(() => open.value && props.part === undefined),
})

const rule = computed<Condition[]>({
  get: () => (byRule.value ? part.value?.rule : part.value?.only) ?? [],
  set: (now) => change(now),
})

function change(now: Condition[], name?: string) {
  const parts = draft.value.audience.parts
  if (!part.value) {
    parts.push({ kind: 'rule', rule: now, ...(name ? { name } : {}) })
    emit('made', parts.length - 1)
  } else if (!byRule.value) {
    if (now.length) part.value.only = now
    else delete part.value.only
  } else if (now.length) {
    part.value.rule = now
    delete part.value.name // it is no longer the rule that was kept
  } else {
    parts.splice(props.part!, 1)
    open.value = false
  }
}

const single = (id: number) => singled(draft.value.audience.parts)?.people?.includes(id) ?? false
const title = computed(() => {
  if (!part.value) return 'People by a rule'
  return part.value.leaveOut ? `Left out: ${props.label}` : props.label
})
</script>

<template>
  <SideDrawer v-model="open" :title="title" :note="part && data ? people(data.all) : ''">
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <section v-if="!part?.leaveOut || byRule" class="rule">
      <h3>{{ byRule ? 'Everyone who' : 'Only those of them who' }}</h3>
      <RuleStack v-model="rule" :filters="part ? (data?.filters ?? []) : []" />
      <template v-if="!part && kept?.length">
        <h3>Or by a kept rule</h3>
        <ul class="kept">
          <li v-for="k in kept" :key="k.id">
            <button class="link" @click="change(k.rule, k.name)">
              <bdi>{{ k.name }}</bdi>
            </button>
          </li>
        </ul>
      </template>
    </section>
    <template v-if="part">
      <TextField
        v-model="typed"
        class="search"
        type="search"
        placeholder="Find somebody in it"
        aria-label="Find somebody in it"
      />
      <ul class="people">
        <li v-for="p in data?.people" :key="p.id" :class="{ gone: p.leftOut }">
          <button class="link" :disabled="p.id < 0" @click="((open = false), show(p.id))">
            <bdi>{{ p.name }}</bdi>
          </button>
          <span class="quiet small">{{ p.detail }}</span>
          <button
            v-if="!part.leaveOut && (!p.leftOut || single(p.id))"
            class="link small push"
            @click="leaveOut(draft.audience.parts, p.id)"
          >
            {{ single(p.id) ? 'Back in' : 'Leave out' }}
          </button>
          <span v-else-if="p.leftOut && !part.leaveOut" class="quiet small push">left out by a part</span>
        </li>
      </ul>
      <p v-if="data && !data.all" class="quiet">Nobody here.</p>
      <PageTurner v-model="first" :size="pageSize" :all="data?.all ?? 0" />
    </template>
  </SideDrawer>
</template>

<style scoped>
h3 {
  font-size: 12px;
  color: var(--ink2);
  margin: 0 0 6px;
}

.rule {
  margin-bottom: 14px;
  display: grid;
  gap: 4px;
}

.kept h3 {
  margin-top: 12px;
}

.search {
  width: 100%;
  box-sizing: border-box;
  font: inherit;
  border: 1px solid #8fa5ae;
  border-radius: 6px;
  padding: 6px 10px;
}

ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

.people li {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 10px;
  padding: 5px 0;
  border-bottom: 1px solid var(--hair);
}

.gone bdi {
  text-decoration: line-through;
}
</style>
