import type { JSONContent } from '@tiptap/core'
import type { Draft, Schemas } from '@/api/client'

/** The body of an email as the API has it: lines of text, or a formatted document. */
export type Body = Draft['email']
type Node = Schemas['Node']
type Attrs = Schemas['Attrs']

/** A body as the editor holds it. */
export function toEditor(body: Body): JSONContent {
  if (typeof body !== 'string') return body as JSONContent
  return {
    type: 'doc',
    content: body.split('\n').map((line) => ({
      type: 'paragraph',
      ...(line ? { content: [{ type: 'text', text: line }] } : {}),
    })),
  }
}

function attrs(from: JSONContent['attrs']): { attrs?: Attrs } {
  const out: Attrs = {}
  for (const key of ['href', 'src', 'alt'] as const) if (from?.[key]) out[key] = String(from[key])
  if (from?.level) out.level = Number(from.level)
  return Object.keys(out).length ? { attrs: out } : {}
}

/** What the editor holds besides what the API knows is left out. */
function node(from: JSONContent): Node {
  return {
    type: from.type as Node['type'],
    ...(from.text ? { text: from.text } : {}),
    ...(from.marks?.length
      ? { marks: from.marks.map((m) => ({ type: m.type as 'bold', ...attrs(m.attrs) })) }
      : {}),
    ...(from.type === 'orderedList' ? {} : attrs(from.attrs)),
    ...(from.content ? { content: from.content.map(node) } : {}),
  }
}

const isLine = (n: Node) =>
  n.type === 'paragraph' && (n.content ?? []).every((t) => t.type === 'text' && !t.marks?.length)

/** What the editor holds, as the API takes it: a string while it has no formatting. */
export function fromEditor(doc: JSONContent): Body {
  const content = (doc.content ?? []).map(node)
  if (!content.every(isLine)) return { type: 'doc', content }
  return content.map((n) => (n.content ?? []).map((t) => t.text).join('')).join('\n')
}

/** The lines of a body, for whatever shows no formatting. */
export function plainOf(body: Body): string {
  if (typeof body === 'string') return body
  const line = (n: Node): string =>
    n.type === 'text' ? (n.text ?? '') : n.type === 'hardBreak' ? '\n' : (n.content ?? []).map(line).join('')
  const lines = (n: Node): string[] =>
    n.type === 'bulletList' || n.type === 'orderedList'
      ? (n.content ?? []).flatMap((item) => (item.content ?? []).flatMap(lines)).map((text) => `- ${text}`)
      : [line(n)]
  return body.content.flatMap(lines).join('\n')
}

/** The fields in a line of text: where they stand and what they are called. */
export function fieldsIn(text: string): { from: number; to: number; name: string }[] {
  return [...text.matchAll(/\{\{([^{}]*)\}\}/g)].map((m) => ({
    from: m.index,
    to: m.index + m[0].length,
    name: (m[1] ?? '').split(', else')[0]!.trim().toLowerCase().replace(/\s+/g, ' '),
  }))
}
