<script setup lang="ts">
import { computed } from 'vue'
import type { Plan } from '@/api/client'
import { people, thousands } from '@/composables/words'
import type { Figure } from './PeopleDrawer.vue'

/** Who gets a copy in their language, and who gets the original though they read another. */
const props = defineProps<{ plan: Plan }>()
const emit = defineEmits<{ open: [figure: Figure] }>()

const sum = (list: Plan['languages']) => list.reduce((n, l) => n + l.people, 0)
const copies = computed(() => props.plan.copies.filter((c) => c.used && c.people))
const inCopies = computed(() => copies.value.reduce((n, c) => n + c.people, 0))
const others = computed(() => props.plan.languages.filter((l) => !l.reads && !l.got))
const otherPeople = computed(() => sum(others.value))
</script>

<template>
  <p v-if="inCopies" class="small quiet lang">
    {{ people(inCopies) }} {{ inCopies === 1 ? 'gets' : 'get' }} a copy:
    <template v-for="(c, i) in copies" :key="c.language"
      ><template v-if="i">, </template
      ><button
        class="link plain"
        @click="emit('open', { copy: c.language, title: `They get the ${c.name} copy` })"
      >
        {{ c.name }} {{ thousands(c.people) }}
      </button></template
    >.
  </p>
  <p v-if="otherPeople" class="small quiet lang">
    <button class="link" @click="emit('open', { language: 'other', title: 'They get the original' })">
      {{ people(otherPeople) }}
    </button>
    {{ otherPeople === 1 ? 'reads' : 'read' }} another language and
    {{ otherPeople === 1 ? 'gets' : 'get' }} the original:
    <template v-for="(l, i) in others" :key="l.tag"
      ><template v-if="i">, </template
      ><button class="link plain" @click="emit('open', { language: l.tag, title: `They read ${l.name}` })">
        {{ l.name }} {{ thousands(l.people) }}
      </button></template
    >.
  </p>
</template>

<style scoped>
.lang {
  margin-top: 8px;
}
</style>
