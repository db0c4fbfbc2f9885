<script setup lang="ts">
import { useRoute } from 'vue-router'
import AppFrame from '@/components/AppFrame.vue'

const route = useRoute()
</script>

<template>
  <v-app>
    <router-view v-if="route.meta.open" />
    <AppFrame v-else-if="route.matched.length" />
  </v-app>
</template>
