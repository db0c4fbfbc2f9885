import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { pass, problem, serve } from '@/testkit'
import FileMenu from '@/components/FileMenu.vue'
import { narrows, readAsk, usual, whole } from './ask'
import ReportTable from './ReportTable.vue'

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

it('reads what is asked for from the address, and anything else as the usual report', () => {
  const ask = { by: 'group', span: { of: 'this-year' } }
  expect(readAsk(JSON.stringify(ask))).toEqual(ask)
  for (const text of [undefined, '', '{', '{"by":"group"}', 'null']) expect(readAsk(text)).toEqual(usual)
})

it('knows what can be asked for', () => {
  expect(whole({ by: 'month', span: { of: 'days', from: '2026-01-01' } })).toBe(false)
  expect(whole({ by: 'month', span: { of: 'this-month' } })).toBe(true)
  expect(narrows({ ...usual, by: 'gap' })).toBe(false)
})

it('leads from a row to its messages, for whoever may see them', () => {
  const table = {
    title: 'Messages by urgency',
    about: [],
    notes: [],
    columns: [
      { name: 'Urgency', kind: 'text' as const },
      { name: 'Messages', kind: 'count' as const },
    ],
    rows: [
      {
        cells: [{ text: 'routine' }, { text: '1,204', number: 1204 }],
        to: { conditions: [{ on: 'urgency' as const, value: 'routine' }] },
      },
      { cells: [{ text: 'timely' }, { text: '0', number: 0 }] },
    ],
    total: { cells: [{ text: 'Together' }, { text: '1,204' }] },
    chart: { form: 'bars' as const, series: [] },
  }
  const stubs = { RouterLink: { props: ['to'], template: '<a :href="to"><slot /></a>' } }
  const wrapper = mount(ReportTable, { props: { table, leads: true }, global: { stubs } })
  const links = wrapper.findAll('a')
  expect(links).toHaveLength(1)
  expect(decodeURIComponent(links[0]!.attributes('href')!)).toContain('"on":"urgency","value":"routine"')
  expect(wrapper.findAll('td.num').map((c) => c.text())).toEqual(['1,204', '0', '1,204'])
  expect(
    mount(ReportTable, { props: { table, leads: false }, global: { stubs } })
      .find('a')
      .exists(),
  ).toBe(false)
})

const menu = () =>
  mount(FileMenu, {
    props: { what: { message: 7 } },
    global: { stubs: { VMenu: { template: '<div><slot /></div>' }, VBtn: true } },
  })
const state = { id: 'F', name: 'x.csv', format: 'csv', rows: 10, all: 40, done: false, failed: '' }

it('shows how far a file is, and gives it up', async () => {
  const dropped = vi.fn(() => ({}))
  serve({
    'POST /api/exports': () => state,
    'GET /api/exports/F': () => state,
    'DELETE /api/exports/F': dropped,
  })
  const wrapper = menu()
  await wrapper.findAll('button.format')[0]!.trigger('click')
  await pass(400)
  expect(wrapper.get('[role=status]').text()).toBe('10 of 40 rows written')
  await wrapper.get('button.link').trigger('click')
  await pass(0)
  expect(dropped).toHaveBeenCalledOnce()
  expect(wrapper.findAll('button.format')).toHaveLength(4)
})

it('says why a file came to nothing', async () => {
  serve({ 'POST /api/exports': () => problem(422, 'Two files are being written for you already.') })
  const wrapper = menu()
  await wrapper.findAll('button.format')[2]!.trigger('click')
  await pass(0)
  expect(wrapper.get('[role=alert]').text()).toContain('Two files')
  serve({
    'POST /api/exports': () => state,
    'GET /api/exports/F': () => ({ ...state, failed: 'The disk is full.' }),
  })
  await wrapper.findAll('button.format')[2]!.trigger('click')
  await pass(400)
  expect(wrapper.get('[role=alert]').text()).toBe('The disk is full.')
})
