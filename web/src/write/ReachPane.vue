<script setup lang="ts">
import { computed } from 'vue'
import type { Draft, Plan } from '@/api/client'
import { count, people, things, thousands } from '@/composables/words'
import PaneHead from '@/components/PaneHead.vue'
import SayNote from '@/components/SayNote.vue'
import PeopleDrawer, { type Figure } from './PeopleDrawer.vue'
import PreviewCard from './PreviewCard.vue'
import SenderBox from './SenderBox.vue'
import StepLadder from './StepLadder.vue'
import WhoReads from './WhoReads.vue'
import TimeBox from './TimeBox.vue'

const props = defineProps<{ plan: Plan; asked: string; stale: boolean; draftId: number }>()
const draft = defineModel<Draft>('draft', { required: true })

const figure = defineModel<Figure>('figure')
/** Which recipient the preview shows. */
const index = defineModel<number>('index', { required: true })
const emit = defineEmits<{ mend: [place: Plan['problems'][number]['mend']] }>()

// Before anything is written nobody is left out, they just wait for content.
const written = computed(() => !props.plan.problems.some((p) => p.code === 'no-content'))

// Who is left out stands above with names; it is said again only in the final check.
const shown = computed(() => props.plan.problems.filter((p) => p.blocks || p.mend !== 'left-out'))

const onPaper = computed(() =>
  props.plan.leftOut.some((l) => ['no-address', 'all-dead', 'no-content'].includes(l.reason)),
)
</script>

<template>
  <section class="reach" aria-label="Reach">
    <PaneHead title="Reach" :note="stale ? 'working it out…' : 'worked out just now'" />
    <StepLadder
      v-model:draft="draft"
      :plan="plan"
      :stale="stale"
      @wished="figure = { wished: true, title: 'Reached by the channel they asked for first' }"
      @open="figure = { step: $event, title: `Reached on step ${$event}` }"
    />

    <div v-if="plan.nobody && written" class="out sheet" role="group" aria-label="Left out">
      <button
        class="link bad"
        @click="
          figure = {
            reason: 'any',
            title: `${people(plan.nobody)} ${plan.nobody === 1 ? 'gets' : 'get'} nothing`,
          }
        "
      >
        {{ people(plan.nobody) }} {{ plan.nobody === 1 ? 'gets' : 'get' }} nothing
      </button>
      <button
        v-for="r in plan.leftOut"
        :key="r.reason"
        class="why"
        :title="r.wayOut"
        @click="figure = { reason: r.reason, title: r.sentence, note: r.wayOut }"
      >
        <span>{{ r.sentence }}</span><span class="num">{{ thousands(r.people) }}</span>
      </button>
      <router-link v-if="onPaper && draftId" class="link small" :to="`/write/${draftId}/letters`"
        >Print letters for those whom no channel reaches</router-link
      >
    </div>
    <p v-else-if="plan.recipients" class="quiet small none">Nobody is left out.</p>

    <p v-if="plan.told && written" class="quiet small none">
      <button
        class="link plain"
        @click="figure = { reason: 'guardians-told', title: 'Told through a guardian' }"
      >
        {{ count(plan.told, 'dependent is', 'dependents are') }} told through a guardian
      </button>
    </p>

    <SayNote v-for="p in shown" :key="p.sentence" kind="mind" class="problem small">
      <button class="link plain" @click="emit('mend', p.mend)">{{ p.sentence }}</button>
    </SayNote>

    <TimeBox v-model:draft="draft" :plan="plan" />
    <SenderBox v-model:draft="draft" :plan="plan" />
    <div class="facts">
      <div class="sheet">
        <small>Goes out as</small><b class="num">{{ thousands(plan.deliveries) }}</b
        >&nbsp;
        <span class="small">{{ plan.deliveries === 1 ? 'delivery' : 'deliveries' }}</span>
        <div v-if="plan.channels.length > 1" class="small quiet">
          {{ plan.channels.map((c) => count(c.deliveries, ...things[c.channel])).join(', ') }}
        </div>
      </div>
      <div class="sheet">
        <small>Cost</small><b class="num">{{ plan.cost }}</b>
        <div v-if="plan.budget" class="small quiet">
          {{ plan.spent }} of {{ plan.budget }} spent or planned this month
        </div>
      </div>
    </div>
    <WhoReads :plan="plan" @open="figure = $event" />

    <PreviewCard v-model:index="index" :asked="asked" :recipients="plan.recipients" />
    <PeopleDrawer v-model="figure" :asked="asked" :draft-id="draftId" @steps="emit('mend', 'steps')" />
  </section>
</template>

<style scoped>
.reach {
  padding: 12px 14px;
}

.out {
  padding: 8px 10px;
  margin-top: 8px;
  display: grid;
  font-size: 12.5px;
}

.out > * {
  min-height: 24px;
}

.why {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  border: 0;
  background: none;
  padding: 1px 0;
  font: inherit;
  color: var(--ink);
  text-align: start;
  cursor: pointer;
}

.why:hover span:first-child {
  text-decoration: underline;
}

.plain {
  color: inherit;
  font-weight: 400;
  text-align: start;
}

.none,
.problem,
.lang {
  margin-top: 8px;
}

.facts {
  display: grid;
  grid-template-columns: 1fr 1.4fr;
  gap: 8px;
  margin-top: 9px;
}

.facts > div {
  padding: 6px 9px;
}

.facts small {
  display: block;
  color: var(--ink2);
  font-size: 11.5px;
}

.facts b {
  font-size: 15px;
}

.see {
  margin-top: 9px;
}
</style>
