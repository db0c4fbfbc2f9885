<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { useRights } from '@/composables/session'
import { thousands } from '@/composables/words'

/** The pages about people, with what waits on each. */
const may = useRights()
const { data: gaps } = useQuery({ queryKey: ['roster', 'gaps'], queryFn: () => take(api.GET('/gaps')) })
const { data: twins } = useQuery({
  queryKey: ['roster', 'twins', 0],
  queryFn: () => take(api.GET('/twins', { params: { query: { count: 50 } } })),
  enabled: () => may('edit-people'),
})
</script>

<template>
  <nav class="tabs" aria-label="About people">
    <router-link to="/people" exact-active-class="on">Everybody</router-link>
    <router-link to="/people/gaps" exact-active-class="on"
      >Gaps <b v-if="gaps?.gaps.length">{{ thousands(gaps.gaps.reduce((n, g) => n + g.people, 0)) }}</b><b
        v-if="gaps?.waiting"
        class="waiting"
        title="Corrections that wait for your yes"
        >+{{ gaps.waiting }}</b
      ></router-link
    >
    <template v-if="may('edit-people')">
      <router-link to="/people/twins" exact-active-class="on"
        >Twins <b v-if="twins?.all">{{ thousands(twins.all) }}</b></router-link
      >
      <router-link to="/people/import" exact-active-class="on">Load a file</router-link>
      <router-link to="/people/changes" exact-active-class="on">Changes</router-link>
    </template>
  </nav>
</template>

<style scoped>
b {
  font-weight: 600;
  font-size: 12px;
  color: var(--ink2);
  font-variant-numeric: tabular-nums;
}

.waiting {
  color: var(--lampink);
}
</style>
