import { afterEach, expect, it, vi } from 'vitest'
import { problem, serve } from '@/testkit'
import { api, ApiError, take } from './client'

afterEach(() => vi.unstubAllGlobals())

const failed = async () => {
  try {
    await take(api.GET('/groups'))
  } catch (error) {
    return error as ApiError
  }
  throw new Error('it should have failed')
}

it('returns what was answered', async () => {
  serve({ 'GET /api/groups': () => [] })
  expect(await take(api.GET('/groups'))).toEqual([])
})

it('says a problem in the words of the server', async () => {
  serve({ 'GET /api/groups': () => problem(409, 'This was changed in another window.') })
  const error = await failed()
  expect(error.status).toBe(409)
  expect(error.message).toBe('This was changed in another window.')
})

it('names the fields that are wrong', async () => {
  serve({
    'GET /api/groups': () =>
      new Response(
        JSON.stringify({
          status: 422,
          detail: 'validation failed',
          errors: [{ location: 'body.login', message: 'too long' }],
        }),
        { status: 422, headers: { 'Content-Type': 'application/problem+json' } },
      ),
  })
  expect((await failed()).message).toBe('login: too long')
})

it('says so when nobody answers', async () => {
  vi.stubGlobal('fetch', () => Promise.reject(new TypeError('no network')))
  const error = await failed()
  expect(error.status).toBe(0)
  expect(error.message).toContain('still here')
})
