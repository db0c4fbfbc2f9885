import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { pass, problem, serve } from '@/testkit'
import Own from './Own.vue'
import { pieces, takeAlong } from './own'

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
  localStorage.clear()
})

const phrase = {
  hello: 'Hello {name}',
  expired: 'This link no longer works.',
  'own messages': 'Messages',
  'own details': 'My details',
  'own none': 'Nothing yet',
  'own new': 'new',
  'own send': 'Send',
  'own back': 'Write back',
  'own write': 'Write to {organisation}',
  'own outbox': 'Waits on this device',
  'own know': 'I have read this',
  'own known': 'You confirmed it',
  'own much': 'That was much',
  'question failed': 'Please try again',
  'question minutes': 'In how many minutes?',
  'question send': 'Yes, send it',
  'question yours': 'Your answer',
}
const item = {
  id: 7,
  subject: 'Low water',
  text: 'Bring the short oars, see https://quillmere.example/rota.',
  language: 'en',
  rtl: false,
  channel: 'email',
  at: '2026-11-26T08:00:00Z',
  desk: false,
  new: true,
  foremost: false,
  waits: false,
  emergency: false,
  confirms: false,
  confirmed: false,
  choices: [],
  answer: 0,
  minutes: 0,
  files: [],
  wrote: [],
}
const page = {
  organisation: 'Club',
  name: 'Piotr',
  words: { tag: 'en', rtl: false, phrase },
  zone: 'Europe/London',
  kept: '',
  at: '2026-11-26T09:00:00Z',
  items: [item],
  others: [],
}

async function show() {
  const wrapper = mount(Own, { props: { token: 'abc' } })
  await pass(20)
  return wrapper
}

describe('the page of somebody', () => {
  it('notes once that a message was opened, and lets links be followed', async () => {
    const asked = serve({
      'GET /api/own/abc': () => page,
      'POST /api/own/abc/items/7/opened': () => new Response(null, { status: 204 }),
    })
    const wrapper = await show()
    expect(wrapper.find('.open').exists()).toBe(false)
    await wrapper.get('article .line').trigger('click')
    await pass(10)
    expect(wrapper.get('article a').attributes('href')).toBe('https://quillmere.example/rota')
    expect(asked.filter((a) => a.call.endsWith('/opened'))).toHaveLength(1)
  })

  it('asks after how many minutes before it sends such an answer', async () => {
    const choices = [{ number: 2, words: 'Later', minutes: true }]
    const asked = serve({
      'GET /api/own/abc': () => ({ ...page, items: [{ ...item, new: false, choices }] }),
      'POST /api/own/abc/items/7/answer': () => new Response(null, { status: 204 }),
    })
    const wrapper = await show()
    await wrapper.get('article .line').trigger('click')
    await wrapper.get('.answers button').trigger('click')
    expect(asked.some((a) => a.call.endsWith('/answer'))).toBe(false)
    await wrapper.get('.minutes input').setValue(20)
    await wrapper.get('.minutes').trigger('submit')
    await pass(10)
    expect(asked.find((a) => a.call.endsWith('/answer'))?.body).toEqual({ number: 2, minutes: 20 })
  })

  it('keeps what is written until it has arrived, and sends it under the same key', async () => {
    let there = false
    const asked = serve({
      'GET /api/own/abc': () => page,
      'POST /api/own/abc/words': () => {
        if (!there) throw new TypeError('no network')
        return new Response(null, { status: 204 })
      },
    })
    const wrapper = await show()
    await wrapper.get('form textarea').setValue('We are late')
    await wrapper.get('form').trigger('submit')
    await pass(10)
    expect(wrapper.text()).toContain('Waits on this device')
    expect(wrapper.text()).toContain('We are late')
    there = true
    await pass(30_000)
    expect(wrapper.text()).not.toContain('Waits on this device')
    const keys = asked.filter((a) => a.call.endsWith('/words')).map((a) => (a.body as { key: string }).key)
    expect(keys.length).toBeGreaterThan(1)
    expect(new Set(keys).size).toBe(1)
  })

  it('says why something was not taken, and keeps it', async () => {
    serve({ 'GET /api/own/abc': () => page, 'POST /api/own/abc/words': () => problem(429, 'much') })
    const wrapper = await show()
    await wrapper.get('form textarea').setValue('Again')
    await wrapper.get('form').trigger('submit')
    await pass(10)
    expect(wrapper.get('[role=alert]').text()).toBe('That was much')
    expect(wrapper.text()).toContain('Again')
  })

  it('says when the link has ended', async () => {
    serve({ 'GET /api/own/abc': () => problem(404, 'This link no longer works.') })
    expect((await show()).get('h1').text()).toBe('This link no longer works')
  })
})

it('takes what waits along to a page that is kept', () => {
  localStorage.setItem('own abc', '[1]')
  takeAlong('abc', 'def')
  expect(localStorage.getItem('own def')).toBe('[1]')
  expect(localStorage.getItem('own abc')).toBeNull()
})

it.each([
  ['no link', [{ text: 'no link', link: false }]],
  [
    'see https://a.example/x.',
    [
      { text: 'see ', link: false },
      { text: 'https://a.example/x', link: true },
      { text: '.', link: false },
    ],
  ],
  ['', []],
])('finds the links of %s', (text, parts) => expect(pieces(text)).toEqual(parts))
