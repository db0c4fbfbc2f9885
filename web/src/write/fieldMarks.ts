import { Extension } from '@tiptap/core'
import { Plugin, PluginKey } from '@tiptap/pm/state'
import { Decoration, DecorationSet } from '@tiptap/pm/view'
import { fieldsIn } from '@/composables/rich'

const key = new PluginKey('fields')

/** Shows fields as they are typed, and those that there are not. */
export const FieldMarks = Extension.create<{ known: () => string[] }>({
  name: 'fieldMarks',
  addOptions: () => ({ known: () => [] }),
  addProseMirrorPlugins() {
    const known = this.options.known
    return [
      new Plugin({
        key,
        props: {
          decorations(state) {
            const list: Decoration[] = []
            const names = known()
            state.doc.descendants((block, at) => {
              if (!block.isTextblock) return true
              const text = block.textBetween(0, block.content.size, undefined, '\ufffc')
              for (const f of fieldsIn(text)) {
                const fine = names.includes(f.name)
                const blank = f.name.startsWith('ask:')
                list.push(
                  Decoration.inline(at + 1 + f.from, at + 1 + f.to, {
                    class: fine ? 'filled' : blank ? 'filled blank' : 'filled unknown',
                    ...(fine || blank ? {} : { title: `There is no field “${f.name}”` }),
                  }),
                )
              }
              return false
            })
            return DecorationSet.create(state.doc, list)
          },
        },
      }),
    ]
  },
})
