<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { count, thousands } from '@/composables/words'
import PaneHead from '@/components/PaneHead.vue'

/** Gaps of the roster, and corrections that wait. */
const { data: gaps } = useQuery({
  queryKey: ['roster', 'gaps'],
  queryFn: () => take(api.GET('/gaps')),
})
const worth = computed(() => gaps.value?.gaps.filter((g) => g.people > 0).slice(0, 4) ?? [])
</script>

<template>
  <div role="region" aria-label="Worth mending">
    <PaneHead title="Worth mending" note="when there is time" />
    <article v-if="gaps?.waiting" class="sheet card">
      <h3>{{ count(gaps.waiting, 'correction waits', 'corrections wait') }} for a yes</h3>
      <p><router-link class="link" to="/people/gaps">Look</router-link></p>
    </article>
    <article v-for="g in worth" :key="g.gap" class="sheet card">
      <h3>
        <span class="words">{{ g.words }}</span> <span class="small num">{{ thousands(g.people) }}</span>
      </h3>
      <p class="small quiet">
        {{
          g.roles
            .slice(0, 3)
            .map((r) => `${r.name} ${thousands(r.people)}`)
            .join(', ')
        }}
      </p>
      <p><router-link class="link" to="/people/gaps">See who</router-link></p>
    </article>
    <p v-if="gaps && !worth.length && !gaps.waiting" class="quiet">Everybody can be reached.</p>
  </div>
</template>

<style scoped>
.words {
  display: inline-block;
}

.words::first-letter {
  text-transform: uppercase;
}
</style>
