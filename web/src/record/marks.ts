import type { Channel, DeliveryState, Schemas } from '@/api/client'
import { stageOf, thousands } from '@/composables/words'

/** A recipient in one glance: the channel and the state that say most. */
export interface Mark {
  channel: Channel
  state: DeliveryState
}

/** Reads marks as the server writes them: two digits in base 36 for each recipient. */
export function readMarks(view: Schemas['MarksView']): Mark[] {
  const list: Mark[] = []
  for (let i = 0; i + 1 < view.marks.length; i += 2) {
    const channel = view.channels[parseInt(view.marks[i] ?? '', 36)]
    const state = view.states[parseInt(view.marks[i + 1] ?? '', 36)]
    if (channel && state) list.push({ channel, state })
  }
  return list
}

/** Above so many, marks are put together. */
export const mostMarks = 3000

/** How a mark stands where many are put together, the best first. */
export const standings = ['reached', 'under way', 'failed', 'stopped'] as const
export type Standing = (typeof standings)[number]

function standingOf(state: DeliveryState): Standing {
  const stage = stageOf(state)
  if (stage === 'arrived' || stage === 'answered') return 'reached'
  return stage === 'failed' || stage === 'stopped' ? stage : 'under way'
}

/** Marks that stand beside one another, put together. */
export interface Patch {
  from: number
  to: number // the first one after it
  counts: Record<Standing, number>
}

/** Puts marks together into so many patches at most, in their order; each has as many. */
export function patches(marks: Mark[], most: number): Patch[] {
  const each = Math.max(1, Math.ceil(marks.length / most))
  const list: Patch[] = []
  for (let from = 0; from < marks.length; from += each) {
    const to = Math.min(from + each, marks.length)
    const counts = { reached: 0, 'under way': 0, failed: 0, stopped: 0 }
    for (let i = from; i < to; i++) counts[standingOf(marks[i]!.state)]++
    list.push({ from, to, counts })
  }
  return list
}

/** What a patch is made of, in words. */
export function patchWords(p: Patch): string {
  const parts = standings.filter((s) => p.counts[s]).map((s) => `${thousands(p.counts[s])} ${s}`)
  return `recipients ${thousands(p.from + 1)} to ${thousands(p.to)}: ${parts.join(', ')}`
}
