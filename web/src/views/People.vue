<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { refDebounced } from '@vueuse/core'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { together } from '@/composables/addresses'
import { usePersonDrawer } from '@/composables/personDrawer'
import { thousands } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PageTurner from '@/components/PageTurner.vue'
import SayNote from '@/components/SayNote.vue'

const pageSize = 100
const { show } = usePersonDrawer()
const typed = ref('')
const search = refDebounced(typed, 150)
const first = ref(0)
watch(search, () => (first.value = 0))

const { data, error } = useQuery({
  queryKey: ['people', search, first],
  queryFn: () =>
    take(
      api.GET('/people', {
        params: { query: { search: search.value, first: first.value, count: pageSize } },
      }),
    ),
  placeholderData: keepPreviousData,
})

const shown = computed(() => {
  if (!data.value) return ''
  const { matching, all } = data.value
  return search.value ? `${thousands(matching)} of ${thousands(all)} people` : `${thousands(all)} people`
})
</script>

<template>
  <div class="page">
    <PageHead title="People" :note="shown">
      <template #beside>
        <v-text-field
          v-model="typed"
          class="search"
          placeholder="Name, number, mail address or id"
          aria-label="Search people"
          clearable
          @click:clear="typed = ''"
        />
      </template>
      <v-btn to="/people/import">Load a roster file…</v-btn>
    </PageHead>
    <SayNote v-if="error" kind="bad" class="note">{{ error.message }}</SayNote>
    <EmptyNote v-if="data && data.all === 0" title="Nobody is on the roster yet">
      Load a file from your member list or school office: names, roles, languages, numbers, mail addresses,
      groups and guardians.
      <template #action
        ><v-btn color="primary" variant="flat" to="/people/import">Load a roster file…</v-btn></template
      >
    </EmptyNote>
    <EmptyNote v-else-if="data && data.matching === 0" :title="`Nobody matches “${search}”`">
      The search looks at names, ids, numbers as +44… and mail addresses.
      <template #action><v-btn @click="typed = ''">Show everybody</v-btn></template>
    </EmptyNote>
    <div v-else-if="data" class="scroll">
      <table class="plain">
        <thead>
          <tr>
            <th>Name</th>
            <th>Roles</th>
            <th>Reads</th>
            <th>Groups</th>
            <th>Can be reached by</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in data.people" :key="p.id" class="go" @click="show(p.id)">
            <td>
              <button class="link" @click.stop="show(p.id)">
                <bdi>{{ p.name }}</bdi>
              </button>
              <span v-if="p.status !== 'active'" class="status small">{{ p.status }}</span>
            </td>
            <td>{{ p.roles.join(', ') }}</td>
            <td>{{ p.speaks }}</td>
            <td class="groups">{{ p.groups.join(', ') }}</td>
            <td>
              <span v-if="!p.addresses.length && p.roles.includes('dependent')" class="quiet"
                >none of their own</span
              >
              <span v-else-if="!p.addresses.length" class="bad">no way to reach them on file</span>
              <span
                v-for="a in together(p.addresses)"
                :key="a.value"
                class="address"
                :class="{ dead: a.health === 'dead' }"
              >
                <ChannelMark v-for="c in a.channels" :key="c" :channel="c" />
                <span class="value">{{ a.shown }}</span>
                <span v-if="a.health === 'dead'" class="bad small">dead</span>
                <span v-if="a.declinesRoutine || a.declinesTimely" class="small declines">opted out</span>
              </span>
            </td>
          </tr>
        </tbody>
      </table>
      <PageTurner v-model="first" :size="pageSize" :all="data.matching" />
    </div>
  </div>
</template>

<style scoped>
.search {
  flex: 0 1 300px;
}

.note {
  margin: 12px 16px;
}

.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
  background: var(--sheet);
}

.status {
  margin-inline-start: 8px;
  color: var(--lampink);
}

.groups {
  max-width: 240px;
}

.address {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  margin-inline-end: 16px;
  color: var(--ink);
}

.address :deep(.mark) {
  color: var(--slate);
}

.value {
  font-variant-numeric: tabular-nums;
}

.dead .value {
  text-decoration: line-through;
  color: var(--ink3);
}

.declines {
  color: var(--lampink);
}
</style>
