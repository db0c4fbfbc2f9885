import { describe, expect, it } from 'vitest'
import { fieldsIn, fromEditor, plainOf, toEditor } from './rich'

const line = (...content: object[]) => ({ type: 'paragraph', content })
const text = (t: string, ...marks: { type: string; attrs?: object }[]) => ({
  type: 'text',
  text: t,
  ...(marks.length ? { marks } : {}),
})

describe('bodies', () => {
  it.each(['', 'one line', 'Dear you,\n\nthree lines'])(
    'keeps text without formatting as it is: %j',
    (body) => {
      expect(fromEditor(toEditor(body))).toBe(body)
    },
  )

  it('keeps formatting and drops what only the editor knows', () => {
    const body = fromEditor({
      type: 'doc',
      content: [
        line(
          text('see '),
          text('this', { type: 'link', attrs: { href: 'https://a.example', target: '_blank', rel: 'x' } }),
        ),
        { type: 'heading', attrs: { level: 2 }, content: [text('When')] },
        {
          type: 'orderedList',
          attrs: { start: 1, type: null },
          content: [{ type: 'listItem', content: [line(text('a'))] }],
        },
        { type: 'image', attrs: { src: 'file:00', alt: 'map', width: null } },
      ],
    })
    expect(body).toEqual({
      type: 'doc',
      content: [
        line(text('see '), text('this', { type: 'link', attrs: { href: 'https://a.example' } })),
        { type: 'heading', attrs: { level: 2 }, content: [text('When')] },
        { type: 'orderedList', content: [{ type: 'listItem', content: [line(text('a'))] }] },
        { type: 'image', attrs: { src: 'file:00', alt: 'map' } },
      ],
    })
    expect(plainOf(body)).toBe('see this\nWhen\n- a\n')
  })

  it('finds fields, whatever their case and fallback', () => {
    expect(fieldsIn('Dear {{First  name, else you}} of {{unit}} {not}')).toEqual([
      { from: 5, to: 30, name: 'first name' },
      { from: 34, to: 42, name: 'unit' },
    ])
  })
})
