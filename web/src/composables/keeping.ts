import type { Draft, Schemas } from '@/api/client'

/** How far a draft is kept on the server, and what stands in the way. */
export interface Keeping {
  /** 0 before the first change. */
  id: number
  revision: number
  state: Schemas['MessageView']['state']
  /** When it was last kept, in ms. */
  keptAt?: number
  /** As it was last kept, or loaded. */
  base: Draft
  /** Something was typed that is not on its way. */
  dirty: boolean
  /** Why it could not be kept. */
  problem: string
  /** Another window kept something that does not go together with this one. */
  conflict: boolean
  /** What this window and another one both changed. */
  clash: string[]
  /** Said once what was not typed here has been taken in. */
  joined: string
  /** What the other window and this one come to, where they clash. */
  theirs?: Schemas['MergedView']
}

export type KeepingEvent =
  | { is: 'opened'; id: number; base: Draft; message?: Schemas['DraftView'] }
  | { is: 'typed' }
  | { is: 'taken up' }
  | { is: 'on its way' }
  | { is: 'made'; id: number; revision: number }
  | { is: 'kept'; revision: number; base: Draft; at: number }
  | { is: 'merged'; with: Schemas['MergedView']; at: number }
  | { is: 'failed'; problem: string; overtaken: boolean }
  | { is: 'mine kept' }

export const begin = (base: Draft): Keeping => ({
  id: 0,
  revision: 0,
  state: 'draft',
  base,
  dirty: false,
  problem: '',
  conflict: false,
  clash: [],
  joined: '',
})

/** What becomes of the keeping of a draft. */
export function next(k: Keeping, e: KeepingEvent): Keeping {
  switch (e.is) {
    case 'opened': {
      const fresh = { ...begin(e.base), id: e.id }
      if (!e.message) return fresh
      const { revision, state, updatedAt } = e.message
      return { ...fresh, revision, state, keptAt: new Date(updatedAt).getTime() }
    }
    case 'typed':
      return { ...k, dirty: true }
    case 'taken up':
      return { ...k, dirty: true, joined: 'What could not be kept earlier is here again.' }
    case 'on its way':
      return { ...k, dirty: false }
    case 'made':
      return { ...k, id: e.id, revision: e.revision }
    case 'kept':
      return { ...k, revision: e.revision, base: e.base, keptAt: e.at, problem: '' }
    case 'merged': {
      const { clash, draft, revision } = e.with
      if (clash.length) return { ...k, clash, theirs: e.with }
      const joined = 'Another window changed this draft too; what both wrote is kept.'
      return { ...k, clash, theirs: e.with, base: draft, revision, keptAt: e.at, problem: '', joined }
    }
    case 'failed':
      return { ...k, dirty: true, conflict: e.overtaken, problem: e.problem }
    case 'mine kept':
      if (!k.theirs) return k
      return { ...k, revision: k.theirs.revision, theirs: undefined, conflict: false, dirty: true }
  }
}

type Key = keyof Draft

/** What differs between two drafts, part by part; undefined is taken away. */
export function differing(from: Draft, to: Draft): Partial<Draft> {
  const keys = new Set([...Object.keys(from), ...Object.keys(to)]) as Set<Key>
  return Object.fromEntries(
    [...keys]
      .filter((key) => JSON.stringify(from[key]) !== JSON.stringify(to[key]))
      .map((key) => [key, to[key]]),
  )
}

/** Brings what differs into a draft, in place. */
export function apply(draft: Draft, changes: Partial<Draft>) {
  for (const [key, value] of Object.entries(changes))
    if (value === undefined) delete draft[key as Key]
    else Object.assign(draft, { [key]: structuredClone(value) })
}
