import { computed, onScopeDispose, reactive, ref, watch, type Ref } from 'vue'
import { useEventListener } from '@vueuse/core'
import { api, ApiError, take, type Draft, type Part, type Schemas } from '@/api/client'
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
  const id = ref(0)
  const revision = ref(0)
  const state = ref('draft')
  const keptAt = ref<number>()
  const problem = ref('')
  const conflict = ref(false)
  /** What this window and another one both changed. */
  const clash = ref<string[]>([])
  /** Said once what another window changed has been taken in. */
  const joined = ref('')
  const names = reactive(new Map<string, string>())
  const dirty = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  let keeping: Promise<void> | undefined
  let leaving = false // the page is going; requests must outlive it
  let base = emptyDraft() // as it was last kept, or loaded
  let theirs: Schemas['MergedView'] | undefined
  let quiet = false // while the page itself fills the draft

  function fill(from: Draft) {
    quiet = true
    for (const key of Object.keys(draft))
      if (!(key in emptyDraft())) delete (draft as Record<string, unknown>)[key]
    Object.assign(draft, structuredClone(from))
    base = structuredClone(from)
    dirty.value = false
    queueMicrotask(() => (quiet = false))
  }

  async function load(number: number) {
    await flush()
    problem.value = ''
    joined.value = ''
    conflict.value = false
    const answer = number
      ? await take(api.GET('/messages/{id}', { params: { path: { id: number } } }))
      : undefined
    id.value = number
    revision.value = answer?.revision ?? 0
    state.value = answer?.state ?? 'draft'
    keptAt.value = answer ? new Date(answer.updatedAt).getTime() : undefined
    names.clear()
    answer?.draft.audience.parts.forEach((p, i) => names.set(partKey(p), answer.labels[i] ?? ''))
    fill(answer?.draft ?? emptyDraft())
    takeUp(number)
  }

  /** Takes up what this browser could not keep earlier. */
  function takeUp(number: number) {
    const unkept = recallUnkept(number, revision.value)
    if (!unkept) return forgetUnkept(number)
    quiet = true
    takeOver(base, unkept)
    queueMicrotask(() => (quiet = false))
    joined.value = 'What could not be kept earlier is here again.'
    dirty.value = true
    later(quietTime)
  }

  const copy = (): Draft => JSON.parse(JSON.stringify(draft)) as Draft

  /** Takes over what differs between two drafts, and leaves what was typed since. */
  function takeOver(from: Draft, to: Draft) {
    const keys = new Set([...Object.keys(from), ...Object.keys(to)]) as Set<keyof Draft>
    for (const key of keys) {
      if (JSON.stringify(from[key]) === JSON.stringify(to[key])) continue
      if (to[key] === undefined) delete draft[key]
      else Object.assign(draft, { [key]: structuredClone(to[key]) })
    }
  }

  /** Joins what was typed here with what another window kept; tells whether it could. */
  async function join(sent: Draft): Promise<boolean> {
    const answer = await take(
      api.POST('/messages/{id}/merge', { params: { path: { id: id.value } }, body: { base, draft: sent } }),
    )
    answer.draft.audience.parts.forEach((p, i) => names.set(partKey(p), answer.labels[i] ?? ''))
    clash.value = answer.clash
    theirs = answer
    if (answer.clash.length) return false
    quiet = true
    takeOver(sent, answer.draft)
    queueMicrotask(() => (quiet = false))
    base = answer.draft
    revision.value = answer.revision
    joined.value = 'Another window changed this draft too; what both wrote is kept.'
    return true
  }

  /** Keeps what was typed here where both changed the same. */
  async function keepMine() {
    if (!theirs) return
    revision.value = theirs.revision
    takeOver(base, { ...theirs.draft, ...changedHere() })
    theirs = undefined
    conflict.value = false
    dirty.value = true
    await flush()
  }

  const changedHere = (): Partial<Draft> =>
    Object.fromEntries(
      Object.entries(copy()).filter(
        ([key, value]) => JSON.stringify(value) !== JSON.stringify(base[key as keyof Draft]),
      ),
    )

  async function keepOnce() {
    dirty.value = false
    const sent = copy()
    try {
      if (!id.value) {
        const answer = await take(api.POST('/messages', { body: {}, keepalive: leaving }))
        forgetUnkept(0)
        id.value = answer.id
        revision.value = answer.revision
        made(answer.id)
      }
      const answer = await take(
        api.PUT('/messages/{id}', {
          params: { path: { id: id.value } },
          body: { revision: revision.value, draft: sent },
          keepalive: leaving,
        }),
      )
      revision.value = answer.revision
      base = sent
      keptAt.value = Date.now()
      problem.value = ''
      forgetUnkept(id.value)
    } catch (error) {
      const overtaken = error instanceof ApiError && error.status === 409
      if (overtaken && (await join(sent).catch(() => false))) {
        keptAt.value = Date.now()
        problem.value = ''
        return
      }
      dirty.value = true
      conflict.value = overtaken
      problem.value = (error as Error).message
      if (conflict.value) return
      rememberUnkept(id.value, { revision: revision.value, draft: copy() })
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
    if (keeping) await keeping
    if (!dirty.value || conflict.value) return
    keeping = keepOnce()
    await keeping
    keeping = undefined
  }

  watch(
    draft,
    () => {
      if (quiet) return
      dirty.value = true
      if (!conflict.value) later(quietTime)
    },
    { flush: 'sync' },
  )

  useEventListener(window, 'beforeunload', (event: BeforeUnloadEvent) => {
    leaving = true
    void flush().finally(() => (leaving = false))
    if (problem.value) event.preventDefault() // what cannot be kept would be lost
  })
  onScopeDispose(() => void flush())

  return {
    draft,
    id,
    revision,
    state,
    keptAt,
    problem,
    conflict,
    clash,
    joined,
    names,
    dirty,
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
