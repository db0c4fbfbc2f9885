import type { Draft } from '@/api/client'

/**
 * What could not be kept on the server stays in this browser until it can be,
 * also when the page is closed. It is forgotten when somebody signs out.
 */
interface Unkept {
  revision: number
  draft: Draft
}

const prefix = 'lantern.unkept.'

export function rememberUnkept(id: number, unkept: Unkept) {
  try {
    localStorage.setItem(prefix + id, JSON.stringify(unkept))
  } catch {
    // The browser keeps nothing, or no more: the page itself still has it.
  }
}

/** What was not kept of a draft, if the draft is still as it was then. */
export function recallUnkept(id: number, revision: number): Draft | undefined {
  const text = localStorage.getItem(prefix + id)
  if (!text) return undefined
  const unkept = JSON.parse(text) as Unkept
  return unkept.revision === revision ? unkept.draft : undefined
}

export function forgetUnkept(id: number) {
  localStorage.removeItem(prefix + id)
}

export function forgetAllUnkept() {
  for (const key of Object.keys(localStorage)) if (key.startsWith(prefix)) localStorage.removeItem(key)
}
