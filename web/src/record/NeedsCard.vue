<script setup lang="ts">
import { computed, ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { count, people } from '@/composables/words'
import PaneHead from '@/components/PaneHead.vue'
import NeedsDrawer from './NeedsDrawer.vue'
import { wayWords, type Group, type Way } from './needs'

/** Whom the message did not reach, by what would mend that. */
const props = defineProps<{ record: Schemas['RecordView'] }>()
const figures = computed(() => props.record.message.figures)
const missed = computed(() => figures.value.notReached + figures.value.leftOut)

// Working it out takes as long as planning the message: only when its figures changed.
const { data, error } = useQuery({
  queryKey: [
    'needs',
    computed(() => props.record.message.id),
    missed,
    computed(() => props.record.chain.length),
  ],
  queryFn: () => take(api.GET('/messages/{id}/needs', { params: { path: { id: props.record.message.id } } })),
  enabled: () => missed.value > 0,
  placeholderData: (before) => before,
})
const groups = computed(() => (missed.value ? (data.value?.groups ?? []) : []))
const retried = computed(() => props.record.failures.filter((f) => f.retrying))

const way = ref<Way>()
const shown = ref(false)
/** The one that is looked at, also once nobody is left in it. */
const group = computed<Group | undefined>(
  () =>
    groups.value.find((g) => g.way === way.value) ?? (way.value && { way: way.value, open: 0, people: [] }),
)
</script>

<template>
  <section aria-label="Needs a hand">
    <PaneHead title="Needs a hand" :note="missed && data ? people(data.open) : ''" />
    <p v-if="error" class="bad small">{{ error.message }}</p>
    <button
      v-for="g in groups"
      :key="g.way"
      class="todo"
      :class="{ done: !g.open }"
      @click="((way = g.way), (shown = true))"
    >
      <b>{{ wayWords[g.way] }}</b>
      <span class="quiet small">{{
        g.open ? `${people(g.open)}: see who, and what to do` : `all ${people(g.people.length)} done`
      }}</span>
    </button>
    <div v-for="f in retried" :key="f.detail" class="todo later">
      <b>{{ f.detail }}</b>
      <span class="quiet small"
        >{{ count(f.deliveries, 'delivery', 'deliveries') }}, tried again by itself</span
      >
    </div>
    <p v-if="!groups.length && !retried.length && (data || !missed)" class="quiet">
      Nothing: nobody is to be looked after.
    </p>
    <NeedsDrawer
      v-if="group && data"
      v-model="shown"
      :message="record.message.id"
      :group="group"
      :colleagues="data.colleagues"
    />
  </section>
</template>

<style scoped>
.todo {
  width: 100%;
  text-align: start;
  font: inherit;
  color: inherit;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-inline-start: 3px solid var(--brick);
  border-radius: 6px;
  padding: 7px 10px;
  margin-bottom: 7px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
}

button.todo {
  cursor: pointer;
}

button.todo:hover b {
  text-decoration: underline;
}

.todo.later {
  border-inline-start-color: var(--lamp);
}

.todo.done {
  border-inline-start-color: var(--sea);
}

.todo b::first-letter {
  text-transform: uppercase;
}
</style>
