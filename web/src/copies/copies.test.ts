import { defineComponent, reactive, ref } from 'vue'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { flushPromises, mount } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createMemoryHistory, createRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { serve } from '@/testkit'
import { aCopyLine, aCopyUse, aPlan } from '@/testkit/examples'
import { emptyDraft } from '@/composables/draft'
import { copyWords, useCopy } from '@/composables/copies'
import CopiesCard from './CopiesCard.vue'
import CopyRules from './CopyRules.vue'
import LineRow from './LineRow.vue'
import { nextToRead, placesToPut, runsOf, sourceWords, trustOf } from './lineText'

afterEach(() => vi.unstubAllGlobals())

const router = createRouter({
  history: createMemoryHistory(),
  routes: [{ path: '/:rest(.*)*', component: { template: '<i />' } }],
})
const global = () => ({ plugins: [router, [VueQueryPlugin, { queryClient: new QueryClient() }]] as never })

const bold: Schemas['Placeholder'] = { kind: 'bold' }
const name: Schemas['Placeholder'] = { kind: 'field', name: 'first name' }

describe('a line', () => {
  it('reads as what its places stand for', () => {
    expect(runsOf('Dear {2}, {1}come{/1}! {9}', [bold, name])).toEqual([
      { text: 'Dear ', field: false, bold: false, italic: false, link: '' },
      { text: 'first name', field: true, bold: false, italic: false, link: '' },
      { text: ', ', field: false, bold: false, italic: false, link: '' },
      { text: 'come', field: false, bold: true, italic: false, link: '' },
      { text: '! ', field: false, bold: false, italic: false, link: '' },
      { text: '{9}', field: false, bold: false, italic: false, link: '' },
    ])
  })

  it('offers its places to be put in', () => {
    expect(placesToPut([bold, name])).toEqual([
      { words: 'bold', before: '{1}', after: '{/1}' },
      { words: 'first name', before: '{2}', after: '' },
    ])
  })

  const doubt = { code: 'figures' as const, sentence: 'Numbers differ.' }
  it.each([
    ['missing', {}],
    ['unread', { target: 'x', source: 'machine' as const }],
    ['adapted', { target: 'x', source: 'adapted' as const }],
    ['doubtful', { target: 'x', source: 'adapted' as const, doubts: [doubt] }],
    ['checked', { target: 'x', checkedBy: 'Ola Nowak', doubts: [doubt] }],
  ])('is %s', (trust, over) => expect(trustOf(aCopyLine(over))).toBe(trust))

  it('says where it came from', () => {
    const day = (at?: string) => at ?? ''
    expect(sourceWords(aCopyLine(), day)).toBe('missing')
    expect(sourceWords(aCopyLine({ target: 'x', source: 'machine' }), day)).toBe(
      'from the translation service · nobody has read it',
    )
    expect(sourceWords(aCopyLine({ target: 'x', checkedBy: 'Ola', checkedAt: 'today' }), day)).toBe(
      'checked by Ola, today',
    )
  })

  it('is next when somebody should look at it', () => {
    const read = aCopyLine({ target: 'x', checkedBy: 'Ola' })
    expect(nextToRead([read, aCopyLine(), read], 1)).toBe(1)
    expect(nextToRead([aCopyLine(), read, read], 1)).toBe(0)
    expect(nextToRead([read, read], 0)).toBe(-1)
    expect(nextToRead([], 0)).toBe(-1)
  })
})

describe('how far a copy is', () => {
  it.each([
    ['nothing translated yet', {}],
    ['3 lines missing · 1 line doubtful', { filled: 5, checked: 4, doubtful: 1 }],
    ['2 lines nobody has read', { filled: 8, checked: 6 }],
    ['nobody has read it', { filled: 8 }],
    ['checked by Ola, Sami', { filled: 8, checked: 8, state: 'checked' as const, by: ['Ola', 'Sami'] }],
  ])('is said: %s', (words, over) => expect(copyWords(aCopyUse({ lines: 8, ...over }))).toBe(words))
})

