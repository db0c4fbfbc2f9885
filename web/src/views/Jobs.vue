<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useQuery } from '@tanstack/vue-query'
import { useRights } from '@/composables/session'
import { count } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import JobForm from '@/jobs/JobForm.vue'
import JobList from '@/jobs/JobList.vue'
import JobPane from '@/jobs/JobPane.vue'
import { jobsQuery, type Job } from '@/jobs/jobs'

const route = useRoute()
const router = useRouter()
const may = useRights()
const { data, error } = useQuery(jobsQuery)
const jobs = computed(() => data.value?.jobs ?? [])
const open = computed(() => Number(route.params.job ?? 0) || jobs.value[0]?.id || 0)

/** What is typed in the form: a new job, one like another, or a change of one. */
const form = ref<{ job?: Job; like?: Job }>()
watch(open, () => (form.value = undefined))
const note = computed(() => {
  const of = (stands: string) => jobs.value.filter((j) => j.stands === stands).length
  return data.value ? `${count(of('open'), 'open', 'open')}, ${count(of('coming'), 'coming', 'coming')}` : ''
})
async function show(id: number) {
  form.value = undefined
  await router.push(`/jobs/${id}`)
}
</script>

<template>
  <EmptyNote v-if="error" title="The jobs cannot be read">{{ error.message }}</EmptyNote>
  <div v-else class="page">
    <PageHead title="Jobs" :note="note">
      <v-btn v-if="may('edit-people')" color="primary" variant="flat" @click="form = {}">New job…</v-btn>
    </PageHead>
    <div class="panes">
      <nav aria-label="Jobs">
        <JobList v-if="data" :jobs="jobs" :open="form && !form.job ? 0 : open" @open="show" />
      </nav>
      <section aria-label="The job">
        <JobForm
          v-if="form"
          :key="`${form.job?.id} ${form.like?.id}`"
          v-bind="form"
          :templates="data?.templates ?? []"
          @saved="show"
          @leave="form = undefined"
        />
        <JobPane
          v-else-if="open"
          :id="open"
          @change="form = { job: $event }"
          @like="form = { like: $event }"
        />
        <EmptyNote v-else-if="data" title="No job yet">
          A job is a call-out or a duty: a place, a time, and people by part. They are asked who is coming,
          and written to as long as it is open.
        </EmptyNote>
      </section>
    </div>
  </div>
</template>

<style scoped>
.panes {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 292px minmax(0, 1fr);
}

nav {
  overflow: auto;
  padding: 0 14px 12px;
  border-inline-end: 1px solid var(--line);
}

section {
  overflow: auto;
}
</style>
