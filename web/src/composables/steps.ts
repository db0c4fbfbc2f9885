import type { Channel } from '@/api/client'

export const channels: Channel[] = ['email', 'text', 'voice', 'push']

/** A rung of the ladder as it is edited: a step, a place for one more, or off. */
export interface Rung {
  channels: Channel[]
  off?: boolean
  fresh?: boolean
}

/** The rungs of some steps: each step, one more if there can be, and off. */
export function rungs(steps: Channel[][]): Rung[] {
  const off = channels.filter((c) => !steps.some((s) => s.includes(c)))
  return [
    ...steps.map((s) => ({ channels: s })),
    ...(steps.length < channels.length ? [{ channels: [], fresh: true }] : []),
    { channels: off, off: true },
  ]
}

/** The steps after a channel was put on a rung; steps left empty close up. */
export function move(steps: Channel[][], channel: Channel, rung: number): Channel[][] {
  const to = rungs(steps)[rung]
  const next = steps.map((s, i) => (i === rung ? s : s.filter((c) => c !== channel)))
  if (to?.fresh) next.push([channel])
  else if (to && !to.off && !next[rung]!.includes(channel)) next[rung] = [...next[rung]!, channel]
  return next.filter((s) => s.length).map((s) => channels.filter((c) => s.includes(c)))
}
