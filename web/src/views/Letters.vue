<script setup lang="ts">
import { computed, ref } from 'vue'
import { keepPreviousData, useMutation, useQuery } from '@tanstack/vue-query'
import { useRoute } from 'vue-router'
import { mdiPrinter } from '@mdi/js'
import { api, download, take } from '@/api/client'
import { count, thousands } from '@/composables/words'
import EmptyNote from '@/components/EmptyNote.vue'
import FindBox, { type Found } from '@/components/FindBox.vue'
import PageHead from '@/components/PageHead.vue'
import SayNote from '@/components/SayNote.vue'

/** A message on paper for those whom no channel reaches, a page for each household. */
const props = defineProps<{ id: string }>()

/** Those whom another page named; none is those whom no channel reaches. */
const route = useRoute()
const named = String(route.query.people ?? '')
  .split(',')
  .map(Number)
  .filter(Boolean)

/** Instead of them. */
const chosen = ref<Found[]>([])
const choosing = ref(false)

const asked = async () => {
  const message = await take(api.GET('/messages/{id}', { params: { path: { id: Number(props.id) } } }))
  return {
    draft: message.draft,
    message: message.id,
    people: chosen.value.length ? chosen.value.map((c) => c.id) : named,
  }
}
const { data, error } = useQuery({
  queryKey: computed(() => ['letters', props.id, chosen.value.map((c) => c.id)]),
  queryFn: async () => take(api.POST('/plan/letters', { body: await asked() })),
  placeholderData: keepPreviousData,
  gcTime: 0,
})
const file = useMutation({
  mutationFn: async () => download(api.POST('/plan/letters.pdf', { body: await asked(), parseAs: 'blob' })),
})

function choose(found: Found) {
  if (!chosen.value.some((c) => c.id === found.id)) chosen.value = [...chosen.value, found]
}
const lacking = computed(() => data.value?.letters.filter((l) => !l.address).length ?? 0)
const print = () => window.print()
</script>

<template>
  <div class="page">
    <PageHead
      class="screen"
      title="Letters"
      :note="data ? count(data.letters.length, 'household, a page each', 'households, a page each') : ''"
    >
      <v-btn v-if="named.length" :to="`/outgoing/${id}`">Back to the record</v-btn>
      <v-btn v-else :to="`/write/${id}`">Back to writing</v-btn>
      <v-btn :loading="file.isPending.value" :disabled="!data?.letters.length" @click="file.mutate()"
        >Save as PDF</v-btn
      >
      <v-btn
        color="primary"
        variant="flat"
        :prepend-icon="mdiPrinter"
        :disabled="!data?.letters.length"
        @click="print"
        >Print</v-btn
      >
    </PageHead>
    <SayNote v-if="error ?? file.error.value" kind="bad">{{ (error ?? file.error.value)?.message }}</SayNote>
    <div class="screen whom" role="group" aria-label="For whom">
      <template v-if="chosen.length">
        For
        <span v-for="c in chosen" :key="c.id" class="one"
          ><bdi>{{ c.name }}</bdi
          ><button
            class="link"
            :aria-label="`No letter for ${c.name}`"
            @click="chosen = chosen.filter((o) => o !== c)"
          >
            ×
          </button></span
        >
        <button class="link" @click="chosen = []">Back to those whom no channel reaches</button>
      </template>
      <template v-else>For those whom no channel reaches.</template>
      <button v-if="!choosing" class="link" @click="choosing = true">Choose people</button>
      <FindBox v-else class="find" :kinds="['person']" label="Who gets a letter" @pick="choose" />
    </div>
    <SayNote v-if="data && data.all > data.letters.length" kind="mind" class="screen strip"
      >These are the first {{ thousands(data.letters.length) }} of {{ thousands(data.all) }}.</SayNote
    >
    <SayNote v-if="lacking" kind="mind" class="screen strip">
      {{ count(lacking, 'household has', 'households have') }} no postal address on the roster: write it by
      hand, or name the attribute that holds it in Settings, Sending.
    </SayNote>
    <EmptyNote
      v-if="data && !data.letters.length"
      :title="chosen.length ? 'They are not among the recipients' : 'Everybody is reached'"
    >
      {{
        chosen.length
          ? 'A letter goes to people whom the message is for: add them on the Write page first.'
          : 'Letters are for people whom no channel reaches. This message has none.'
      }}
    </EmptyNote>
    <div class="pages">
      <article
        v-for="(l, i) in data?.letters"
        :key="i"
        class="paper"
        :lang="l.languages[0] ?? data?.language"
      >
        <div class="from">
          <bdi>{{ data?.organisation }}</bdi>
        </div>
        <address>
          <div v-for="n in l.names" :key="n">
            <bdi>{{ n }}</bdi>
          </div>
          <div v-if="l.address" class="lines">{{ l.address }}</div>
          <div v-else class="blank" aria-hidden="true" />
        </address>
        <p class="day">{{ l.date }}</p>
        <h2 v-if="l.subject" dir="auto">{{ l.subject }}</h2>
        <SayNote v-if="l.missing" kind="bad" class="screen">Nothing fills “{{ l.missing }}”.</SayNote>
        <!-- eslint-disable-next-line vue/no-v-html -- the server writes it from a document, with everything escaped -->
        <div class="words" v-html="l.html" />
      </article>
    </div>
  </div>
</template>

<style scoped>
.strip {
  margin: 10px 16px 0;
}

.whom {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  padding: 10px 16px 0;
}

.whom .one {
  display: inline-flex;
  gap: 4px;
  font-weight: 600;
}

.find {
  width: 260px;
}

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
  min-height: 980px;
  padding: 56px 72px;
  font-size: 15px;
  line-height: 1.5;
}

.from {
  color: var(--ink2);
  border-bottom: 1px solid var(--line);
  padding-bottom: 6px;
}

address {
  font-style: normal;
  margin: 46px 0 30px;
  min-height: 96px;
}

.lines {
  white-space: pre-line;
}

.blank {
  width: 240px;
  height: 52px;
  border-bottom: 1px dotted var(--ink2);
}

.day {
  text-align: end;
  margin-bottom: 22px;
}

h2 {
  font-size: 17px;
  margin-bottom: 14px;
}

.words :deep(img) {
  max-width: 100%;
}
</style>

<style src="@/styles/print.css"></style>
