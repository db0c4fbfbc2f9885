<script setup lang="ts">
import { ref, watch } from 'vue'
import { EditorContent, useEditor } from '@tiptap/vue-3'
import { api, take } from '@/api/client'
import { fromEditor, toEditor, type Body } from '@/composables/rich'
import { richExtensions } from './richExtensions'
import RichBar from './RichBar.vue'

/** Text with fields in it; with formatting unless it is plain. */
const body = defineModel<Body>({ required: true })
const props = defineProps<{
  label: string
  placeholder?: string
  plain?: boolean
  fields: string[]
  following?: boolean
  /** Uploads a picture and returns the hash of its file. */
  upload?: (file: File) => Promise<string | undefined>
}>()

const said = ref('')

const editor = useEditor({
  content: toEditor(body.value),
  extensions: richExtensions({
    placeholder: props.placeholder ?? '',
    plain: props.plain,
    fields: () => props.fields,
  }),
  editorProps: {
    attributes: {
      'aria-label': props.label,
      'aria-multiline': 'true',
      role: 'textbox',
      dir: 'auto',
      spellcheck: 'true',
    },
    handlePaste: (_view, event) => pasted(event),
  },
  onUpdate: ({ editor: e }) => {
    said.value = ''
    body.value = fromEditor(e.getJSON())
  },
})

// What changes elsewhere, or is followed, is shown; what was typed here is not touched.
watch(body, (now) => {
  const e = editor.value
  if (!e || JSON.stringify(now) === JSON.stringify(fromEditor(e.getJSON()))) return
  e.commands.setContent(toEditor(now), { emitUpdate: false })
})
watch(
  () => props.fields,
  () => editor.value?.view.dispatch(editor.value.state.tr),
)

function pasted(event: ClipboardEvent): boolean {
  const data = event.clipboardData
  const picture = [...(data?.files ?? [])].find((f) => f.type.startsWith('image/'))
  if (picture && props.upload && !props.plain) {
    void addPicture(picture)
    return true
  }
  const html = data?.getData('text/html') ?? ''
  if (!data || html.includes('data-pm-slice')) return false // copied from an editor of ours
  const text = data.getData('text/plain')
  void clean(props.plain || !html ? { text } : { html })
  return true
}

async function clean(what: { html?: string; text?: string }) {
  try {
    const cleaned = await take(api.POST('/paste', { body: what }))
    put(cleaned.content)
    said.value = cleaned.dropped.length ? `Pasted without ${cleaned.dropped.join(', ')}.` : ''
  } catch (error) {
    said.value = `Nothing was pasted: ${(error as Error).message}`
  }
}

async function addPicture(file: File | undefined) {
  if (!file) return
  const hash = await props.upload?.(file)
  if (hash)
    editor.value
      ?.chain()
      .focus()
      .setImage({ src: `file:${hash}`, alt: file.name })
      .run()
}

/** Puts text where the cursor stands. */
function insert(text: string) {
  editor.value?.chain().focus().insertContent({ type: 'text', text }).run()
}

/** Puts a body where the cursor stands; a single line goes on in the line it is put into. */
function put(what: Body) {
  const content = toEditor(what).content ?? []
  const line = content.length === 1 && content[0]?.type === 'paragraph'
  editor.value
    ?.chain()
    .focus()
    .insertContent(line ? (content[0]?.content ?? []) : content)
    .run()
}

defineExpose({ insert, put })
</script>

<template>
  <div class="rich" :class="{ plain, following }">
    <RichBar
      v-if="!plain && editor"
      :editor="editor"
      :label="label"
      :pictures="!!upload"
      @picture="addPicture"
    />
    <EditorContent :editor="editor" class="area" />
    <p v-if="said" class="small quiet said" role="status">{{ said }}</p>
  </div>
</template>

<style scoped>
.rich {
  border: 1px solid #8fa5ae;
  border-radius: 6px;
  background: var(--sheet);
}

.rich:focus-within {
  outline: 2px solid var(--deep2);
  outline-offset: 1px;
}

.area :deep(.tiptap) {
  min-height: 150px;
  max-height: 420px;
  overflow-y: auto;
  padding: 9px 10px;
  outline: none;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
  line-height: 1.5;
}

.plain .area :deep(.tiptap) {
  min-height: 38px;
  max-height: 210px;
}

.following .area :deep(.tiptap) {
  color: var(--ink2);
}

.area :deep(p) {
  margin: 0;
}

.area :deep(h2) {
  font-size: 17px;
  margin: 10px 0 3px;
}

.area :deep(h3) {
  font-size: 15px;
  margin: 10px 0 3px;
}

.area :deep(ul),
.area :deep(ol) {
  margin: 4px 0;
  padding-inline-start: 24px;
}

.area :deep(img) {
  max-width: 100%;
  border: 1px solid var(--line);
  border-radius: 4px;
}

.area :deep(a) {
  color: var(--deep2);
}

.area :deep(.filled) {
  border-radius: 3px;
  background: #e3edf0;
  color: var(--deep2);
  font-weight: 600;
}

.area :deep(.filled.blank) {
  background: var(--lampsoft);
  color: #7a5200;
}

.area :deep(.filled.unknown) {
  background: none;
  color: var(--brick);
  text-decoration: underline wavy;
}

.area :deep(p.is-editor-empty:first-child::before) {
  content: attr(data-placeholder);
  float: inline-start;
  height: 0;
  color: var(--ink3);
  pointer-events: none;
}

.said {
  padding: 0 10px 6px;
}
</style>
