import { computed, onScopeDispose, reactive, shallowRef, watch, type Ref } from 'vue'
import { useEventListener } from '@vueuse/core'
import { api, ApiError, take, type Draft, type Part } from '@/api/client'
import { apply, begin, differing, next, type Keeping, type KeepingEvent } from './keeping'
import { forgetUnkept, recallUnkept, rememberUnkept } from './unkept'

export const emptyDraft = (): Draft => ({
  urgency: 'routine',
  audience: { parts: [], receivers: 'guardians' },
  subject: '',
  email: '',
  ownText: false,
  text: '',
  firstOnly: false,
})

/** One key for whatever a part names. */
export const partKey = (p: Part): string =>
  `${p.kind}:${p.group ?? p.role ?? p.unit ?? p.person ?? JSON.stringify(p.people ?? p.rule ?? p.addresses ?? '')}`

/** The part that leaves out single people, if there is one. */
export const singled = (parts: Part[]) => parts.find((p) => p.kind === 'people' && p.leaveOut)

/** Leaves one person out of an audience, or takes that back. */
export function leaveOut(parts: Part[], person: number) {
  const part = singled(parts)
  if (!part) {
    parts.push({ kind: 'people', people: [person], leaveOut: true })
    return
  }
  const others = (part.people ?? []).filter((id) => id !== person)
  const back = others.length < (part.people ?? []).length
  part.people = back ? others : [...others, person]
  if (!part.people.length) parts.splice(parts.indexOf(part), 1)
}

const quietTime = 500
const retryTime = 4000

/**
 * A draft that keeps itself. It is made on the server with the first change;
 * made tells its number. Nothing typed is thrown away when keeping fails: it
 * stays on the page and is tried again.
 */
export function useDraft(made: (id: number) => void) {
  const draft = reactive<Draft>(emptyDraft())
  const keeping = shallowRef(begin(emptyDraft()))
  const tell = (event: KeepingEvent) => (keeping.value = next(keeping.value, event))
  const names = reactive(new Map<string, string>())
  let timer: ReturnType<typeof setTimeout> | undefined
  let running: Promise<void> | undefined
  let leaving = false // the page is going; requests must outlive it
  let quiet = false // while the page itself fills the draft

  /** Changes the draft without taking it for typing. */
  function fill(changes: Partial<Draft>) {
    quiet = true
    apply(draft, changes)
    queueMicrotask(() => (quiet = false))
  }

  function name(parts: Part[], labels: string[]) {
    parts.forEach((p, i) => names.set(partKey(p), labels[i] ?? ''))
  }

  async function load(id: number) {
    await flush()
    const message = id ? await take(api.GET('/messages/{id}', { params: { path: { id } } })) : undefined
    const base = message?.draft ?? emptyDraft()
    names.clear()
    name(base.audience.parts, message?.labels ?? [])
    fill(differing(copy(), base))
    tell({ is: 'opened', id, base: structuredClone(base), ...(message ? { message } : {}) })
    takeUp(id)
  }

  /** Takes up what this browser could not keep earlier. */
  function takeUp(id: number) {
    const { base, revision } = keeping.value
    const unkept = recallUnkept(id, revision)
    if (!unkept) return forgetUnkept(id)
    fill(differing(base, unkept))
    tell({ is: 'taken up' })
    later(quietTime)
  }

  const copy = (): Draft => JSON.parse(JSON.stringify(draft)) as Draft

  /** Joins what was typed here with what another window kept; tells whether it could. */
  async function join(sent: Draft): Promise<boolean> {
    const { id, base } = keeping.value
    const answer = await take(
      api.POST('/messages/{id}/merge', { params: { path: { id } }, body: { base, draft: sent } }),
    )
    name(answer.draft.audience.parts, answer.labels)
    tell({ is: 'merged', with: answer, at: Date.now() })
    if (answer.clash.length) return false
    fill(differing(sent, answer.draft))
    return true
  }

  /** Keeps what was typed here where both changed the same. */
  async function keepMine() {
    const { base, theirs } = keeping.value
    if (!theirs) return
    fill(differing(base, { ...theirs.draft, ...differing(base, copy()) }))
    tell({ is: 'mine kept' })
    await flush()
  }

  async function send(sent: Draft) {
    if (!keeping.value.id) {
      const { id, revision } = await take(api.POST('/messages', { body: {}, keepalive: leaving }))
      forgetUnkept(0)
      tell({ is: 'made', id, revision })
      made(id)
    }
    const { id, revision } = keeping.value
    const answer = await take(
      api.PUT('/messages/{id}', {
        params: { path: { id } },
        body: { revision, draft: sent },
        keepalive: leaving,
      }),
    )
    tell({ is: 'kept', revision: answer.revision, base: sent, at: Date.now() })
    forgetUnkept(id)
  }

  async function keepOnce() {
    tell({ is: 'on its way' })
    const sent = copy()
    try {
      await send(sent)
    } catch (error) {
      const overtaken = error instanceof ApiError && error.status === 409
      if (overtaken && (await join(sent).catch(() => false))) return
      tell({ is: 'failed', problem: (error as Error).message, overtaken })
      if (overtaken) return
      rememberUnkept(keeping.value.id, { revision: keeping.value.revision, draft: copy() })
      later(retryTime)
    }
  }

  function later(wait: number) {
    clearTimeout(timer)
    timer = setTimeout(() => void flush(), wait)
  }

  /** Keeps what is not kept yet, one at a time. */
  async function flush(): Promise<void> {
    clearTimeout(timer)
    if (running) await running
    if (!keeping.value.dirty || keeping.value.conflict) return
    running = keepOnce()
    await running
    running = undefined
  }

  watch(
    draft,
    () => {
      if (quiet) return
      tell({ is: 'typed' })
      if (!keeping.value.conflict) later(quietTime)
    },
    { flush: 'sync' },
  )

  useEventListener(window, 'beforeunload', (event: BeforeUnloadEvent) => {
    leaving = true
    void flush().finally(() => (leaving = false))
    if (keeping.value.problem) event.preventDefault() // what cannot be kept would be lost
  })
  onScopeDispose(() => void flush())

  const of = <K extends keyof Keeping>(key: K) => computed(() => keeping.value[key])
  return {
    draft,
    names,
    id: of('id'),
    revision: of('revision'),
    state: of('state'),
    keptAt: of('keptAt'),
    problem: of('problem'),
    conflict: of('conflict'),
    clash: of('clash'),
    joined: of('joined'),
    dirty: of('dirty'),
    load,
    flush,
    keepMine,
  }
}

/** “Draft kept 12 s ago”, as it ages. */
export function keptWords(keptAt: Ref<number | undefined>, now: Ref<number>, dirty: Ref<boolean>) {
  return computed(() => {
    if (dirty.value) return 'Keeping the draft…'
    if (!keptAt.value) return 'Nothing to keep yet'
    const seconds = Math.max(0, Math.round((now.value - keptAt.value) / 1000))
    if (seconds < 5) return 'Draft kept just now'
    if (seconds < 60) return `Draft kept ${seconds} s ago`
    if (seconds < 3600) return `Draft kept ${Math.round(seconds / 60)} min ago`
    return 'Draft kept'
  })
}
