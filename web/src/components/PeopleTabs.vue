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
    <router-link to="/people">Everybody</router-link>
    <router-link to="/people/gaps"
      >Gaps <b v-if="gaps?.gaps.length">{{ thousands(gaps.gaps.reduce((n, g) => n + g.people, 0)) }}</b><b
        v-if="gaps?.waiting"
        class="waiting"
        title="Corrections that wait for your yes"
        >+{{ gaps.waiting }}</b
      ></router-link
    >
    <template v-if="may('edit-people')">
      <router-link to="/people/twins"
        >Twins <b v-if="twins?.all">{{ thousands(twins.all) }}</b></router-link
      >
      <router-link to="/people/import">Load a file</router-link>
      <router-link to="/people/changes">Changes</router-link>
    </template>
  </nav>
</template>

<style scoped>
.tabs {
  display: flex;
  flex: none;
  gap: 2px;
  align-self: stretch;
  margin-block: -8px;
}

a {
  display: flex;
  align-items: center;
  gap: 5px;
  padding: 0 10px;
  color: var(--ink2);
  text-decoration: none;
  font-weight: 500;
  border-block: 2px solid transparent;
}

a:hover {
  color: var(--ink);
}

a.router-link-exact-active,
a.router-link-active[href$='import'] {
  color: var(--ink);
  border-bottom-color: var(--deep2);
  font-weight: 600;
}

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
