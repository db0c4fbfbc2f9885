<script setup lang="ts">
import { computed } from 'vue'
import { api, take } from '@/api/client'
import { useTimes } from '@/composables/session'
import { toWall } from '@/composables/zoned'
import MomentField from './MomentField.vue'

/** A day and a time on the organisation's clocks, typed or chosen; undefined is none. */
const instant = defineModel<string>()

const times = useTimes()
const shown = computed(() => times.whole(instant.value))
const day = computed(() => (instant.value ? toWall(instant.value, times.zone.value).slice(0, 10) : ''))

/** The server knows which instant is meant, also on days when clocks change. */
async function read(typed: string): Promise<string> {
  if (!typed.trim()) {
    instant.value = undefined
    return ''
  }
  const answer = await take(
    api.GET('/moments', {
      params: { query: { typed, ...(instant.value ? { before: instant.value } : {}) } },
    }),
  )
  instant.value = answer.at
  if (answer.note === 'skipped')
    return `Clocks are put forward over that time: it is ${times.clock(answer.at)}.`
  if (answer.note === 'twice') return 'Clocks are put back that night: the first of the two is meant.'
  return ''
}
</script>

<template>
  <MomentField moment :shown="shown" :day="day" :read="read" placeholder="tomorrow 7:30" />
</template>
