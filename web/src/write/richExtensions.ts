import type { Extensions } from '@tiptap/vue-3'
import { Document } from '@tiptap/extension-document'
import { Paragraph } from '@tiptap/extension-paragraph'
import { Text } from '@tiptap/extension-text'
import { HardBreak } from '@tiptap/extension-hard-break'
import { Heading } from '@tiptap/extension-heading'
import { BulletList, ListItem, ListKeymap, OrderedList } from '@tiptap/extension-list'
import { Bold } from '@tiptap/extension-bold'
import { Italic } from '@tiptap/extension-italic'
import { Link } from '@tiptap/extension-link'
import { Image } from '@tiptap/extension-image'
import { Placeholder, UndoRedo } from '@tiptap/extensions'
import { FieldMarks } from './fieldMarks'

const Picture = Image.extend({
  renderHTML({ HTMLAttributes }) {
    const { src, ...rest } = HTMLAttributes as { src: string }
    return ['img', { ...rest, src: src.replace(/^file:/, '/api/files/') }]
  },
})

// Ctrl+Enter belongs to the final check.
const LineBreak = HardBreak.extend({
  addKeyboardShortcuts() {
    return { 'Shift-Enter': () => this.editor.commands.setHardBreak() }
  },
})

/** What an editor can write: text with fields, and formatting unless it is plain. */
export const richExtensions = (how: {
  placeholder: string
  plain: boolean
  fields: () => string[]
}): Extensions => [
  Document,
  Paragraph,
  Text,
  UndoRedo,
  Placeholder.configure({ placeholder: how.placeholder }),
  FieldMarks.configure({ known: how.fields }),
  ...(how.plain
    ? []
    : [
        LineBreak,
        Heading.configure({ levels: [2, 3] }),
        BulletList,
        OrderedList,
        ListItem,
        ListKeymap,
        Bold,
        Italic,
        Link.configure({ openOnClick: false, protocols: ['mailto', 'tel'] }),
        Picture,
      ]),
]
