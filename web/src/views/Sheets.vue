<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useQuery } from '@tanstack/vue-query'
import { mdiPrinter } from '@mdi/js'
import { api, take, type Condition, type Schemas } from '@/api/client'
import { count } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'

/** Sheets that ask households for their details, in their language; one a page. */
const route = useRoute()
const router = useRouter()

const { data, error } = useQuery({
  queryKey: ['roster', 'sheets', computed(() => route.query)],
  queryFn: async () => {
    let people = String(route.query.ids ?? '')
      .split(',')
      .map(Number)
      .filter(Boolean)
    if (route.query.rule) {
      const rule = JSON.parse(String(route.query.rule)) as Condition[]
      people = (await take(api.POST('/people/ids', { body: { rule } }))).ids
    }
    return take(api.POST('/gaps/sheets', { body: { people } }))
  },
})

type Household = Schemas['HouseholdView']
const say = (h: Household, key: string, values: Record<string, string> = {}) =>
  Object.entries(values).reduce((text, [k, v]) => text.replace(`{${k}}`, v), h.words.phrase[key] ?? key)
const day = (h: Household) =>
  new Intl.DateTimeFormat(h.words.tag, { dateStyle: 'long', timeZone: 'UTC' }).format(
    new Date(`${h.date}T00:00:00Z`),
  )
const of = (p: Schemas['SheetPerson'], kind: 'mail' | 'texts' | 'calls') =>
  p.details.addresses.filter((a) => a[kind]).map((a) => a.value)
const origin = location.origin
const print = () => window.print()
</script>

<template>
  <div class="page">
    <PageHead
      class="screen"
      title="Sheets to print"
      :note="data ? count(data.households.length, 'household, a page each', 'households, a page each') : ''"
    >
      <v-btn @click="router.back()">Back</v-btn>
      <v-btn
        color="primary"
        variant="flat"
        :prepend-icon="mdiPrinter"
        :disabled="!data?.households.length"
        @click="print"
        >Print</v-btn
      >
    </PageHead>
    <SayNote v-if="error" kind="bad">{{ error.message }}</SayNote>
    <EmptyNote v-if="data && !data.households.length" title="Nobody to ask">
      Choose people on the roster, or a gap, and print their sheets from there.
      <template #action><v-btn to="/people/gaps">See the gaps</v-btn></template>
    </EmptyNote>
    <div class="pages">
      <article
        v-for="(h, i) in data?.households"
        :key="i"
        class="paper"
        :lang="h.words.tag"
        :dir="h.words.rtl ? 'rtl' : 'ltr'"
      >
        <div class="from">
          <bdi>{{ data?.organisation }}</bdi>
        </div>
        <h2>{{ say(h, 'sheet title') }}</h2>
        <p>{{ say(h, 'sheet intro') }}</p>
        <div v-for="p in h.people" :key="p.link" class="person">
          <h3>
            <bdi>{{ p.name }}</bdi>
          </h3>
          <p v-if="p.about.length" class="small">
            {{ say(h, 'for') }}: <bdi>{{ p.about.join(', ') }}</bdi>
          </p>
          <table>
            <tbody>
              <tr
                v-for="[key, list] in [
                  ['email', of(p, 'mail')],
                  ['text', of(p, 'texts')],
                  ['voice', of(p, 'calls')],
                  ['language', p.speaks ? [p.speaks] : []],
                ] as const"
                :key="key"
              >
                <th scope="row">{{ say(h, key) }}</th>
                <td>
                  <bdi v-if="list.length">{{ list.join(', ') }}</bdi><span v-else class="none">{{
                    say(h, 'nothing')
                  }}</span>
                </td>
                <td class="write" />
              </tr>
            </tbody>
          </table>
          <p class="small boxes">
            {{ say(h, 'first') }}:
            <span v-for="c in ['email', 'text', 'voice', 'no preference']" :key="c"
              ><i /> {{ say(h, c) }}</span
            >
          </p>
          <p v-if="p.link" class="small">
            {{ say(h, 'sheet link', { date: day(h) }) }}<br /><bdi class="url">{{ origin + p.link }}</bdi>
          </p>
        </div>
        <p class="sign">{{ say(h, 'signature') }}</p>
      </article>
    </div>
  </div>
</template>

<style scoped>
.pages {
  padding: 20px;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 20px;
}

.paper {
  background: #fff;
  border: 1px solid var(--line);
  width: min(760px, 100%);
  box-sizing: border-box;
  min-height: 900px;
  padding: 48px 56px;
  display: flex;
  flex-direction: column;
  gap: 12px;
  font-size: 14.5px;
  text-align: start;
}

.from {
  color: var(--ink2);
}

h2 {
  font-size: 21px;
}

.person {
  border-top: 1.5px solid var(--ink);
  padding-top: 10px;
  margin-top: 6px;
  break-inside: avoid;
}

h3 {
  font-size: 16px;
}

table {
  width: 100%;
  border-collapse: collapse;
  margin: 6px 0;
}

th,
td {
  text-align: start;
  font-weight: 400;
  padding: 6px 8px 6px 0;
  border-bottom: 1px solid var(--hair);
  vertical-align: bottom;
}

th {
  width: 30%;
  color: var(--ink2);
}

.write {
  width: 38%;
  border-bottom: 1px dotted var(--ink);
}

.none {
  font-style: italic;
  color: var(--brick);
}

.boxes span {
  margin-inline-end: 14px;
  white-space: nowrap;
}

i {
  display: inline-block;
  width: 11px;
  height: 11px;
  border: 1px solid var(--ink);
  border-radius: 2px;
  vertical-align: -1px;
}

.url {
  font-size: 12px;
  overflow-wrap: anywhere;
}

.sign {
  margin-top: auto;
  border-top: 1px dotted var(--ink);
  padding-top: 4px;
  width: 60%;
}
</style>

<style src="@/styles/print.css"></style>
