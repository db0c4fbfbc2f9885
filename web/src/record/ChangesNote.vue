<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { people } from '@/composables/words'
import SayNote from '@/components/SayNote.vue'

/** What changed on the roster between the check of a message and its leaving. */
const props = defineProps<{ changes: NonNullable<Schemas['RecordView']['changes']>; waits: boolean }>()
const times = useTimes()
const open = ref(false)

const few = 3
const shown = computed(() => (open.value ? props.changes.list : props.changes.list.slice(0, few)))
const hidden = computed(() => props.changes.all - shown.value.length)
</script>

<template>
  <SayNote :kind="waits ? 'mind' : 'good'">
    <template v-if="changes.failed"
      >It could not be compared with the roster as it is now, so that nobody can tell whether the right people
      would get it. The log of the program says why. Sending it compares it again.</template
    >
    <template v-else>
      Since it was checked, the roster changed for {{ people(changes.all) }}.
      {{
        waits
          ? 'That is more than goes without a yes.'
          : `It was planned again ${times.moment(changes.at)}, before it left.`
      }}
    </template>
    <ul v-if="shown.length">
      <li v-for="(c, i) in shown" :key="i">
        <bdi>{{ c.name }}</bdi> {{ c.about }}
      </li>
    </ul>
    <button v-if="!open && hidden > 0" class="link small" @click="open = true">
      And {{ people(hidden) }} more
    </button>
  </SayNote>
</template>

<style scoped>
ul {
  margin: 3px 0 2px;
  padding-inline-start: 18px;
}
</style>
