<script setup lang="ts">
import { ref, watch } from 'vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { sessionQuery } from '@/composables/session'
import SayNote from '@/components/SayNote.vue'
import TextField from '@/controls/TextField.vue'
import PlaceFields from './PlaceFields.vue'
import PriceList from './PriceList.vue'

/** What the organisation is, and how it appears to those it writes to. */
const props = defineProps<{ change: (request: () => Promise<unknown>) => Promise<boolean> }>()

const client = useQueryClient()
const { data, error } = useQuery({
  queryKey: ['roster', 'office'],
  queryFn: () => take(api.GET('/settings/organisation')),
})
const form = ref<Schemas['Profile']>()
const saved = ref(false)
const copied = (prices: Schemas['Price'][]) => prices.map((p) => ({ ...p }))
watch(
  data,
  (d) => {
    const now = d?.now
    form.value = now && { ...now, textRates: copied(now.textRates), callRates: copied(now.callRates) }
  },
  { immediate: true },
)

async function save() {
  saved.value = false
  saved.value = await props.change(() => take(api.PUT('/settings/organisation', { body: form.value! })))
  if (saved.value) await client.invalidateQueries({ queryKey: sessionQuery.queryKey })
}
</script>

<template>
  <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
  <form v-if="form && data" class="cols" @submit.prevent="save" @input="saved = false">
    <section class="sheet">
      <h2>The organisation</h2>
      <label class="field"
        ><span>Name</span><TextField v-model="form.name" />
        <small>It stands at the top of letters and on the pages behind personal links.</small></label
      >
      <PlaceFields v-model="form" :places="data" />
    </section>
    <section class="sheet">
      <h2>How it appears</h2>
      <label class="field"
        ><span>Emails are from</span><TextField v-model="form.mailName" />
        <small>Groups and units can write under names of their own.</small></label
      >
      <label class="field"
        ><span>Their address</span><TextField v-model="form.mailFrom" type="email" />
        <small>Replies go there, unless a sender chooses their own mailbox.</small></label
      >
      <label class="field"
        ><span>Mail comes back to</span><TextField v-model="form.returnDomain" />
        <small
          >The domain whose mail the program takes itself, to know what did not arrive. It counts from the
          next start on.</small
        ></label
      >
      <label class="field"
        ><span>Number of texts and calls</span
        ><TextField v-model="form.numberFrom" placeholder="that of the gateway" />
        <small>People see it, and answer to it.</small></label
      >
    </section>
    <section class="sheet">
      <h2>What texts cost</h2>
      <p class="quiet small">A long text has several parts. The longest beginning of a number counts.</p>
      <PriceList v-model="form.textRates" what="texts" per="a part" :currency="form.currency" />
      <h2>What calls cost</h2>
      <PriceList v-model="form.callRates" what="calls" per="a minute" :currency="form.currency" />
      <p class="quiet small">What was sent keeps the price that it was sent at.</p>
    </section>
    <div class="row save">
      <v-btn type="submit" color="primary" variant="flat">Save the organisation</v-btn>
      <span v-if="saved" role="status" class="quiet">Saved. What changed stands in Changes.</span>
    </div>
  </form>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 12px;
  align-items: start;
}

@media (max-width: 1100px) {
  .cols {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}

section {
  padding: 12px 14px;
  display: grid;
  gap: 10px;
}

h2 {
  margin: 0;
}

small {
  color: var(--ink2);
  font-size: 12.5px;
  line-height: 1.4;
}

.save {
  grid-column: 1 / -1;
}
</style>
