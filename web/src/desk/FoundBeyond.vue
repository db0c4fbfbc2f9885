<script setup lang="ts">
import { computed, ref } from 'vue'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { people } from '@/composables/words'
import EverybodyIn from './EverybodyIn.vue'
import type { Beginning } from './beginning'

/** People, groups and areas by a few letters, with whom a thread can be begun: a person
 * with what they are in, and a group or an area with everybody in it. */
const props = defineProps<{ find: string }>()
defineEmits<{ begin: [how: Beginning] }>()

interface Hit {
  name: string
  note: string
  how: Beginning
  /** What a person is in. */
  among?: { name: string; how: Beginning }[]
  /** A group or an area. */
  holds?: { on: 'group' | 'unit'; id: number }
}
const { data } = useQuery({
  queryKey: ['find', computed(() => props.find)],
  queryFn: () => take(api.GET('/find', { params: { query: { search: props.find } } })),
  placeholderData: keepPreviousData,
})
const hits = computed((): Hit[] => {
  if (!data.value) return []
  return [
    ...data.value.people.map((p) => ({
      name: p.name,
      note: p.detail,
      how: { with: 'one', person: p.id } as const,
      among: [
        ...p.groups.map((g) => ({ name: g.name, how: { with: 'group', group: g.id } as const })),
        ...(p.unit ? [{ name: p.unit.name, how: { with: 'area', unit: p.unit.id } as const }] : []),
      ],
    })),
    ...data.value.units.map((u) => ({
      name: u.name,
      note: `area, ${people(u.people)}`,
      how: { with: 'area', unit: u.id } as const,
      holds: { on: 'unit', id: u.id } as const,
    })),
    ...data.value.groups.map((g) => ({
      name: g.name,
      note: `group, ${people(g.people)}`,
      how: { with: 'group', group: g.id } as const,
      holds: { on: 'group', id: g.id } as const,
    })),
  ].slice(0, 12)
})
const opened = ref('')
</script>

<template>
  <section v-if="hits.length" aria-label="On the roster">
    <h3>On the roster</h3>
    <ul>
      <li v-for="h in hits" :key="h.name + h.note">
        <button class="hit" @click="$emit('begin', h.how)">
          <bdi>{{ h.name }}</bdi> <span class="quiet small">{{ h.note }}</span>
        </button>
        <p v-if="h.among?.length" class="among small">
          <template v-for="(a, i) in h.among" :key="a.name"
            ><span v-if="i"> · </span
            ><button class="link small" :aria-label="`Thread with ${a.name}`" @click="$emit('begin', a.how)">
              <bdi>{{ a.name }}</bdi>
            </button></template
          >
        </p>
        <template v-if="h.holds">
          <p class="among small">
            <button
              class="link small"
              :aria-expanded="opened === h.name + h.note"
              @click="opened = opened === h.name + h.note ? '' : h.name + h.note"
            >
              Everybody in it
            </button>
          </p>
          <EverybodyIn
            v-if="opened === h.name + h.note"
            v-bind="h.holds"
            @begin="$emit('begin', { with: 'one', person: $event })"
          />
        </template>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h3 {
  font-size: 12px;
  color: var(--ink2);
  border-bottom: 1px solid var(--line);
  padding-bottom: 3px;
  margin: 12px 0 4px;
}

section > ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

.hit {
  width: 100%;
  padding: 4px 10px;
  border: 0;
  border-radius: 6px;
  background: none;
  font: inherit;
  color: inherit;
  text-align: start;
  cursor: pointer;
}

.hit:hover {
  background: var(--pane);
}

.among {
  padding: 0 10px 3px;
}

.among .link {
  font-weight: 500;
}
</style>
