<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useChoices } from '@/composables/choices'
import { channelWords, dayWords } from '@/composables/words'

/** What is known of somebody besides. */
const { person } = defineProps<{ person: Schemas['PersonDetailView'] }>()

const facts = computed(() => {
  const s = person.sheet
  return [
    ['Reads', person.speaks || 'language not known'],
    ['Asked for first', s.wish ? channelWords[s.wish].toLowerCase() : ''],
    ['Unit', person.unit || 'the whole organisation'],
    ['Time zone', s.timeZone],
    ['Born on', dayWords(s.bornOn)],
    ['Id in your files', s.externalId],
    ['Last reached', dayWords(s.reachedOn)],
  ].filter(([, v]) => v)
})
const { data: choices } = useChoices()
const values = computed(() =>
  (person.sheet.values ?? []).flatMap((v) => {
    const a = choices.value?.attributes.find((x) => x.id === v.attribute)
    return a ? [[a.name, a.kind === 'date' ? dayWords(v.value) : v.value]] : []
  }),
)
</script>

<template>
  <section>
    <h3>About them</h3>
    <dl>
      <template v-for="[k, v] in [...facts, ...values]" :key="k"
        ><dt>{{ k }}</dt>
        <dd>
          <bdi>{{ v }}</bdi>
        </dd></template
      >
    </dl>
    <p v-if="person.sheet.notes" class="said notes">{{ person.sheet.notes }}</p>
  </section>
</template>

<style scoped src="./lists.css"></style>

<style scoped>
dl {
  margin: 0;
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 4px 10px;
}

dt {
  color: var(--ink2);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
}

.notes {
  white-space: pre-line;
  background: var(--pane);
  border-radius: 4px;
  padding: 7px 10px;
  margin-top: 8px;
}
</style>
