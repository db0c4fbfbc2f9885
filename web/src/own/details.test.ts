import { mount, type VueWrapper } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { pass, serve } from '@/testkit'
import OwnDetails from './OwnDetails.vue'

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

async function show(token: string) {
  const wrapper = mount(OwnDetails, { props: { token } }) as VueWrapper
  await pass(20)
  return wrapper
}

const button = (w: VueWrapper, words: string) => {
  const found = w.findAll('button').find((b) => b.text().includes(words))
  if (!found) throw new Error(`no button ${words}`)
  return found
}

describe('the page behind a personal link', () => {
  const phrase = {
    wrong: 'This cannot be right.',
    waits: 'Will be looked at.',
    send: 'Send',
    'add email': 'Add an email',
  }
  const visit = {
    organisation: 'Club',
    name: 'Piotr',
    words: { tag: 'en', rtl: false, phrase },
    details: {
      addresses: [{ value: '07700 900418', mail: false, texts: true, calls: true, noRoutine: false }],
      language: 'pl',
      wish: '',
    },
    languages: [{ value: 'pl', words: 'polski' }],
    pushKey: 'BA',
    unconnected: [],
  }

  it('marks what is wrong at its address and keeps it', async () => {
    serve({
      'GET /api/own/abc/details': () => visit,
      'PUT /api/own/abc/details': () =>
        new Response(
          JSON.stringify({
            status: 422,
            detail: 'Nothing was saved',
            errors: [{ location: 'addresses[0]', message: 'x', value: '07700' }],
          }),
          { status: 422, headers: { 'Content-Type': 'application/problem+json' } },
        ),
    })
    const wrapper = await show('abc')
    await wrapper.get('input[type=text]').setValue('07700')
    await wrapper.get('form').trigger('submit')
    await pass(10)
    expect(wrapper.get('.wrong').text()).toContain('This cannot be right.')
    expect((wrapper.get('input[type=text]').element as HTMLInputElement).value).toBe('07700')
  })

  it('sends what was corrected and thanks', async () => {
    const asked = serve({
      'GET /api/own/abc/details': () => visit,
      'PUT /api/own/abc/details': () => ({ waits: true }),
    })
    const wrapper = await show('abc')
    await button(wrapper, 'Add an email').trigger('click')
    await wrapper.get('input[type=email]').setValue('p@example.org')
    await wrapper.get('form').trigger('submit')
    await pass(10)
    expect(asked.at(-1)?.body).toMatchObject({
      addresses: [{ value: '07700 900418' }, { value: 'p@example.org', mail: true }],
    })
    expect(wrapper.get('[role=status]').text()).toBe('Will be looked at.')
  })
})
