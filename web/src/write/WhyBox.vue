<script setup lang="ts">
import { computed, ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Draft } from '@/api/client'
import FindBox, { type Found } from '@/components/FindBox.vue'

/** Says of anybody why they get the message, or why not. */
const props = defineProps<{ asked: string }>()
const who = ref<Found>()

const { data, error } = useQuery({
  queryKey: computed(() => ['why', props.asked, who.value?.id]),
  queryFn: ({ signal }) =>
    take(
      api.POST('/plan/preview', {
        params: { query: { person: who.value!.id } },
        body: JSON.parse(props.asked) as Draft,
        signal,
      }),
    ),
  enabled: computed(() => Boolean(who.value)),
  gcTime: 5000,
})
</script>

<template>
  <section class="whybox" aria-label="Why">
    <h3>Why is someone here, or not?</h3>
    <FindBox :kinds="['person']" label="A name to look up" @pick="who = $event" />
    <p v-if="error" class="bad small" role="alert">{{ error.message }}</p>
    <p v-else-if="who && data" class="small" role="status">
      <b
        ><bdi>{{ who.name }}</bdi></b
      >: {{ data.leftOut || data.why || 'Reached on the first step.' }}
    </p>
  </section>
</template>

<style scoped>
.whybox {
  margin-top: 12px;
}

h3 {
  font-size: 12px;
  color: var(--ink2);
  margin-bottom: 4px;
}

p {
  margin-top: 5px;
  overflow-wrap: anywhere;
}
</style>
