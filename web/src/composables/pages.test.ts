import { QueryClient, VUE_QUERY_CLIENT } from '@tanstack/vue-query'
import { createApp, ref } from 'vue'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { Schemas } from '@/api/client'
import { pass, serve } from '@/testkit'
import { rowHeight, usePeoplePages } from './pages'

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const all = 5000

function start() {
  const asked: number[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const first = Number(new URL(request.url).searchParams.get('first'))
    asked.push(first)
    const query = JSON.parse(await request.text()) as Schemas['Query']
    const matching = query.search ? 3 : all
    return Response.json({
      people: Array.from({ length: Math.min(100, matching - first) }, (_, i) => ({ id: first + i + 1 })),
      matching,
      all,
      filters: [],
    })
  })
  const query = ref<Schemas['Query']>({})
  const app = createApp({})
  app.provide(VUE_QUERY_CLIENT, new QueryClient())
  const pages = app.runWithContext(() => usePeoplePages(query))
  return { asked, query, pages }
}

it('asks only for the pages around what is on screen', async () => {
  serve({})
  const { asked, pages } = start()
  await pass(10)
  expect(asked).toEqual([0])
  expect(pages.head.value?.matching).toBe(all)
  pages.top.value = rowHeight * 3000
  pages.height.value = rowHeight * 20
  await pass(10)
  expect(asked).toEqual([0, 2900, 3000])
  expect(pages.onScreen.value).toHaveLength(20)
  expect(pages.onScreen.value[0]).toBe(3001)
  expect(pages.rows.value.length).toBeLessThan(40)
})

it('a new question begins at the top', async () => {
  const { query, pages } = start()
  await pass(10)
  pages.top.value = rowHeight * 3000
  await pass(10)
  query.value = { search: 'Haddad' }
  await pass(10)
  expect(pages.top.value).toBe(0)
  expect(pages.rows.value.map((r) => r.person?.id)).toEqual([1, 2, 3])
})
