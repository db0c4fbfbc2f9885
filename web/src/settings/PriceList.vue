<script setup lang="ts">
import type { Schemas } from '@/api/client'
import TextField from '@/controls/TextField.vue'

/** What numbers that begin in a way cost; the longest beginning counts. */
const prices = defineModel<Schemas['Price'][]>({ required: true })
defineProps<{ what: string; per: string; currency: string }>()
</script>

<template>
  <div class="prices" role="group" :aria-label="`What ${what} cost`">
    <div v-if="prices.length" class="line small quiet" aria-hidden="true">
      <span>Numbers that begin with</span><span class="num">{{ currency }} {{ per }}</span>
    </div>
    <div v-for="(p, i) in prices" :key="i" class="line">
      <TextField v-model="p.prefix" placeholder="all others" :aria-label="`Beginning ${i + 1} of ${what}`" />
      <TextField v-model="p.price" class="price" :aria-label="`Price ${i + 1} of ${what}`" />
      <button type="button" class="link small" @click="prices.splice(i, 1)">Take away</button>
    </div>
    <p v-if="!prices.length" class="quiet small">Nothing is counted for {{ what }}.</p>
    <button type="button" class="link small" @click="prices.push({ prefix: '', price: '' })">
      Add a price
    </button>
  </div>
</template>

<style scoped>
.prices {
  display: grid;
  gap: 6px;
  justify-items: start;
}

.line {
  display: grid;
  grid-template-columns: 1fr 110px 76px;
  gap: 10px;
  align-items: center;
  width: 100%;
}

.line .control {
  display: grid;
}

.price :deep(input),
.num {
  text-align: end;
  font-variant-numeric: tabular-nums;
}
</style>
