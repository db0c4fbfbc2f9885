import type { Channel, DeliveryState, Schemas } from '@/api/client'

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
