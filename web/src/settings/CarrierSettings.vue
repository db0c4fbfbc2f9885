<script setup lang="ts">
import { computed, ref } from 'vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { sessionQuery } from '@/composables/session'
import SayNote from '@/components/SayNote.vue'
import CarrierForm from './CarrierForm.vue'
import CarrierLine from './CarrierLine.vue'
import { carriersKey, type Carried } from './carriers'

/** How messages leave: each channel's carriers, in the order in which they are tried. */
const client = useQueryClient()
const { data, error } = useQuery({
  queryKey: carriersKey,
  queryFn: () => take(api.GET('/settings/carriers')),
  refetchInterval: 15_000, // what they took today, and how they are
  staleTime: 0,
})

const at = ref<{ channel: Carried; id: number }>()
const line = computed(() => data.value?.channels.find((c) => c.channel === at.value?.channel))
const carrier = computed(() => line.value?.list.find((c) => c.id === at.value?.id))

const problem = ref('')
/** Changes something and shows the carriers as they are then; gives what was wrong, or ''. */
async function run(request: () => Promise<Schemas['CarriersView'] | void>): Promise<string> {
  problem.value = ''
  try {
    const now = await request()
    if (now) client.setQueryData(carriersKey, now)
    await client.invalidateQueries({ queryKey: ['plan'] })
    return ''
  } catch (e) {
    return (e as Error).message
  } finally {
    await client.invalidateQueries({ queryKey: carriersKey })
  }
}

async function first(id: number) {
  problem.value = await run(() =>
    take(api.POST('/settings/carriers/{id}/first', { params: { path: { id } } })),
  )
}

async function tryOut(standIns: boolean) {
  problem.value = await run(() => take(api.PUT('/settings/carriers/try-out', { body: { standIns } })))
  await client.invalidateQueries({ queryKey: sessionQuery.queryKey }) // whether there is a bench
}

async function remove(id: number) {
  const path = { id }
  problem.value = await run(() => take(api.DELETE('/settings/carriers/{id}', { params: { path } })))
  if (!problem.value) at.value = undefined
}

/** Shows a carrier that was just added. */
function added(channel: Carried) {
  const list = data.value?.channels.find((c) => c.channel === channel)?.list ?? []
  at.value = { channel, id: Math.max(...list.map((c) => c.id)) }
}
</script>

<template>
  <SayNote v-if="error || problem" kind="bad">{{ error?.message ?? problem }}</SayNote>
  <div v-if="data" class="cols">
    <div class="lines">
      <SayNote v-if="data.standIns" kind="mind">
        <b>Nobody is really written to:</b> the stand-ins take everything, and the Bench shows it. Carriers
        can be set up and tried meanwhile.
        <template v-if="data.fixed"
          >They are used when the program is started without its stand-ins.</template
        >
        <button v-else class="link" @click="tryOut(false)">
          From now on, let messages leave by the carriers below
        </button>
      </SayNote>
      <CarrierLine
        v-for="c in data.channels"
        :key="c.channel"
        :line="c"
        :stand-ins="data.standIns"
        :push-key="data.pushKey"
        :chosen="at?.channel === c.channel ? at.id : undefined"
        @choose="(id) => (at = { channel: c.channel as Carried, id })"
        @first="first"
      />
      <p v-if="!data.standIns && !data.fixed" class="quiet small">
        To try something without writing to anybody:
        <button class="link small" @click="tryOut(true)">let the stand-ins take everything</button>
      </p>
    </div>
    <CarrierForm
      v-if="at"
      :key="`${at.channel} ${at.id}`"
      :channel="at.channel"
      :carrier="carrier"
      :carriers="data"
      :run="run"
      @added="added(at!.channel)"
      @remove="remove"
      @close="at = undefined"
    />
    <section v-else class="sheet how">
      <h2>How messages leave</h2>
      <ul class="small">
        <li>Each channel has its carriers. The first that takes messages gets the next one.</li>
        <li>
          While the first is in trouble, or cannot be reached, the next takes over by itself. The first is
          tried again every now and then.
        </li>
        <li>
          A carrier that took as many messages as it may in a day lets the next take over. Emergencies go on.
        </li>
        <li>A channel without a carrier is off: whoever has nothing else is told to you before you send.</li>
        <li>Keys and passwords are kept encrypted, with a key that lies outside the database.</li>
      </ul>
      <p class="quiet small">Choose a carrier to change or try it, or add one.</p>
    </section>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(340px, 420px);
  gap: 12px;
  align-items: start;
}

.lines {
  display: grid;
  gap: 12px;
}

.how {
  padding: 12px 14px;
}

.how ul {
  padding-inline-start: 18px;
  line-height: 1.45;
}

.how li {
  margin-bottom: 6px;
}
</style>
