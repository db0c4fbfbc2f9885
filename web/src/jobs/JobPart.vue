<script setup lang="ts">
import { computed, ref } from 'vue'
import { mdiClose } from '@mdi/js'
import type { Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { thousands } from '@/composables/words'
import FindBox, { type Found } from '@/components/FindBox.vue'
import SelectField from '@/controls/SelectField.vue'
import { parts, type Part } from './jobs'

/** The people of a job who have one part in it. */
const props = defineProps<{ title: string; part: Part; people: Schemas['JobPerson'][]; editable: boolean }>()
const emit = defineEmits<{ put: [whom: Partial<Schemas['PutPeople']>, part: Part]; out: [person: number] }>()
const { show } = usePersonDrawer()

const adding = ref(false)
const some = 14
const all = ref(false)
const shown = computed(() => (all.value ? props.people : props.people.slice(0, some)))
function add(found: Found) {
  if (found.kind === 'group') emit('put', { group: found.id }, props.part)
  else if (found.kind === 'unit') emit('put', { unit: found.id }, props.part)
  else emit('put', { people: [found.id] }, props.part)
}
/** Whose part is being changed. */
const moving = ref(0)
function move(person: number, part: Part) {
  moving.value = 0
  emit('put', { people: [person] }, part)
}
const others = computed(() => parts.map((p) => ({ value: p.part, title: p.title })))
</script>

<template>
  <section :aria-label="title">
    <h3>
      <span>{{ title }}</span><span class="num">{{ thousands(people.length) }}</span>
    </h3>
    <ul>
      <li v-for="p in shown" :key="p.id">
        <span class="who">
          <button class="link" @click="show(p.id)">
            <bdi>{{ p.name }}</bdi>
          </button>
          <span class="small more">
            <span class="quiet">{{ p.number || 'no number' }}</span>
            <span v-if="p.came" class="came">said that they come</span>
            <span v-if="!p.own" class="quiet">by a group</span>
            <span v-if="p.status !== 'active'" class="away">{{ p.status }}</span>
          </span>
        </span>
        <template v-if="editable">
          <button
            v-if="moving !== p.id"
            class="link small"
            :aria-label="`Move ${p.name}`"
            @click="moving = p.id"
          >
            Move…
          </button>
          <SelectField
            v-else
            class="move"
            :model-value="part"
            :items="others"
            :aria-label="`Part of ${p.name}`"
            @update:model-value="move(p.id, $event as Part)"
          />
          <button v-if="p.own" class="icon" :aria-label="`Take ${p.name} out`" @click="$emit('out', p.id)">
            <v-icon :icon="mdiClose" size="13" />
          </button>
          <span v-else />
        </template>
      </li>
    </ul>
    <p v-if="!people.length" class="quiet small">Nobody yet.</p>
    <button v-if="people.length > some" class="link small" @click="all = !all">
      {{ all ? 'Show fewer' : `Show all ${people.length}` }}
    </button>
    <template v-if="editable">
      <FindBox v-if="adding" :kinds="['person', 'group', 'unit']" label="Person, group or area" @pick="add" />
      <button class="link small" @click="adding = !adding">{{ adding ? 'Done' : 'Add…' }}</button>
    </template>
  </section>
</template>

<style scoped>
h3 {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  color: var(--ink2);
  border-bottom: 1px solid var(--line);
  padding-bottom: 3px;
  margin: 0 0 4px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto 22px;
  gap: 6px;
  align-items: center;
  padding: 3px 0;
  border-bottom: 1px solid var(--hair, #eef1f2);
}

.who {
  overflow-wrap: anywhere;
}

.more {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
}

.move {
  width: 134px;
}

.came {
  color: var(--moss, #2c6e49);
}

.away {
  color: #8a5a00;
}
</style>
