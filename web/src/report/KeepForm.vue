<script setup lang="ts">
import { ref } from 'vue'
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import SayNote from '@/components/SayNote.vue'
import CheckBox from '@/controls/CheckBox.vue'
import SideDrawer from '@/controls/SideDrawer.vue'
import TextField from '@/controls/TextField.vue'
import type { Ask } from './ask'

/** Keeps a report by a name, and says to whom it is mailed each month. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ ask: Ask; readers: Schemas['ReportReader'][]; kept?: Schemas['KeptReport'] }>()
const emit = defineEmits<{ kept: [] }>()
const client = useQueryClient()

const name = ref(props.kept?.name ?? '')
const chosen = ref<number[]>([...(props.kept?.readers ?? [])])

function choose(id: number, on: boolean) {
  chosen.value = on ? [...chosen.value, id] : chosen.value.filter((o) => o !== id)
}

const keep = useMutation({
  mutationFn: () =>
    take(api.POST('/reports', { body: { name: name.value, ask: props.ask, readers: chosen.value } })),
  onSuccess: async () => {
    await client.invalidateQueries({ queryKey: ['reports'] })
    open.value = false
    emit('kept')
  },
})
</script>

<template>
  <SideDrawer v-model="open" title="Keep this report">
    <form class="form" @submit.prevent="keep.mutate()">
      <TextField
        v-model="name"
        aria-label="Name of the report"
        placeholder="Name"
        maxlength="100"
        autofocus
      />
      <fieldset>
        <legend>Mailed on the first of each month to</legend>
        <CheckBox
          v-for="r in readers"
          :key="r.id"
          :model-value="chosen.includes(r.id)"
          :label="r.name"
          @update:model-value="choose(r.id, Boolean($event))"
        />
        <p class="quiet small">
          Each gets the figures of what they see themselves, for the month that has ended.
        </p>
      </fieldset>
      <SayNote v-if="keep.error.value" kind="bad">{{ keep.error.value.message }}</SayNote>
      <v-btn
        type="submit"
        color="primary"
        variant="flat"
        :disabled="!name.trim()"
        :loading="keep.isPending.value"
        >Keep it</v-btn
      >
    </form>
  </SideDrawer>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
}

.form > .v-btn {
  justify-self: start;
}

fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
}

legend {
  padding: 0;
  margin-bottom: 4px;
  font-weight: 600;
}
</style>
