<script setup lang="ts">
import { useTemplateRef } from 'vue'
import { mdiArrowDown, mdiArrowUp, mdiClose, mdiDragVertical } from '@mdi/js'
import type { Schemas } from '@/api/client'
import { emptyLine, type AddressLine } from '@/composables/addresses'
import { useChoices } from '@/composables/choices'
import { moved, useDragOrder } from '@/composables/dragOrder'
import { healthWords } from '@/composables/words'
import CheckBox from '@/controls/CheckBox.vue'
import DayField from '@/controls/DayField.vue'
import SelectField from '@/controls/SelectField.vue'
import TextField from '@/controls/TextField.vue'

/** The addresses of a person, in the order in which they are used. */
const lines = defineModel<AddressLine[]>({ required: true })
defineProps<{
  /** What the server says about each of them. */
  remarks: Schemas['Remark'][][]
}>()

const { data: choices } = useChoices()
const addressList = useTemplateRef('addressList')
useDragOrder(addressList, (from, to) => (lines.value = moved(lines.value, from, to)))

const today = () => new Date().toISOString().slice(0, 10)
</script>

<template>
  <ol ref="addressList" class="addresses">
    <li v-for="(l, i) in lines" :key="l.key" class="sheet">
      <div class="top">
        <v-icon class="grip" :icon="mdiDragVertical" size="17" title="Drag to change the order" />
        <TextField
          v-model="l.value"
          class="value"
          :aria-label="
            l.kind === 'mail' ? 'Mail address' : l.kind === 'number' ? 'Number' : 'Name of the device'
          "
          :placeholder="
            l.kind === 'mail'
              ? 'name@example.org'
              : l.kind === 'number'
                ? '07700 900…'
                : 'Launch Kestrel’s screen'
          "
        />
        <SelectField
          v-if="l.kind === 'device'"
          v-model="l.label"
          aria-label="Kind of device"
          :items="(choices?.devices ?? []).map((d) => ({ value: d, title: d }))"
        />
        <TextField v-else v-model="l.label" class="label" aria-label="Label" placeholder="label" />
        <button
          type="button"
          class="icon"
          :disabled="i === 0"
          aria-label="Earlier"
          @click="lines = moved(lines, i, i - 1)"
        >
          <v-icon :icon="mdiArrowUp" size="15" />
        </button>
        <button
          type="button"
          class="icon"
          :disabled="i === lines.length - 1"
          aria-label="Later"
          @click="lines = moved(lines, i, i + 1)"
        >
          <v-icon :icon="mdiArrowDown" size="15" />
        </button>
        <button
          type="button"
          class="icon"
          aria-label="Take away"
          @click="lines = lines.filter((x) => x !== l)"
        >
          <v-icon :icon="mdiClose" size="15" />
        </button>
      </div>
      <div class="uses small">
        <template v-if="l.kind === 'number'">
          <label class="tickbox"><CheckBox v-model="l.texts" />texts</label>
          <label class="tickbox"><CheckBox v-model="l.calls" />calls</label>
        </template>
        <label v-if="l.kind === 'device'" class="tickbox"
          ><CheckBox v-model="l.allowed" />push is allowed</label
        >
        <template v-else>
          <label class="tickbox"><CheckBox v-model="l.declinesRoutine" />declines routine</label>
          <label class="tickbox"><CheckBox v-model="l.declinesTimely" />declines timely</label>
        </template>
        <span class="push quiet">
          <template v-if="l.checkedOn"
            >checked on <DayField v-model="l.checkedOn" aria-label="Checked on"
          /></template>
          <button v-else type="button" class="link" @click="l.checkedOn = today()">checked today</button>
        </span>
      </div>
      <p
        v-for="k in l.known.filter((a) => a.health === 'failing' || a.health === 'dead' || a.carrierStop)"
        :key="k.channel"
        class="small bad"
      >
        {{ k.channel }}:
        {{
          k.carrierStop && k.channel !== 'push'
            ? 'the carrier recorded a stop'
            : healthWords[k.health ?? 'untried']
        }}
        {{ k.lastFailure }}
      </p>
      <p v-for="r in remarks[i] ?? []" :key="r.reason" class="small" :class="r.refused ? 'bad' : 'mind'">
        <bdi>{{ r.value }}</bdi> {{ r.reason }}
      </p>
      <p v-if="l.kind === 'number' && !l.texts && !l.calls" class="small bad">
        Takes neither texts nor calls: it would not be kept.
      </p>
    </li>
  </ol>
  <div class="row">
    <v-btn size="small" @click="lines = [...lines, emptyLine('number')]">Add a number</v-btn>
    <v-btn size="small" @click="lines = [...lines, emptyLine('mail')]">Add a mail address</v-btn>
    <v-btn size="small" @click="lines = [...lines, emptyLine('device')]">Add a device</v-btn>
  </div>
</template>

<style scoped>
.addresses {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.addresses li {
  padding: 7px 8px;
  display: flex;
  flex-direction: column;
  gap: 5px;
}

.top {
  display: flex;
  align-items: center;
  gap: 6px;
}

.value {
  flex: 1;
  font-variant-numeric: tabular-nums;
}

.label {
  width: 96px;
}

.uses {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 3px 12px;
  padding-inline-start: 23px;
}
</style>
