<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { bytes, count } from '@/composables/words'

/** What a delivery said, as whoever got it saw it. */
const props = defineProps<{ delivery: Schemas['StoryDelivery'] }>()

/** Pictures that went with the email are kept here under their hash (RFC 2392). */
const html = computed(() => props.delivery.html?.replace(/"cid:([0-9a-f]{64})"/g, '"/api/files/$1"'))
const reached = computed(() => ['arrived', 'opened', 'answered'].includes(props.delivery.state))
const from = computed(() => {
  const d = props.delivery
  if (!d.sender) return ''
  return d.mailbox ? `from ${d.sender} <${d.mailbox}>` : `from ${d.sender}`
})
</script>

<template>
  <div class="got">
    <p class="small quiet">
      {{ reached ? 'What they got' : 'What it said'
      }}<template v-if="from"
        >, <bdi>{{ from }}</bdi></template
      ><template v-if="delivery.parts > 1">, in {{ count(delivery.parts, 'part', 'parts') }}</template
      ><template v-if="delivery.seconds">, about {{ delivery.seconds }} s</template>
    </p>
    <b v-if="delivery.subject" dir="auto" :lang="delivery.language" class="subject">{{ delivery.subject }}</b>
    <!-- eslint-disable-next-line vue/no-v-html -- the server writes it from a document, with everything escaped -->
    <div v-if="html" class="said formatted" :lang="delivery.language" dir="auto" v-html="html" />
    <p v-else-if="delivery.played" class="quiet">The recording was played.</p>
    <p v-else dir="auto" :lang="delivery.language" class="said">{{ delivery.body }}</p>
    <p v-if="delivery.link" class="small quiet said">
      opens <bdi>{{ delivery.link }}</bdi>
    </p>
    <ul v-if="delivery.files.length" class="files small">
      <li v-for="f in delivery.files" :key="f.hash">
        <a class="link" :href="`/api/files/${f.hash}`" :download="f.name">{{ f.name }}</a>
        <span class="quiet">{{ bytes(f.size) }}</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.got {
  border-top: 1px solid var(--hair);
  padding-top: 7px;
}

.said {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin-top: 3px;
}

.formatted {
  white-space: normal;
}

.formatted :deep(img) {
  max-width: 100%;
}

.formatted :deep(ul),
.formatted :deep(ol) {
  padding-inline-start: 22px;
}

.files {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}
</style>
