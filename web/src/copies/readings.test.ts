import { nextTick } from 'vue'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { flushPromises, mount } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import type { Schemas } from '@/api/client'
import { isOpen, readingWords } from '@/composables/readings'
import { serve } from '@/testkit'
import { aCopyLine, aReading } from '@/testkit/examples'
import AskReading from './AskReading.vue'
import LineRow from './LineRow.vue'
import ReadingsBox from './ReadingsBox.vue'
import { sourceWords, trustOf } from './lineText'

afterEach(() => vi.unstubAllGlobals())

const stubs = {
  VDialog: { template: '<div><slot /></div>' },
  VBtn: { template: '<button><slot /></button>' },
  FindBox: true,
}
const global = () => ({
  plugins: [
    [VueQueryPlugin, { queryClient: new QueryClient({ defaultOptions: { queries: { retry: false } } }) }],
  ] as never,
  stubs,
})
const session = { timeZone: 'Europe/London', rights: ['write'], fields: [] }

describe('how far a reading is', () => {
  it.each<[string, boolean, Partial<Schemas['ReadingView']>]>([
    ['asked, not opened yet', true, {}],
    ['no request left: give them their link', true, { request: 0 }],
    ['2 of 8 lines · 1 line said otherwise', true, { state: 'reading', read: 2, others: 1 }],
    ['done: 8 of 8 lines', false, { state: 'done', read: 8 }],
    ['their link has ended: 2 of 8 lines', false, { state: 'expired', read: 2 }],
    ['taken back', false, { state: 'withdrawn' }],
  ])('is said: %s', (words, open, over) => {
    expect(readingWords(aReading(over))).toBe(words)
    expect(isOpen(aReading(over))).toBe(open)
  })
})

describe('the readings of a copy', () => {
  it('are listed for its language, and taken back', async () => {
    const asked = serve({
      'GET /api/session': () => session,
      'GET /api/messages/3/copies/pl/readers': () => ({ set: true, readers: [] }),
      'GET /api/messages/3/readings': () => [
        aReading({ id: 7, state: 'reading', read: 2, remark: 'Dobrze.' }),
        aReading({ id: 8, name: 'Sami', language: 'ar' }),
      ],
      'DELETE /api/messages/3/readings/7': () => new Response(null, { status: 204 }),
    })
    const wrapper = mount(ReadingsBox, {
      props: { message: 3, language: 'pl', name: 'Polish', editable: true },
      global: global(),
    })
    await vi.waitFor(() => expect(wrapper.text()).toContain('Piotr'))
    expect(wrapper.findAll('li')).toHaveLength(1)
    expect(wrapper.text()).toContain('“Dobrze.”')
    await wrapper.get('[aria-label="Take the reading of Piotr back"]').trigger('click')
    await vi.waitFor(() => expect(asked.map((a) => a.call)).toContain('DELETE /api/messages/3/readings/7'))
  })

  it('are asked for, and what did not leave is said', async () => {
    const asked = serve({
      'GET /api/messages/3/copies/pl/readers': () => ({
        set: true,
        readers: [
          { person: 5, name: 'Piotr', detail: 'Polish' },
          { account: 2, name: 'Naya', detail: 'Coach' },
        ],
      }),
      'POST /api/messages/3/copies/pl/readings': () => [aReading({ problem: 'Nobody is reached.' })],
    })
    const wrapper = mount(AskReading, {
      props: { modelValue: true, message: 3, language: 'pl', name: 'Polish' },
      global: global(),
    })
    await vi.waitFor(() => expect(wrapper.findAll('li')).toHaveLength(2))
    for (const box of wrapper.findAll('li input')) await box.setValue(true)
    await wrapper.get('form').trigger('submit')
    await vi.waitFor(() => expect(wrapper.text()).toContain('did not leave: Nobody is reached.'))
    expect(asked.at(-1)?.body ?? asked.at(-2)?.body).toMatchObject({ people: [5], accounts: [2] })
    expect(wrapper.emitted('update:modelValue')).toBeUndefined()
  })
})

describe('a line of which readers say different things', () => {
  const line = aCopyLine({
    target: 'Witaj',
    source: 'person',
    by: 'Piotr',
    others: [{ reader: 'Lena', text: 'Cześć', at: '2026-11-26T09:00:00Z' }],
  })

  it('is doubtful, and the desk decides', async () => {
    expect(trustOf(line)).toBe('doubtful')
    expect(sourceWords(line, () => '')).toBe('readers say it differently: choose one')
    const wrapper = mount(LineRow, {
      props: { line, number: 1, current: false, editable: true, from: 'en', language: 'pl', rtl: false },
      global: global(),
    })
    expect(wrapper.text()).toContain('Lena says“Cześć”')
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Take it')!
      .trigger('click')
    await nextTick()
    await flushPromises()
    expect(wrapper.emitted('write')).toEqual([['Cześć', true, 'Witaj']])
  })
})