describe('the copies in Write', () => {
  it('are drafted one language after the other, and what names somebody is pointed out', async () => {
    const drafted = { memory: 1, adapted: 0, machine: 2, withheld: 1, left: 1, note: '' }
    const requests = serve({
      'GET /api/messages/3/readings': () => [],
      'POST /api/messages/3/copies/pl/draft': () => drafted,
      'POST /api/messages/3/copies/ar/draft': () => ({
        ...drafted,
        withheld: 0,
        left: 0,
        note: 'It is down.',
      }),
    })
    const keep = vi.fn(() => Promise.resolve())
    const copies = [
      aCopyUse({ language: 'pl', name: 'Polish', people: 11 }),
      aCopyUse({ language: 'ar', name: 'Arabic', people: 12 }),
    ]
    const wrapper = mount(CopiesCard, {
      props: { draft: emptyDraft(), plan: aPlan({ copies }), message: 3, keep },
      global: global(),
    })
    expect(wrapper.text()).toContain('23 people read another language')
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Draft all missing lines')!
      .trigger('click')
    await vi.waitFor(() =>
      expect(wrapper.text()).toContain('6 lines filled, 1 line still missing. It is down.'),
    )
    const asked = () => requests.filter((r) => r.call.startsWith('POST'))
    expect(keep).toHaveBeenCalled()
    expect(asked()).toHaveLength(2)
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Send them too')!
      .trigger('click')
    await vi.waitFor(() => expect(asked()).toHaveLength(3))
    expect(asked()[2]!.query).toContain('naming=true')
  })

  it('say who gets which', async () => {
    const draft = reactive(emptyDraft())
    const wrapper = mount(CopyRules, { props: { modelValue: draft, plan: aPlan() }, global: global() })
    const selects = wrapper.findAll('select')
    await selects[0]!.setValue('unchecked')
    await selects[1]!.setValue('lines')
    await wrapper.findAll('input[type=checkbox]')[0]!.setValue(true)
    expect(draft.copies).toEqual({ accept: 'unchecked', otherwise: 'lines', beneath: ['email'] })
    await selects[0]!.setValue('')
    await selects[1]!.setValue('')
    await wrapper.findAll('input[type=checkbox]')[0]!.setValue(false)
    expect(draft.copies).toBeUndefined()
  })
})

describe('a line that is written', () => {
  const row = (over: Partial<Schemas['LineView']> = {}, current = true) =>
    mount(LineRow, {
      props: {
        line: aCopyLine({ target: 'Dzień dobry', source: 'machine', ...over }),
        number: 1,
        current,
        editable: true,
        from: 'en',
        language: 'pl',
        rtl: false,
      },
      global: global(),
    })

  it('is kept when it is left, and checked by its button', async () => {
    const wrapper = row()
    await wrapper.get('textarea').setValue('Witaj')
    await wrapper.get('textarea').trigger('blur')
    expect(wrapper.emitted('write')).toEqual([['Witaj', false, 'Dzień dobry']])
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'It is right')!
      .trigger('click')
    expect(wrapper.emitted('write')).toEqual([
      ['Witaj', false, 'Dzień dobry'],
      ['Witaj', true, 'Dzień dobry'],
    ])
    expect(wrapper.emitted('next')).toHaveLength(1)
  })

  it('is not kept when nothing was typed', async () => {
    const wrapper = row()
    await wrapper.get('textarea').trigger('blur')
    expect(wrapper.emitted('write')).toBeUndefined()
  })

  it('shows what others wrote unless something was typed over it', async () => {
    const wrapper = row()
    await wrapper.setProps({ line: aCopyLine({ target: 'Cześć', source: 'person' }) })
    expect(wrapper.get('textarea').element.value).toBe('Cześć')
    await wrapper.get('textarea').setValue('Witaj')
    await wrapper.setProps({ line: aCopyLine({ target: 'Hej', source: 'person' }) })
    expect(wrapper.get('textarea').element.value).toBe('Witaj')
    expect(wrapper.get('[role=status]').text()).toContain('“Hej” here meanwhile')
    // On the way to the buttons nothing is written that would only be refused.
    await wrapper.get('textarea').trigger('blur')
    expect(wrapper.emitted('write')).toBeUndefined()
    const press = (words: string) =>
      wrapper
        .findAll('button')
        .find((b) => b.text() === words)!
        .trigger('click')
    await press('keep what you wrote')
    expect(wrapper.emitted('write')).toEqual([['Witaj', false, 'Hej']])
  })
})

describe('the lines of a copy', () => {
  it('are written one after the other: leaving a line, then checking it', async () => {
    const arrived: boolean[] = []
    const answers: (() => void)[] = []
    vi.stubGlobal('fetch', async (request: Request) => {
      if (request.method === 'GET') return Response.json({ lines: [] })
      const body = (await request.json()) as { lines: { checked: boolean }[] }
      arrived.push(body.lines[0]!.checked)
      await new Promise<void>((answer) => answers.push(answer))
      return Response.json({ lines: [] })
    })
    let copy!: ReturnType<typeof useCopy>
    const page = defineComponent(() => {
      copy = useCopy(ref(1), ref('pl'))
      return () => null
    })
    mount(page, { global: global() })
    copy.write.mutate([{ key: 'a', was: '', text: 'x', checked: false }])
    copy.write.mutate([{ key: 'a', was: '', text: 'x', checked: true }])
    await vi.waitFor(() => expect(arrived).toEqual([false]))
    await flushPromises()
    expect(arrived).toEqual([false])
    answers[0]!()
    await vi.waitFor(() => expect(arrived).toEqual([false, true]))
    answers[1]!()
  })
})
