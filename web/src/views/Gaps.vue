<script setup lang="ts">
import { useRouter } from 'vue-router'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { usePersonDrawer } from '@/composables/personDrawer'
import { useSaid } from '@/composables/said'
import { useRights, useTimes } from '@/composables/session'
import { people, thousands } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import PaneHead from '@/components/PaneHead.vue'
import PeopleTabs from '@/components/PeopleTabs.vue'
import SayNote from '@/components/SayNote.vue'

const router = useRouter()
const may = useRights()
const { show } = usePersonDrawer()
const { moment } = useTimes()
const { done, fail } = useSaid()

const { data, error } = useQuery({ queryKey: ['roster', 'gaps'], queryFn: () => take(api.GET('/gaps')) })
const { data: waiting } = useQuery({
  queryKey: ['roster', 'updates'],
  queryFn: () => take(api.GET('/updates')),
  enabled: () => may('edit-people'),
})

/** What mends each gap. */
const ways: Record<string, string> = {
  'no-address': 'Print a sheet for the household, or open the person and add an address.',
  'all-dead': 'Ask for a new address: a sheet to print, or a call to somebody who knows them.',
  'no-guardian': 'Add a guardian, or give the dependent an address of their own.',
  'declines-all': 'Respect it. Emergencies still reach them; the rest must be told in person.',
  'no-language': 'Ask which language they read; until then they get the original.',
}

const rule = (gap: string) => JSON.stringify([{ on: 'gap', test: 'is', value: gap }])
const see = (gap: string) => router.push({ name: 'people', query: { rule: rule(gap) } })
const bar = (g: Schemas['GapView'], n: number) => `${Math.max(2, (n / Math.max(1, g.people)) * 100)}%`

async function decide(id: number, yes: boolean) {
  try {
    const params = { params: { path: { id } } }
    await done(
      await take(yes ? api.POST('/updates/{id}/accept', params) : api.POST('/updates/{id}/decline', params)),
    )
  } catch (problem) {
    fail(problem)
  }
}
</script>

<template>
  <div class="page">
    <PageHead title="Gaps" :note="data ? `among ${people(data.all)}` : ''">
      <template #beside><PeopleTabs /></template>
    </PageHead>
    <div class="body">
      <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
      <section v-if="waiting?.length">
        <PaneHead
          title="Corrections that wait for your yes"
          :note="`${waiting.length} by people themselves`"
        />
        <div class="waiting">
          <article v-for="w in waiting" :key="w.id" class="sheet">
            <div class="top">
              <button class="link" @click="show(w.person)">
                <bdi>{{ w.name }}</bdi>
              </button>
              <span class="quiet small">{{ moment(w.at) }}</span>
            </div>
            <ul>
              <li v-for="c in w.changes" :key="c.what + c.to">
                {{ c.what }}: <del v-if="c.from">{{ c.from }}</del> {{ c.from && c.to ? '→' : '' }}
                <ins v-if="c.to">{{ c.to }}</ins>
              </li>
              <li v-if="!w.changes.length" class="quiet">nothing that is not on the roster already</li>
            </ul>
            <div class="row">
              <v-btn size="small" color="primary" variant="flat" @click="decide(w.id, true)"
                >Put it on the roster</v-btn
              >
              <v-btn size="small" @click="decide(w.id, false)">Leave as it is</v-btn>
            </div>
          </article>
        </div>
      </section>

      <EmptyNote v-if="data && data.gaps.every((g) => !g.people)" title="There are no gaps">
        Everybody can be reached, and you know in which language.
      </EmptyNote>
      <div v-else class="gaps">
        <article v-for="g in data?.gaps.filter((x) => x.people)" :key="g.gap" class="sheet gap">
          <div class="top">
            <b class="figure" :class="{ bad: g.gap !== 'no-language' && g.gap !== 'declines-all' }">{{
              thousands(g.people)
            }}</b>
            <h2>{{ g.words }}</h2>
          </div>
          <p class="quiet">{{ ways[g.gap] }}</p>
          <div class="where">
            <div
              v-for="[title, list] in [
                ['By unit', g.units],
                ['By role', g.roles],
              ] as const"
              :key="title"
            >
              <h3>{{ title }}</h3>
              <div v-for="u in list.slice(0, 5)" :key="u.name" class="line">
                <span class="name" :title="u.name">{{ u.name.split(' › ').at(-1) }}</span>
                <span class="track" aria-hidden="true"><s :style="{ width: bar(g, u.people) }" /></span>
                <span class="num">{{ thousands(u.people) }}</span>
              </div>
              <p v-if="list.length > 5" class="quiet small">and {{ list.length - 5 }} more</p>
              <p v-if="!list.length" class="quiet small">nobody with a role</p>
            </div>
          </div>
          <div class="row">
            <v-btn size="small" @click="see(g.gap)"
              >See {{ g.people === 1 ? 'who it is' : 'who they are' }}</v-btn
            >
            <v-btn
              v-if="may('edit-people') && g.gap !== 'declines-all'"
              size="small"
              :to="{ name: 'sheets', query: { rule: rule(g.gap) } }"
              >Sheets to print…</v-btn
            >
          </div>
        </article>
      </div>
    </div>
  </div>
</template>

<style scoped>
.gaps,
.waiting {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(400px, 100%), 1fr));
  gap: 14px;
  align-items: start;
}

article {
  padding: 12px 14px;
  display: flex;
  flex-direction: column;
  gap: 9px;
}

.top {
  display: flex;
  align-items: baseline;
  gap: 10px;
}

.waiting .top {
  justify-content: space-between;
}

.figure {
  font-size: 24px;
  line-height: 1;
  font-variant-numeric: tabular-nums;
}

.where {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 18px;
}

h3 {
  font-size: 12px;
  color: var(--ink2);
  margin-bottom: 4px;
}

.line {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 56px 30px;
  gap: 8px;
  align-items: center;
  padding: 2px 0;
}

.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.track {
  height: 8px;
  background: #dfe7ea;
  border-radius: 2px;
  overflow: hidden;
}

.track s {
  display: block;
  height: 100%;
  background: var(--deep2);
}

ul {
  margin: 0;
  padding-inline-start: 16px;
}

li {
  overflow-wrap: anywhere;
}
</style>
