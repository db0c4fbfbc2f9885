<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Draft, Part, Plan } from '@/api/client'
import { partKey } from '@/composables/draft'
import { thousands } from '@/composables/words'
import FindBox, { type Found } from '@/components/FindBox.vue'
import PaneHead from '@/components/PaneHead.vue'
import ContactLoad from './ContactLoad.vue'
import FollowsNote from './FollowsNote.vue'
import ListDrawer from './ListDrawer.vue'
import PartDrawer from './PartDrawer.vue'
import WhyBox from './WhyBox.vue'
import { mdiClose } from '@mdi/js'
import CheckBox from '@/controls/CheckBox.vue'

const props = defineProps<{ plan?: Plan; names: Map<string, string>; stale: boolean; asked: string }>()
const draft = defineModel<Draft>('draft', { required: true })
const emit = defineEmits<{ over: [] }>()

const parts = computed(() => draft.value.audience.parts)
// Figures belong to the parts they were worked out for.
const worked = computed(() => (props.plan?.parts.length === parts.value.length ? props.plan.parts : []))
const label = (p: Part | undefined, i: number) =>
  worked.value[i]?.label ?? (p && (props.names.get(partKey(p)) ?? p.name)) ?? ''

const open = ref(false) // the drawer of a part
const shown = ref<number>() // which part it shows; none is a rule that is being made
const list = ref<string>() // a pasted list that is being looked at

function add(found: Found, leaveOut: boolean) {
  const part: Part =
    found.kind === 'role'
      ? { kind: 'role', role: found.role }
      : { kind: found.kind as 'group', [found.kind]: found.id }
  props.names.set(partKey(part), found.kind === 'role' ? `Everyone with the role ${found.name}` : found.name)
  put(leaveOut ? { ...part, leaveOut } : part)
}

function put(part: Part) {
  const same = parts.value.findIndex((p) => partKey(p) === partKey(part))
  if (same >= 0) parts.value.splice(same, 1)
  parts.value.push(part)
}

function see(i: number | undefined) {
  shown.value = i
  open.value = true
}

function turn(p: Part) {
  if (p.leaveOut) delete p.leaveOut
  else {
    p.leaveOut = true
    delete p.only
  }
}

const guardians = computed(() => draft.value.audience.receivers !== 'themselves')
const themselves = computed(() => draft.value.audience.receivers !== 'guardians')

/** At least one of the two receives. */
function receive(g: boolean, t: boolean) {
  draft.value.audience.receivers = g && t ? 'both' : g ? 'guardians' : 'themselves'
}
</script>

