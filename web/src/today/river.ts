import type { Schemas } from '@/api/client'

/** A mark on the river of a day: where it stands, and in which lane its words have room. */
export interface Mark {
  message: Schemas['TodayMessage']
  at: number // of the width, 0 to 1
  lane: number
  before: boolean // its words stand before the mark
}

const letter = 0.0053 // of the width
const gap = 0.02

/** Puts the messages of a day into lanes, so that no words lie over others. */
export function lanesOf(messages: Schemas['TodayMessage'][], from: number, to: number, most = 4): Mark[] {
  const taken: number[] = []
  return messages.map((message) => {
    const at = Math.min(1, Math.max(0, (new Date(message.at).getTime() - from) / (to - from)))
    const length = (message.title.length + 8) * letter + gap
    const before = at + length > 1
    const begins = before ? at - length : at
    const ends = before ? at + gap : at + length
    let lane = taken.findIndex((end) => (end ?? 0) <= begins)
    if (lane < 0) lane = Math.min(taken.length, most - 1)
    taken[lane] = Math.max(taken[lane] ?? 0, ends)
    return { message, at, lane, before }
  })
}

/** The part of a day that is drawn: from six to ten, and further if something lies beyond. */
export function spanOf(day: Schemas['TodayView']): { from: number; to: number } {
  const hour = 3_600_000
  const begins = new Date(day.from).getTime()
  const ends = new Date(day.to).getTime()
  const times = [day.now, ...day.day.map((m) => m.at)].map((at) => new Date(at).getTime())
  const early = Math.min(begins + 6 * hour, ...times.map((t) => t - hour / 2))
  const late = Math.max(begins + 22 * hour, ...times.map((t) => t + hour / 2))
  const floor = begins + Math.floor((early - begins) / hour) * hour
  const ceiling = begins + Math.ceil((late - begins) / hour) * hour
  return { from: Math.max(begins, floor), to: Math.min(ends, ceiling) }
}
