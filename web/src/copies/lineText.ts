import type { Schemas } from '@/api/client'

export type LineView = Schemas['LineView']
export type Placeholder = Schemas['Placeholder']

/** A part of a line as it is shown: words in their formatting, or a field. */
export interface Run {
  text: string
  field: boolean
  bold: boolean
  italic: boolean
  link: string
}

const mark = /\{(\/?)(\d{1,3})\}/g

/** How a line reads: its places as what they stand for. A number that stands for nothing is left. */
export function runsOf(text: string, places: Placeholder[]): Run[] {
  const runs: Run[] = []
  const open = new Set<number>()
  const add = (said: string, field = false) => {
    if (!said) return
    const has = (kind: Placeholder['kind']) => [...open].filter((n) => places[n - 1]?.kind === kind)
    runs.push({
      text: said,
      field,
      bold: has('bold').length > 0,
      italic: has('italic').length > 0,
      link: places[(has('link')[0] ?? 0) - 1]?.name ?? '',
    })
  }
  let at = 0
  for (const found of text.matchAll(mark)) {
    add(text.slice(at, found.index))
    at = found.index + found[0].length
    const number = Number(found[2])
    const place = places[number - 1]
    if (!place) add(found[0])
    else if (place.kind === 'field') add(place.name ?? '', true)
    else if (place.kind === 'braces') add(place.name ?? '')
    else if (found[1]) open.delete(number)
    else open.add(number)
  }
  add(text.slice(at))
  return runs
}

/** What may be put into a target for each place, and what it stands for. */
export function placesToPut(places: Placeholder[]): { words: string; before: string; after: string }[] {
  return places.map((place, i) => {
    const around = place.kind === 'bold' || place.kind === 'italic' || place.kind === 'link'
    return {
      words: around ? place.kind : (place.name ?? ''),
      before: `{${i + 1}}`,
      after: around ? `{/${i + 1}}` : '',
    }
  })
}

/** How far a line can be trusted, for its mark. */
export type Trust = 'checked' | 'adapted' | 'unread' | 'doubtful' | 'missing'

export function trustOf(line: LineView): Trust {
  if (!line.target) return 'missing'
  if (line.checkedBy) return 'checked'
  if (line.doubts.length || line.others.length) return 'doubtful'
  return line.source === 'adapted' ? 'adapted' : 'unread'
}

export const trustWords: Record<Trust, string> = {
  checked: 'checked',
  adapted: 'adapted, unread',
  unread: 'unread',
  doubtful: 'doubtful',
  missing: 'missing',
}

/** Where a line came from, in words. */
export function sourceWords(line: LineView, day: (at?: string) => string): string {
  if (!line.target) return line.was ? 'the original changed' : 'missing'
  const from = {
    person: `written by ${line.by}`,
    memory: `from the memory`,
    adapted: `adapted from the memory`,
    machine: `from the translation service`,
  }[line.source ?? 'person']
  if (line.others.length) return 'readers say it differently: choose one'
  return line.checkedBy
    ? `checked by ${line.checkedBy}, ${day(line.checkedAt)}`
    : `${from} · nobody has read it`
}

/** The next line that somebody should look at after one, or -1. */
export function nextToRead(lines: LineView[], after: number): number {
  const order = lines.map((_, i) => (after + 1 + i) % lines.length)
  return order.find((i) => trustOf(lines[i]!) !== 'checked') ?? -1
}
