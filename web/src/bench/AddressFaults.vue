<script setup lang="ts">
import { computed } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Channel, type Schemas } from '@/api/client'
import { useRights } from '@/composables/session'
import ChannelMark from '@/components/ChannelMark.vue'
import SelectField from '@/controls/SelectField.vue'

/** Somebody's addresses of some channels, and what is wrong with each. */
const props = defineProps<{ person: number; channels: Channel[]; none: string }>()
const client = useQueryClient()
const may = useRights()

const key = computed(() => ['bench', 'faults', props.person])
const { data } = useQuery({
  queryKey: key,
  queryFn: () => take(api.GET('/bench/people/{id}/faults', { params: { path: { id: props.person } } })),
})
type Fault = Schemas['FaultView']['fault']

/** A phone has the same number for texts and for calls. */
const addresses = computed(() => {
  const list = (data.value ?? []).filter((a) => props.channels.includes(a.channel))
  return list.filter((a, i) => list.findIndex((o) => o.address === a.address) === i)
})
const own: Record<Channel, Fault[]> = {
  email: ['gone', 'full'],
  text: ['gone', 'full', 'no-answer', 'machine'],
  voice: ['gone', 'no-answer', 'machine'],
  push: ['gone', 'full'],
}
function words(fault: Fault, channel: Channel): string {
  switch (fault) {
    case 'gone':
      return channel === 'email'
        ? 'no such mailbox'
        : channel === 'push'
          ? 'not subscribed'
          : 'no such number'
    case 'full':
      return channel === 'email' ? 'full' : 'switched off'
    case 'no-answer':
      return 'nobody picks up'
    case 'machine':
      return 'an answering machine'
    default:
      return 'as the weather has it'
  }
}
const items = (channel: Channel) =>
  (['', ...own[channel]] as Fault[]).map((value) => ({ value, title: words(value, channel) }))

const set = useMutation({
  mutationFn: (body: { address: string; fault: Fault }) =>
    take(api.PUT('/bench/people/{id}/faults', { params: { path: { id: props.person } }, body })),
  onSuccess: (list) => client.setQueryData(key.value, list),
})
</script>

<template>
  <ul class="addresses">
    <li v-for="a in addresses" :key="a.address" class="small">
      <ChannelMark :channel="a.channel" />
      <bdi class="at" :title="a.shown">{{ a.shown }}</bdi>
      <SelectField
        v-if="may('change-settings')"
        class="fault"
        :model-value="a.fault"
        :items="items(a.channel)"
        :aria-label="`What is wrong with ${a.shown}`"
        @update:model-value="set.mutate({ address: a.address, fault: $event })"
      />
      <span v-else class="quiet">{{ words(a.fault, a.channel) }}</span>
    </li>
    <li v-if="data && !addresses.length" class="quiet small">{{ none }}</li>
    <li v-if="set.error.value" class="bad small" role="alert">{{ set.error.value.message }}</li>
  </ul>
</template>

<style scoped>
.addresses {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 4px;
  --control-height: 28px;
}

li {
  display: flex;
  align-items: center;
  gap: 7px;
}

.at {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.fault {
  flex: none;
  width: 172px;
}
</style>
