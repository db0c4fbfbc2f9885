<script setup lang="ts">
import { ref, toRef } from 'vue'
import type { Editor } from '@tiptap/vue-3'
import { mdiImageOutline, mdiLinkVariant } from '@mdi/js'
import TextField from '@/controls/TextField.vue'
import { richTools } from './richTools'

/** What formats the text of an editor, links it and puts pictures into it. */
const props = defineProps<{ editor: Editor; label: string; pictures: boolean }>()
const emit = defineEmits<{ picture: [file: File | undefined] }>()

const linking = ref<string>()
const tools = richTools(toRef(() => props.editor))

function link() {
  if (linking.value === undefined) {
    linking.value = (props.editor.getAttributes('link').href as string | undefined) ?? 'https://'
    return
  }
  const href = linking.value.trim()
  linking.value = undefined
  const chain = props.editor.chain().focus().extendMarkRange('link')
  if (!href || href === 'https://') chain.unsetLink().run()
  else if (props.editor.state.selection.empty && !props.editor.isActive('link'))
    chain.insertContent({ type: 'text', text: href, marks: [{ type: 'link', attrs: { href } }] }).run()
  else chain.setLink({ href }).run()
}
</script>

<template>
  <div class="tools" role="toolbar" :aria-label="`Formatting of ${label}`">
    <button
      v-for="t in tools"
      :key="t.label"
      type="button"
      :aria-label="t.label"
      :title="t.label"
      :aria-pressed="t.on()"
      @click="t.act()"
    >
      <v-icon :icon="t.icon" size="18" />
    </button>
    <button
      type="button"
      aria-label="Link"
      title="Link"
      :aria-pressed="editor.isActive('link')"
      @click="link"
    >
      <v-icon :icon="mdiLinkVariant" size="18" />
    </button>
    <label v-if="pictures" title="Picture">
      <v-icon :icon="mdiImageOutline" size="18" />
      <input
        type="file"
        accept="image/*"
        aria-label="Picture"
        @change="emit('picture', ($event.target as HTMLInputElement).files?.[0])"
      />
    </label>
    <form
      v-if="linking !== undefined"
      class="to"
      @submit.prevent="link"
      @keydown.esc.stop="linking = undefined"
    >
      <TextField v-model="linking" aria-label="Where the link leads" spellcheck="false" />
      <button type="submit" class="link small">Set</button>
    </form>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px;
  padding: 3px 5px;
  border-bottom: 1px solid var(--hair);
}

.tools button:not(.link),
.tools label {
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--ink2);
  padding: 3px 5px;
  line-height: 1;
  cursor: pointer;
}

.tools button[aria-pressed='true'] {
  background: #dbe7eb;
  color: var(--ink);
}

.tools label:focus-within {
  outline: 2px solid var(--deep2);
}

.tools label input {
  position: absolute;
  width: 1px;
  opacity: 0;
}

.to {
  display: flex;
  gap: 6px;
  margin-inline-start: 6px;
}

.to .control {
  --control-height: 26px;
  width: 210px;
}
</style>
