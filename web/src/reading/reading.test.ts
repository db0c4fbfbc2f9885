import { mount, type VueWrapper } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/api/client'
import { pass, problem, serve } from '@/testkit'
import Reading from './Reading.vue'
import { batches } from './saying'

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const phrase = {
  hello: 'Hello {name}',
  'reading right': 'It is right',
  'reading change': 'Correct it',
  'reading keep': 'Keep my words',
  'reading all right': 'All others are right',
  'reading count': '{read} of {all} lines',
  'reading done': 'I am done',
  'reading thanks': 'Thank you. {organisation} has it.',
  'reading more': 'Look again',
  'reading sent': 'It was sent.',
  'reading gone': 'It has changed.',
  'reading failed': 'It was not kept.',
}
const line = (key: string, over: Partial<Schemas['ReadingLineView']> = {}): Schemas['ReadingLineView'] => ({
  key,
  original: 'Hello {1}',
  places: [{ kind: 'field', name: 'first name' }],
  target: 'Witaj {1}',
  said: '',
  own: false,
  ...over,
})
const visit = (over: Partial<Schemas['ReadingVisitView']> = {}): Schemas['ReadingVisitView'] => ({
  organisation: 'Club',
  name: 'Piotr',
  words: { tag: 'en', rtl: false, phrase },
  from: 'en',
  fromName: 'English',
  language: 'pl',
  languageName: 'Polish',
  rtl: false,
  until: '1 December 2026',
  over: false,
  done: false,
  remark: '',
  gone: [],
  lines: [line('a'), line('b'), line('c', { target: '' })],
  ...over,
})

async function show(token: string) {
  const wrapper = mount(Reading, { props: { token }, attachTo: document.body }) as VueWrapper
  await pass(20)
  return wrapper
}
const press = async (w: VueWrapper, words: string, at = 0) => {
  const found = w.findAll('button').filter((b) => b.text() === words)[at]
  if (!found) throw new Error(`no button ${words}`)
  await found.trigger('click')
  await pass(10)
}

describe('the page of a reading', () => {
  it('says what is right and what is right instead', async () => {
    const asked = serve({
      'GET /api/reading/abc': () => visit(),
      'PUT /api/reading/abc': () =>
        visit({ lines: [line('a', { said: 'Witaj {1}' }), line('b'), line('c')] }),
    })
    const wrapper = await show('abc')
    expect(wrapper.text()).toContain('0 of 3 lines')
    await press(wrapper, 'It is right')
    expect(asked.at(-1)?.body).toEqual({
      lines: [{ key: 'a', seen: 'Witaj {1}', text: 'Witaj {1}' }],
      remark: '',
      done: false,
    })
    expect(wrapper.text()).toContain('1 of 3 lines')
    await press(wrapper, 'Correct it', 1)
    const box = wrapper.get<HTMLTextAreaElement>('li textarea')
    expect(box.element.value).toBe('Witaj {1}')
    await box.setValue('Hej')
    box.element.setSelectionRange(3, 3)
    await press(wrapper, '{1} first name')
    await press(wrapper, 'Keep my words')
    expect(asked.at(-1)?.body).toMatchObject({ lines: [{ key: 'b', seen: 'Witaj {1}', text: 'Hej{1}' }] })
  })

  it('finds all other lines right, but none that is missing or being typed', async () => {
    const asked = serve({
      'GET /api/reading/abc': () =>
        visit({ lines: [line('a'), line('b'), line('c', { target: '' }), line('d')] }),
      'PUT /api/reading/abc': () => visit(),
    })
    const wrapper = await show('abc')
    await press(wrapper, 'Correct it', 0)
    await press(wrapper, 'All others are right')
    expect((asked.at(-1)?.body as { lines: { key: string }[] }).lines.map((l) => l.key)).toEqual(['b', 'd'])
    expect(wrapper.find('li textarea').exists()).toBe(true)
  })

  it('keeps what is still being typed when it is done, thanks, and opens again', async () => {
    const asked = serve({
      'GET /api/reading/abc': () => visit(),
      'PUT /api/reading/abc': () => visit({ done: true }),
    })
    const wrapper = await show('abc')
    await press(wrapper, 'Correct it', 2)
    await wrapper.get('li textarea').setValue('Pa')
    await wrapper.get('label textarea').setValue('Dobrze.')
    await wrapper.get('form').trigger('submit')
    await pass(10)
    expect(asked.at(-1)?.body).toEqual({
      lines: [{ key: 'c', seen: '', text: 'Pa' }],
      remark: 'Dobrze.',
      done: true,
    })
    expect(wrapper.get('[role=status]').text()).toBe('Thank you. Club has it.')
    await press(wrapper, 'Look again')
    expect(wrapper.findAll('li')).toHaveLength(3)
  })

  it('keeps what was typed when it cannot be kept', async () => {
    serve({
      'GET /api/reading/abc': () => visit(),
      'PUT /api/reading/abc': () => problem(503, 'Too much comes in.'),
    })
    const wrapper = await show('abc')
    await press(wrapper, 'Correct it', 0)
    await wrapper.get('li textarea').setValue('Hej')
    await press(wrapper, 'Keep my words')
    expect(wrapper.get('[role=alert]').text()).toBe('It was not kept.')
    expect(wrapper.get<HTMLTextAreaElement>('li textarea').element.value).toBe('Hej')
  })

  it('says when the message changed, was sent meanwhile, or the link ended', async () => {
    let now = visit()
    serve({
      'GET /api/reading/abc': () => now,
      'PUT /api/reading/abc': () => (now.over ? problem(409, 'Sent.') : visit({ gone: ['a'] })),
    })
    const wrapper = await show('abc')
    await press(wrapper, 'It is right')
    expect(wrapper.get('[role=status]').text()).toBe('It has changed.')
    now = visit({ over: true })
    await press(wrapper, 'It is right')
    expect(wrapper.get('[role=status]').text()).toBe('It was sent.')
    serve({ 'GET /api/reading/old': () => problem(404, 'gone') })
    expect((await show('old')).get('h1').text()).toBe('This link no longer works')
  })
})

describe('what is sent in one request', () => {
  const saying = (text: string) => ({ key: 'a', seen: '', text })
  it.each([
    ['nothing, so that being done can be said', [], [0]],
    ['few lines', Array(3).fill(saying('a')), [3]],
    ['many lines', Array(120).fill(saying('a')), [50, 50, 20]],
    ['long lines', Array(4).fill(saying('a'.repeat(7000))), [2, 2]],
    ['a line that is longer than all', [saying('a'.repeat(20_000))], [1]],
  ])('%s', (_, lines, sizes) => expect(batches(lines).map((b) => b.length)).toEqual(sizes))
})
