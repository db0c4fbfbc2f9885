import { computed, onScopeDispose, reactive, ref, watch, type Ref } from 'vue'
import { useEventListener } from '@vueuse/core'
import { api, ApiError, take, type Draft, type Part } from '@/api/client'

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
  const names = reactive(new Map<string, string>())
  const dirty = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  let keeping: Promise<void> | undefined
  let leaving = false // the page is going; requests must outlive it
  let quiet = false // while the page itself fills the draft

  function fill(from: Draft) {
    quiet = true
    for (const key of Object.keys(draft))
      if (!(key in emptyDraft())) delete (draft as Record<string, unknown>)[key]
    Object.assign(draft, structuredClone(from))
    dirty.value = false
    queueMicrotask(() => (quiet = false))
  }

  async function load(number: number) {
    await flush()
    problem.value = ''
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
  }

  async function keepOnce() {
    dirty.value = false
    try {
      if (!id.value) {
        const answer = await take(api.POST('/messages', { body: {}, keepalive: leaving }))
        id.value = answer.id
        revision.value = answer.revision
        made(answer.id)
      }
      const answer = await take(
        api.PUT('/messages/{id}', {
          params: { path: { id: id.value } },
          body: { revision: revision.value, draft },
          keepalive: leaving,
        }),
      )
      revision.value = answer.revision
      keptAt.value = Date.now()
      problem.value = ''
    } catch (error) {
      dirty.value = true
      conflict.value = error instanceof ApiError && error.status === 409
      problem.value = (error as Error).message
      if (!conflict.value) later(retryTime)
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

  return { draft, id, revision, state, keptAt, problem, conflict, names, dirty, load, flush }
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
