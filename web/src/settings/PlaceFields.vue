<script setup lang="ts">
import { computed, onMounted } from 'vue'
import type { Schemas } from '@/api/client'
import FindField from '@/controls/FindField.vue'
import SelectField from '@/controls/SelectField.vue'

/** Where an organisation is, and what follows from that unless it is chosen otherwise. */
const basics = defineModel<Pick<Schemas['Profile'], 'region' | 'language' | 'timeZone' | 'currency'>>({
  required: true,
})
const props = defineProps<{
  places: Pick<Schemas['BeginView'], 'countries' | 'languages' | 'currencies'>
}>()

const country = computed(() => props.places.countries.find((c) => c.region === basics.value.region))
const countries = computed(() => props.places.countries.map((c) => ({ value: c.region, title: c.name })))

/** What is usual in a country is proposed with it. */
function settle(region: string, zone?: string) {
  const chosen = props.places.countries.find((c) => c.region === region)
  if (!chosen) return
  Object.assign(basics.value, {
    region,
    timeZone: zone ?? chosen.zones[0],
    currency: chosen.currency || basics.value.currency,
    language: chosen.language,
  })
}

// At first the country in whose time zone the browser is.
onMounted(() => {
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone
  const likely = props.places.countries.find((c) => c.zones.includes(here))
  if (!basics.value.region && likely) settle(likely.region, here)
})

const names = new Intl.DisplayNames(['en'], { type: 'language' })
const languages = computed(() => {
  const known = props.places.languages.map((l) => ({ value: l.value, title: l.words }))
  const others = [country.value?.language, basics.value.language].filter(
    (tag): tag is string => Boolean(tag) && !known.some((l) => l.value === tag),
  )
  return [...known, ...[...new Set(others)].map((tag) => ({ value: tag, title: names.of(tag) ?? tag }))]
})
const zones = computed(() => {
  const own = country.value?.zones ?? []
  const chosen = basics.value.timeZone
  return (chosen && !own.includes(chosen) ? [chosen, ...own] : own).map((zone) => ({
    value: zone,
    title: zone.replaceAll('_', ' '),
  }))
})
const money = computed(() => props.places.currencies.map((c) => ({ value: c, title: c })))
</script>

<template>
  <div class="pair">
    <label class="field"
      ><span>Country</span>
      <FindField :model-value="basics.region" :items="countries" @update:model-value="settle($event)" />
      <small v-if="country"
        >National numbers are read as +{{ country.calling }}. Its public holidays are pointed out where they
        are known.</small
      >
      <small v-else>It proposes the rest, and says how national numbers are read.</small></label
    >
    <label class="field"
      ><span>Language of messages</span>
      <SelectField v-model="basics.language" :items="languages" />
      <small>You write in it. People who read others get copies.</small></label
    >
    <label class="field"
      ><span>Time zone</span>
      <FindField v-model="basics.timeZone" :items="zones" />
      <small>Times and quiet hours are meant on its clocks.</small></label
    >
    <label class="field"
      ><span>Currency</span>
      <FindField v-model="basics.currency" :items="money" />
      <small>What texts and calls cost is shown in it. Nothing is converted.</small></label
    >
  </div>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 18px;
  align-items: start;
}

small {
  color: var(--ink2);
  font-size: 12.5px;
  line-height: 1.4;
}
</style>
