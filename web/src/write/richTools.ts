import type { Ref } from 'vue'
import type { Editor } from '@tiptap/vue-3'
import {
  mdiFormatBold,
  mdiFormatSize,
  mdiFormatItalic,
  mdiFormatListBulleted,
  mdiFormatListNumbered,
} from '@mdi/js'

export type Tool = { icon: string; label: string; on: () => boolean; act: () => void }

/** What formats the text at the cursor; a heading becomes a smaller one, then none. */
export function richTools(editor: Ref<Editor | undefined>): Tool[] {
  const active = (name: string, a?: object) => editor.value?.isActive(name, a) ?? false
  return [
    {
      icon: mdiFormatBold,
      label: 'Bold',
      on: () => active('bold'),
      act: () => editor.value?.chain().focus().toggleBold().run(),
    },
    {
      icon: mdiFormatItalic,
      label: 'Italic',
      on: () => active('italic'),
      act: () => editor.value?.chain().focus().toggleItalic().run(),
    },
    {
      icon: mdiFormatSize,
      label: 'Heading',
      on: () => active('heading'),
      act: () =>
        editor.value
          ?.chain()
          .focus()
          .toggleHeading({
            level: active('heading') ? 3 : 2,
          })
          .run(),
    },
    {
      icon: mdiFormatListBulleted,
      label: 'List',
      on: () => active('bulletList'),
      act: () => editor.value?.chain().focus().toggleBulletList().run(),
    },
    {
      icon: mdiFormatListNumbered,
      label: 'Numbered list',
      on: () => active('orderedList'),
      act: () => editor.value?.chain().focus().toggleOrderedList().run(),
    },
  ]
}
