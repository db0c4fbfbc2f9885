<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useRights, useTimes } from '@/composables/session'
import { bytes } from '@/composables/words'

/** What the month came to, and how the last backup is, for those who look after them. */
const may = useRights()
const times = useTimes()
const { data: cost } = useQuery({
  queryKey: ['reports', 'month'],
  queryFn: () => take(api.POST('/reports/run', { body: { by: 'budget', span: { of: 'this-month' } } })),
  enabled: computed(() => may('run-reports')),
  staleTime: 300_000,
})
/** The organisation stands last; its spending, budget and share follow the month and its name. */
const month = computed(() => cost.value?.rows.at(-1)?.cells.map((c) => c.text))
const { data: backups } = useQuery({
  queryKey: ['backups'],
  queryFn: () => take(api.GET('/backups')),
  enabled: computed(() => may('change-settings')),
})
const last = computed(() => backups.value?.list[0])
const fails = computed(() => Boolean(backups.value?.on && (backups.value.problem || backups.value.missing)))
</script>

<template>
  <article v-if="month" class="sheet card">
    <h3>
      Spent this month <span class="small num">{{ month[2] }}</span>
    </h3>
    <p v-if="month[3]" class="small quiet">of {{ month[3] }} in the budget, {{ month[4] }}</p>
    <p><router-link class="link" to="/reports">See the report</router-link></p>
  </article>
  <article v-if="backups?.on && (last || fails)" class="sheet card" :class="{ missed: fails }">
    <h3>
      Backup <span v-if="last" class="small quiet num">{{ times.moment(last.at) }}</span>
    </h3>
    <p v-if="fails" class="small bad">{{ backups.problem || 'There is none that is new enough.' }}</p>
    <p v-else-if="last" class="small quiet">made and read back, {{ bytes(last.size) }}</p>
    <p><router-link class="link" to="/settings?of=backups">See backups</router-link></p>
  </article>
</template>
