<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Condition, type Schemas } from '@/api/client'
import { useSaid } from '@/composables/said'
import { useRights } from '@/composables/session'
import PaneHead from '@/components/PaneHead.vue'
import RuleStack from '@/components/RuleStack.vue'
import TextField from '@/controls/TextField.vue'

/** Filters stacked on the roster; they are kept by name, or become a group. */
const rule = defineModel<Condition[]>({ required: true })
defineProps<{ filters: Schemas['FilterView'][] }>()

const client = useQueryClient()
const router = useRouter()
const may = useRights()
const { done, fail } = useSaid()

const { data: kept } = useQuery({
  queryKey: ['roster', 'filters'],
  queryFn: () => take(api.GET('/filters')),
})
const keepName = ref('')
const naming = ref<'filters' | 'group'>()

async function name() {
  try {
    if (naming.value === 'filters') {
      await take(api.POST('/filters', { body: { name: keepName.value, rule: rule.value } }))
    } else {
      const group = await take(
        api.POST('/groups', { body: { name: keepName.value, kind: 'rule', rule: rule.value } }),
      )
      await done({ said: `made the group ${keepName.value}`, edit: 0 })
      await router.push({ name: 'groups', query: { group: group.id } })
    }
    await client.invalidateQueries({ queryKey: ['roster'] })
    naming.value = undefined
    keepName.value = ''
  } catch (problem) {
    fail(problem)
  }
}

async function forget(id: number) {
  await take(api.DELETE('/filters/{id}', { params: { path: { id } } })).catch(fail)
  await client.invalidateQueries({ queryKey: ['roster', 'filters'] })
}
</script>

<template>
  <div class="filters">
    <PaneHead title="Filters" :note="rule.length ? 'people left after each' : 'none: everybody is shown'" />
    <RuleStack v-model="rule" :filters="filters" />
    <div
      v-if="rule.length && may('edit-people')"
      class="keep"
      role="group"
      aria-label="What to do with the filters"
    >
      <form v-if="naming" class="sheet" @submit.prevent="name" @keydown.esc.stop="naming = undefined">
        <TextField
          v-model="keepName"
          :aria-label="naming === 'group' ? 'Name of the group' : 'Name of the filters'"
          :placeholder="naming === 'group' ? 'Name of the group' : 'Name of the filters'"
          maxlength="100"
        />
        <div class="row">
          <v-btn type="submit" color="primary" variant="flat" :disabled="!keepName.trim()">{{
            naming === 'group' ? 'Make the group' : 'Keep'
          }}</v-btn>
          <v-btn @click="naming = undefined">Never mind</v-btn>
        </div>
      </form>
      <template v-else>
        <button class="link" @click="naming = 'group'">Make a group by this rule…</button>
        <button class="link" @click="naming = 'filters'">Keep these filters…</button>
        <button class="link" @click="rule = []">Take all away</button>
      </template>
    </div>
    <template v-if="kept?.length">
      <PaneHead title="Kept filters" :note="String(kept.length)" class="gap" />
      <ul>
        <li v-for="k in kept" :key="k.id">
          <button class="link" :title="k.words" @click="rule = [...k.rule]">
            <bdi>{{ k.name }}</bdi>
          </button>
          <button
            v-if="may('edit-people')"
            class="link small forget"
            :aria-label="`Forget ${k.name}`"
            @click="forget(k.id)"
          >
            Forget
          </button>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.filters {
  display: flex;
  flex-direction: column;
  gap: 4px;
}

.keep {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 5px;
  margin-top: 12px;
  border-top: 1px solid var(--line);
  padding-top: 10px;
}

.keep form {
  padding: 10px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  align-self: stretch;
}

.gap {
  margin-top: 18px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 3px 0;
}

.forget {
  font-weight: 500;
  color: var(--ink2);
}
</style>
