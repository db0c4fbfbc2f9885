<script setup lang="ts">
import { ref, watch } from 'vue'
import { mdiCalendarBlank } from '@mdi/js'
import MonthPanel from './MonthPanel.vue'
import './controls.css'

/** A field for a day or a moment, and a month to choose it from. */
const props = defineProps<{
  /** What stands in the field as the organisation writes it. */
  shown: string
  /** The chosen day, such as 2026-11-28, or empty. */
  day: string
  moment?: boolean
  /** Takes what was typed, and resolves to what is odd about it. */
  read: (typed: string) => Promise<string>
}>()
defineOptions({ inheritAttrs: false })

const typed = ref(props.shown)
watch(
  () => props.shown,
  (now) => (typed.value = now),
)
const open = ref(false)
const wrong = ref('')
const note = ref('')

async function take(text: string) {
  open.value = false
  typed.value = text
  wrong.value = note.value = ''
  try {
    note.value = await props.read(text)
    if (props.shown) typed.value = props.shown
  } catch (error) {
    wrong.value = (error as Error).message
  }
}
</script>

<template>
  <v-text-field
    v-model="typed"
    class="control moment"
    autocomplete="off"
    v-bind="$attrs"
    :error-messages="wrong || undefined"
    :messages="note || undefined"
    @change="take(typed)"
    @keydown.down.prevent="open = true"
  >
    <template #append-inner>
      <v-menu v-model="open" :close-on-content-click="false" location="bottom end">
        <template #activator="{ props: menu }">
          <button
            type="button"
            class="icon"
            v-bind="menu"
            aria-label="Choose from a month"
            @mousedown.stop
            @click.prevent
          >
            <v-icon :icon="mdiCalendarBlank" size="17" />
          </button>
        </template>
        <MonthPanel v-if="open" :chosen="day" :moment="moment" :usual="moment" @pick="take" />
      </v-menu>
    </template>
  </v-text-field>
</template>
