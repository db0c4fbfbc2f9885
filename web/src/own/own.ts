import { computed, onScopeDispose, ref, shallowRef, type Ref } from 'vue'
import { api, ApiError, asFile, take, type Schemas } from '@/api/client'

export type Own = Schemas['OwnView']
export type OwnItem = Schemas['OwnItem']

/** Says a phrase of the page in the language of whoever it is for. */
export type Say = (key: string, values?: Record<string, string>) => string

export const sayer =
  (words: () => Schemas['Words'] | undefined): Say =>
  (key, values = {}) =>
    Object.entries(values).reduce((text, [k, v]) => text.replaceAll(`{${k}}`, v), words()?.phrase[key] ?? '')

/** The page behind a token: what it shows, and what comes of asking again. */
export function useOwn(token: Ref<string>, every: number) {
  const page = shallowRef<Own>()
  const gone = ref(false)
  const offline = ref(false)
  async function load() {
    if (!token.value) return
    try {
      const answer = await api.GET('/own/{token}', { params: { path: { token: token.value } } })
      gone.value = answer.response.status === 404
      offline.value = answer.response.headers.has('x-kept')
      if (answer.data) page.value = answer.data
    } catch {
      offline.value = true
    }
  }
  void load()
  const timer = setInterval(() => document.hidden || void load(), every)
  window.addEventListener('online', load)
  document.addEventListener('visibilitychange', load)
  onScopeDispose(() => {
    clearInterval(timer)
    window.removeEventListener('online', load)
    document.removeEventListener('visibilitychange', load)
  })
  const say = sayer(() => page.value?.words)
  const date = (at: string) =>
    new Intl.DateTimeFormat(page.value?.words.tag.replace(/^en$/, 'en-GB'), {
      weekday: 'short',
      day: 'numeric',
      month: 'short',
      hour: '2-digit',
      minute: '2-digit',
      ...(page.value ? { timeZone: page.value.zone } : {}),
    }).format(new Date(at))
  return { page, gone, offline, load, say, date }
}

/** Something that was written here and has not arrived. */
export interface Waiting {
  key: string
  item: number
  text: string
}

const placeOf = (token: string) => `own ${token}`

/** Takes what waits along to the page under another token. */
export function takeAlong(from: string, to: string): void {
  const waiting = localStorage.getItem(placeOf(from))
  if (waiting) localStorage.setItem(placeOf(to), waiting)
  localStorage.removeItem(placeOf(from))
}

/**
 * What was written waits on the device until the office has it: the key makes sure that
 * what is sent twice counts once.
 */
export function useOutbox(token: string, arrived: () => Promise<void>) {
  const place = placeOf(token)
  const waiting = ref<Waiting[]>(JSON.parse(localStorage.getItem(place) ?? '[]') as Waiting[])
  const trouble = ref<'' | 'own much' | 'own kind' | 'question failed'>('')
  const busy = ref(false)
  function keep(list: Waiting[]) {
    waiting.value = list
    localStorage.setItem(place, JSON.stringify(list))
  }
  async function flush() {
    if (busy.value || !waiting.value.length) return
    busy.value = true
    trouble.value = ''
    try {
      for (const w of [...waiting.value]) {
        await take(api.POST('/own/{token}/words', { params: { path: { token } }, body: w }))
        keep(waiting.value.filter((o) => o.key !== w.key))
        await arrived()
      }
    } catch (problem) {
      const status = problem instanceof ApiError ? problem.status : 0
      if (status) trouble.value = status === 429 ? 'own much' : 'question failed'
    } finally {
      busy.value = false
    }
  }
  function send(item: number, text: string) {
    keep([...waiting.value, { key: crypto.randomUUID(), item, text }])
    return flush()
  }
  /** The name of a file on its way: a file needs a network, and waits nowhere. */
  const sending = ref('')
  async function sendFile(item: number, file: File) {
    sending.value = file.name
    trouble.value = ''
    try {
      const query = { key: crypto.randomUUID(), item, name: file.name }
      await take(api.POST('/own/{token}/files', { params: { path: { token }, query }, ...asFile(file) }))
      await arrived()
    } catch (problem) {
      const status = problem instanceof ApiError ? problem.status : 0
      trouble.value =
        status === 429 ? 'own much' : [413, 422].includes(status) ? 'own kind' : 'question failed'
    } finally {
      sending.value = ''
    }
  }
  void flush()
  const timer = setInterval(flush, 30_000)
  window.addEventListener('online', flush)
  onScopeDispose(() => {
    clearInterval(timer)
    window.removeEventListener('online', flush)
  })
  return { waiting: computed(() => waiting.value), trouble, send, sendFile, sending }
}

/** Lets the page open on this device without a network, and from a notice. */
export async function keepHere(path: string): Promise<void> {
  if (!('serviceWorker' in navigator)) return
  await navigator.serviceWorker.register('/push.js')
  const { active } = await navigator.serviceWorker.ready
  const files = performance
    .getEntriesByType('resource')
    .map((entry) => new URL(entry.name))
    .filter((url) => url.origin === location.origin && url.pathname.startsWith('/assets/'))
    .map((url) => url.pathname)
  active?.postMessage({ keep: [path, `/api${path}`, ...new Set(files)], own: path })
}

/** Forgets the page on this device. */
export async function forgetHere(): Promise<void> {
  const registration = await navigator.serviceWorker?.getRegistration()
  registration?.active?.postMessage({ forget: true })
}

/** A text in pieces: its links can be followed. */
export function pieces(text: string): { text: string; link: boolean }[] {
  return text
    .split(/(https?:\/\/[^\s<>"]+[^\s<>".,;:!?)\]}])/)
    .filter(Boolean)
    .map((piece) => ({ text: piece, link: /^https?:\/\//.test(piece) }))
}
