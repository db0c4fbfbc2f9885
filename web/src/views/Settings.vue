<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useSession } from '@/composables/session'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'
import AccountSettings from '@/settings/AccountSettings.vue'
import AttributeSettings from '@/settings/AttributeSettings.vue'
import BackupSettings from '@/settings/BackupSettings.vue'
import CarrierSettings from '@/settings/CarrierSettings.vue'
import DeskSettings from '@/settings/DeskSettings.vue'
import HabitSettings from '@/settings/HabitSettings.vue'
import OfficeSettings from '@/settings/OfficeSettings.vue'
import SendingSettings from '@/settings/SendingSettings.vue'
import UnitSettings from '@/settings/UnitSettings.vue'

const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const { data: session } = useSession()
const { data, error } = useQuery({
  queryKey: ['roster', 'settings'],
  queryFn: () => take(api.GET('/settings')),
})

const tabs = [
  { key: 'accounts', words: 'Accounts' },
  { key: 'organisation', words: 'Organisation' },
  { key: 'carriers', words: 'Carriers' },
  { key: 'sending', words: 'Sending' },
  { key: 'units', words: 'Units' },
  { key: 'desks', words: 'Desks' },
  { key: 'habits', words: 'Roles and languages' },
  { key: 'attributes', words: 'Attributes' },
  { key: 'backups', words: 'Backups' },
]
const tab = computed({
  get: () => String(route.query.of ?? 'accounts'),
  set: (of) => void router.replace({ query: { of } }),
})

const problem = ref('')
const said = useTemplateRef<HTMLElement>('said')
/** Runs a change and shows what came of it. */
async function change(request: () => Promise<unknown>): Promise<boolean> {
  problem.value = ''
  try {
    await request()
    await client.invalidateQueries({ queryKey: ['roster'] })
    await client.invalidateQueries({ queryKey: ['accounts'] })
    return true
  } catch (e) {
    problem.value = (e as Error).message
    await nextTick()
    said.value?.scrollIntoView({ block: 'center' }) // whoever pressed the button may be far below
    return false
  }
}
</script>

<template>
  <div class="page">
    <PageHead title="Settings" :note="session?.organisation">
      <template #beside>
        <div class="tabs" role="tablist">
          <button
            v-for="t in tabs"
            :key="t.key"
            role="tab"
            :aria-selected="tab === t.key"
            @click="((tab = t.key), (problem = ''))"
          >
            {{ t.words }}
          </button>
        </div>
      </template>
    </PageHead>
    <div class="body">
      <div v-if="error || problem" ref="said">
        <SayNote kind="bad">{{ error?.message ?? problem }}</SayNote>
      </div>
      <template v-if="data">
        <AccountSettings v-if="tab === 'accounts'" :settings="data" :change="change" />
        <OfficeSettings v-else-if="tab === 'organisation'" :change="change" />
        <CarrierSettings v-else-if="tab === 'carriers'" />
        <BackupSettings v-else-if="tab === 'backups'" />
        <DeskSettings v-else-if="tab === 'desks'" :settings="data" :change="change" />
        <UnitSettings v-else-if="tab === 'units'" :settings="data" :change="change" />
        <SendingSettings v-else-if="tab === 'sending'" :settings="data" :change="change" />
        <HabitSettings v-else-if="tab === 'habits'" :settings="data" :change="change" />
        <AttributeSettings v-else :settings="data" :change="change" />
      </template>
    </div>
  </div>
</template>
