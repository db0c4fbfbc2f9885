import { reactive } from 'vue'
import type { Schemas } from '@/api/client'

const prefix = 'lantern.answer.'

type Kept = Schemas['File']

/** What is being written in threads, kept while the page is open, also when it is loaded again. */
const typed = reactive(new Map<number, string>())
/** The files that are to go with it, kept while the page is open. */
const added = reactive(new Map<number, Kept[]>())

export function saidIn(thread: number): string {
  return typed.get(thread) ?? sessionStorage.getItem(prefix + thread) ?? ''
}

export function sayIn(thread: number, text: string) {
  typed.set(thread, text)
  try {
    if (text) sessionStorage.setItem(prefix + thread, text)
    else sessionStorage.removeItem(prefix + thread)
  } catch {
    // The browser keeps nothing: the page itself still has it.
  }
}

export const filesIn = (thread: number): Kept[] => added.get(thread) ?? []

export function putFiles(thread: number, files: Kept[]) {
  added.set(thread, files)
}
