<script setup lang="ts">
import OpenJobs from './OpenJobs.vue'
import KeptWell from './KeptWell.vue'
import WorthMending from './WorthMending.vue'
</script>

<template>
  <section aria-label="Jobs and gaps">
    <OpenJobs />
    <WorthMending />
    <KeptWell />
  </section>
</template>
