import { effectScope, nextTick } from 'vue'
import { vi } from 'vitest'

/** A server for tests: answers by method and path, and remembers what it was asked. */
export function serve(answers: Record<string, (body: unknown) => unknown>) {
  const asked: { call: string; body: unknown; query?: string }[] = []
  vi.stubGlobal('fetch', async (input: Request) => {
    const { pathname, search } = new URL(input.url, 'http://lantern.test')
    const call = `${input.method} ${pathname}`
    const text = await input.text()
    const body = text ? JSON.parse(text) : undefined
    asked.push({ call, body, ...(search ? { query: search } : {}) })
    const answer = answers[call]
    if (!answer) return problem(404, `nothing at ${call}`)
    const out = await answer(body)
    return out instanceof Response ? out : Response.json(out)
  })
  return asked
}

export function problem(status: number, detail: string): Response {
  return new Response(JSON.stringify({ status, detail }), {
    status,
    headers: { 'Content-Type': 'application/problem+json' },
  })
}

/** Runs a composable outside a component; stop ends it. */
export function inScope<T>(make: () => T): { value: T; stop: () => void } {
  const scope = effectScope()
  return { value: scope.run(make) as T, stop: () => scope.stop() }
}

/** Lets everything that is waiting happen, and time pass. */
export async function pass(ms: number) {
  await vi.advanceTimersByTimeAsync(ms)
  await nextTick()
}
