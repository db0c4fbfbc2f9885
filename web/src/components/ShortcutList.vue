<script setup lang="ts">
const open = defineModel<boolean>({ required: true })

const keys = [
  ['Ctrl K', 'Find a person, a group or a message'],
  ['Ctrl Enter', 'On Write: go to the final check; in a form: save'],
  ['Alt with arrows', 'In the order of groups: move the group'],
  ['Arrows, Enter', 'In a list of finds: choose'],
  ['Shift Enter', 'In Who: leave the find out instead'],
  ['Escape', 'Close what lies on top'],
  ['?', 'This list'],
]
</script>

<template>
  <v-dialog v-model="open" max-width="420" aria-label="Keys">
    <v-card class="pa-4">
      <h2>Keys</h2>
      <dl>
        <template v-for="[key, does] in keys" :key="key">
          <dt>
            <kbd>{{ key }}</kbd>
          </dt>
          <dd>{{ does }}</dd>
        </template>
      </dl>
      <div class="row"><v-btn class="push" @click="open = false">Close</v-btn></div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 8px 14px;
  margin: 14px 0;
}

dd {
  margin: 0;
}

kbd {
  font: inherit;
  font-weight: 600;
  background: var(--fog);
  border-radius: 4px;
  padding: 2px 6px;
  white-space: nowrap;
}
</style>
