<script setup lang="ts">
import { computed } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Draft, type Schemas } from '@/api/client'
import { useTimes } from '@/composables/session'
import { sayAs } from '@/composables/shelf'
import SayNote from '@/components/SayNote.vue'
import SideDrawer from '@/controls/SideDrawer.vue'

/** What a draft was before; an earlier wording can be brought back. */
const open = defineModel<boolean>({ required: true })
const draft = defineModel<Draft>('draft', { required: true })
const props = defineProps<{ id: number }>()

const times = useTimes()
const { data, error } = useQuery({
  queryKey: computed(() => ['versions', props.id]),
  queryFn: () => take(api.GET('/messages/{id}/versions', { params: { path: { id: props.id } } })),
  enabled: computed(() => open.value && props.id > 0),
  staleTime: 0,
})

function back(v: Schemas['VersionView']) {
  sayAs(draft.value, v.draft)
  open.value = false
}
</script>

<template>
  <SideDrawer v-model="open" title="History" note="about one version a minute while it is written">
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <p v-if="data && !data.length" class="quiet">
      Nothing earlier is kept yet: it has not been changed since it was begun.
    </p>
    <ol>
      <li v-for="(v, i) in data" :key="v.id">
        <div class="row">
          <b>{{ times.moment(v.at) }}</b>
          <span class="quiet small">{{ v.by }}</span>
          <span v-if="i === 0" class="quiet small push">as it is now</span>
          <button v-else class="link small push" @click="back(v)">Bring this wording back</button>
        </div>
        <p class="small" dir="auto">
          <b>{{ v.title }}</b>
        </p>
        <p class="small quiet said" dir="auto">{{ v.plain }}</p>
      </li>
    </ol>
  </SideDrawer>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  padding: 8px 0;
  border-bottom: 1px solid var(--hair);
}

.said {
  white-space: pre-wrap;
  overflow: hidden;
  display: -webkit-box;
  -webkit-line-clamp: 4;
  line-clamp: 4;
  -webkit-box-orient: vertical;
}
</style>