<template>
  <section class="who" aria-label="Who">
    <PaneHead
      title="Who"
      :note="parts.length ? `${parts.length} ${parts.length === 1 ? 'part' : 'parts'}` : 'nobody yet'"
    />
    <FollowsNote v-model:draft="draft" />
    <FindBox
      :kinds="['group', 'unit', 'role', 'person']"
      label="Add a group, role, name or list"
      second="leave out"
      lists
      @pick="add($event, false)"
      @second="add($event, true)"
      @list="list = $event"
    />
    <div class="more small">
      <button class="link" @click="see(undefined)">By a rule</button>
      <button class="link" @click="list = ''">From a list or file</button>
    </div>
    <ul aria-label="Parts">
      <li
        v-for="(p, i) in parts"
        :key="partKey(p)"
        class="part sheet"
        :class="{ out: p.leaveOut, some: p.only }"
      >
        <div class="top">
          <button class="name" :aria-label="`See who is in ${label(p, i)}`" @click="see(i)">
            <template v-if="p.leaveOut">leave out: </template><bdi>{{ label(p, i) }}</bdi>
          </button>
          <em class="num" :class="{ stale }">{{
            worked[i]
              ? (p.leaveOut && worked[i].recipients ? '−' : '') + thousands(worked[i].recipients)
              : '…'
          }}</em>
        </div>
        <div class="small quiet">
          <span v-if="worked[i]?.missing" class="bad">no longer on the roster</span>
          <span v-else>{{ worked[i]?.detail }}</span>
        </div>
        <div v-if="worked[i]?.within" class="small within">
          Already included in <bdi>{{ worked[i].within }}</bdi>
        </div>
        <div
          v-else-if="worked[i] && !p.leaveOut && worked[i].adds < worked[i].recipients"
          class="small quiet"
        >
          {{
            worked[i].adds
              ? `${thousands(worked[i].adds)} of them by this part alone`
              : 'all of them named elsewhere too'
          }}
        </div>
        <div class="acts">
          <button class="link small" @click="turn(p)">{{ p.leaveOut ? 'Include' : 'Leave out' }}</button>
          <button
            class="link small"
            :aria-label="`Take away ${label(p, i) || 'this part'}`"
            @click="parts.splice(i, 1)"
          >
            <v-icon :icon="mdiClose" size="13" />Take away
          </button>
        </div>
      </li>
    </ul>
    <p v-if="!parts.length" class="quiet small hint">
      Nobody is chosen until you choose. Type a name above, paste numbers or mail addresses, or press the down
      arrow to see every group and role.
    </p>
    <fieldset>
      <legend>Who receives for a dependent</legend>
      <label
        ><CheckBox
          :model-value="guardians"
          :disabled="guardians && !themselves"
          @update:model-value="receive(!guardians, themselves)"
        />
        Guardians</label
      >
      <label
        ><CheckBox
          :model-value="themselves"
          :disabled="themselves && !guardians"
          @update:model-value="receive(guardians, !themselves)"
        />
        The dependent</label
      >
    </fieldset>
    <div v-if="parts.length" class="total" :class="{ stale }">
      <b class="num">{{ thousands(plan?.named ?? 0) }}</b> {{ plan?.named === 1 ? 'person' : 'people' }} after
      these parts
      <div v-if="plan?.namedTwice" class="quiet small">
        {{ thousands(plan.namedTwice) }}
        {{
          plan.namedTwice === 1
            ? 'was named more than once and counts'
            : 'were named more than once and count'
        }}
        once
      </div>
      <div v-if="plan?.keptOut" class="quiet small">
        {{ thousands(plan.keptOut) }} more {{ plan.keptOut === 1 ? 'gets' : 'get' }} nothing by any channel:
        away, left, barred, beyond your units or without a guardian who receives
      </div>
    </div>
    <ContactLoad v-if="plan" v-model:draft="draft" :load="plan.load" @over="emit('over')" />
    <WhyBox v-if="parts.length" :asked="asked" />
    <PartDrawer
      v-model="open"
      v-model:draft="draft"
      :part="shown"
      :label="label(parts[shown ?? -1], shown ?? -1)"
      :asked="asked"
      @made="shown = $event"
    />
    <ListDrawer v-model="list" @add="$event.forEach(put)" />
  </section>
</template>

<style scoped>
.who {
  padding: 12px 14px;
}

ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}

.part {
  padding: 7px 9px;
  margin-bottom: 6px;
}

.part.out {
  border-left: 3px solid var(--brick);
}

.part.some {
  border-left: 3px solid var(--ink2);
}

.top {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}

.name {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  font-weight: 600;
  color: inherit;
  text-align: start;
  overflow-wrap: anywhere;
  cursor: pointer;
}

.name:hover {
  text-decoration: underline;
}

.more {
  display: flex;
  gap: 14px;
  margin-top: 6px;
}

.within {
  color: var(--amber-ink, #7a5200);
}

em {
  font-style: normal;
  font-weight: 600;
}

.stale {
  color: var(--ink3);
}

.acts {
  display: flex;
  gap: 14px;
  margin-top: 3px;
}

.acts .link {
  font-weight: 500;
  display: inline-flex;
  align-items: center;
  gap: 2px;
}

.hint {
  margin-top: 8px;
}

fieldset {
  border: 0;
  margin: 12px 0 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}

legend {
  font-size: 12px;
  font-weight: 600;
  color: var(--ink2);
  padding: 0;
  margin-bottom: 4px;
}

label {
  display: flex;
  align-items: center;
  gap: 5px;
}

.total {
  border-top: 2px solid var(--ink);
  margin-top: 12px;
  padding-top: 8px;
}

.total b {
  font-size: 22px;
}
</style>
