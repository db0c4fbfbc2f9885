<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { mdiChevronDown, mdiChevronUp } from '@mdi/js'
import { usePlanned } from '@/composables/planned'
import { api, take, type Draft } from '@/api/client'
import { channelWords, count } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'
import FindBox from '@/components/FindBox.vue'

/** What one person gets, or why they get nothing. Asked is the draft as text. */
const props = defineProps<{ asked: string; recipients: number }>()

/** Which recipient is shown, or was before somebody who is none. */
const index = defineModel<number>('index', { required: true })
const person = ref<number>()
const choosing = ref(false)

watch(
  () => props.recipients,
  (n) => (index.value = Math.max(0, Math.min(index.value, n - 1))),
)

const message = usePlanned()
const { data } = useQuery({
  queryKey: computed(() => [
    'preview',
    message.value,
    props.asked,
    person.value ? 0 : index.value,
    person.value,
  ]),
  queryFn: ({ signal }) =>
    take(
      api.POST('/plan/preview', {
        params: {
          query: {
            message: message.value,
            ...(person.value ? { person: person.value } : { index: index.value }),
          },
        },
        body: JSON.parse(props.asked) as Draft,
        signal,
      }),
    ),
  placeholderData: keepPreviousData,
  gcTime: 5000,
})

watch(data, (now) => {
  if (person.value && now?.person === person.value && !now.leftOut) index.value = now.index
})

function step(by: number) {
  person.value = undefined
  index.value = Math.max(0, Math.min((data.value?.all ?? 1) - 1, index.value + by))
}

function choose(id: number) {
  person.value = id
  choosing.value = false
}
</script>

<template>
  <section class="see sheet" aria-label="Preview">
    <header>
      <h3 v-if="data?.name">
        As <bdi>{{ data.name }}</bdi> gets it
      </h3>
      <h3 v-else>As somebody gets it</h3>
      <span class="row turn">
        <button class="link small" @click="choosing = !choosing">Choose</button>
        <v-btn
          :icon="mdiChevronUp"
          size="x-small"
          variant="text"
          aria-label="The person before"
          :disabled="!data?.index"
          @click="step(-1)"
        />
        <v-btn
          :icon="mdiChevronDown"
          size="x-small"
          variant="text"
          aria-label="The next person"
          :disabled="!data || data.index >= data.all - 1"
          @click="step(1)"
        />
      </span>
    </header>
    <FindBox
      v-if="choosing"
      class="choose"
      :kinds="['person']"
      label="Anybody's name"
      @pick="choose($event.id)"
    />
    <p v-if="data?.leftOut" class="why bad">{{ data.leftOut }}</p>
    <p v-else-if="!data?.all" class="why quiet">
      Once somebody is chosen and there is something to send, it stands here just as they will get it.
    </p>
    <template v-else>
      <article v-for="(d, i) in data.deliveries" :key="i">
        <div class="small quiet to">
          <ChannelMark :channel="d.channel" />
          <span>{{ channelWords[d.channel] }} to {{ d.to }}</span>
          <span v-if="d.from">from {{ d.from }}</span>
          <template v-if="d.channel === 'push'">
            <span>{{ d.quiet ? 'quiet' : 'interrupts' }}</span>
            <span v-if="d.badge">marks the icon</span>
          </template>
          <span v-if="d.parts">{{ count(d.parts, 'part', 'parts') }}</span>
          <span v-if="d.seconds">about {{ d.seconds }} s</span>
          <span v-if="d.at">{{ d.at }}</span>
          <span v-if="d.shared">shared with {{ count(d.shared, 'other', 'others') }}</span>
        </div>
        <b v-if="d.subject" dir="auto" :lang="d.language" class="subject">{{ d.subject }}</b>
        <!-- eslint-disable-next-line vue/no-v-html -- the server writes it from a document, with everything escaped -->
        <div v-if="d.html" class="said formatted" :lang="d.language" v-html="d.html" />
        <p v-else-if="d.body" dir="auto" :lang="d.language" class="said">{{ d.body }}</p>
        <p v-else-if="d.channel === 'voice'" class="said quiet">The recording is played.</p>
        <p v-if="d.link" class="small quiet opens">
          opens <bdi>{{ d.link }}</bdi>
        </p>
      </article>
      <footer class="small quiet">
        {{ data.why }}<template v-if="data.speaks"> Reads {{ data.speaks }}.</template>
      </footer>
    </template>
  </section>
</template>

<style scoped>
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 3px 4px 3px 10px;
  border-bottom: 1px solid var(--hair);
}

.turn {
  gap: 2px;
}

.turn .v-btn {
  border: 0;
  background: none;
}

.choose,
.why {
  margin: 8px 10px;
}

article {
  padding: 8px 11px 0;
}

.to {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 8px;
}

.subject {
  display: block;
  margin-top: 4px;
}

.said {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin-top: 3px;
  max-height: 210px;
  overflow: auto;
}

.opens {
  overflow-wrap: anywhere;
}

.formatted {
  white-space: normal;
}

.formatted :deep(h2),
.formatted :deep(h3) {
  font-size: 15px;
}

.formatted :deep(ul),
.formatted :deep(ol) {
  padding-inline-start: 22px;
}

footer {
  padding: 8px 11px 9px;
}
</style>
