import { mount, type VueWrapper } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createMemoryHistory, createRouter } from 'vue-router'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Component } from 'vue'
import { vuetify } from '@/plugins/vuetify'
import { pass, problem, serve } from '@/testkit'
import Changes from './Changes.vue'
import Gaps from './Gaps.vue'
import Import from './Import.vue'
import Settings from './Settings.vue'
import Sheets from './Sheets.vue'
import Twins from './Twins.vue'

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const session = {
  name: 'Hugo',
  rights: ['see-people', 'edit-people', 'write', 'change-settings'],
  scope: { whole: true, units: [] },
  units: [],
  timeZone: 'Europe/London',
}
const none = { pairs: [], all: 0 }
const always = {
  'GET /api/session': () => session,
  'GET /api/gaps': () => ({ gaps: [], all: 8, waiting: 0 }),
  'GET /api/twins': () => none,
  'GET /api/updates': () => [],
  'GET /api/choices': () => ({
    roles: [],
    units: [],
    languages: [],
    attributes: [],
    subjects: [],
    gaps: [],
    devices: [],
  }),
  'GET /api/imports/last': () => ({
    id: 0,
    fileName: '',
    result: '',
    edit: 0,
    by: '',
    at: '2026-11-24T08:00:00Z',
  }),
}

async function show(view: Component, at = '/', props: Record<string, unknown> = {}) {
  const empty = { template: '<div />' }
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [
      { path: '/people', name: 'people', component: empty },
      { path: '/people/sheets', name: 'sheets', component: empty },
      { path: '/:rest(.*)*', component: empty },
    ],
  })
  await router.push(at)
  const wrapper = mount(view, {
    props,
    global: {
      plugins: [
        vuetify,
        router,
        [VueQueryPlugin, { queryClient: new QueryClient({ defaultOptions: { queries: { retry: false } } }) }],
      ],
    },
  }) as VueWrapper
  await pass(20)
  return { wrapper, router }
}

const button = (w: VueWrapper, words: string) => {
  const found = w.findAll('button').find((b) => b.text().includes(words))
  if (!found) throw new Error(`no button ${words}`)
  return found
}

describe('gaps', () => {
  it('say how many, where, and lead to who they are', async () => {
    serve({
      ...always,
      'GET /api/gaps': () => ({
        gaps: [
          {
            gap: 'no-address',
            words: 'no way to reach them on file',
            people: 17,
            units: [{ name: 'Rowing › Juniors', people: 11 }],
            roles: [{ name: 'guardian', people: 17 }],
          },
          { gap: 'no-language', words: 'language not known', people: 0, units: [], roles: [] },
        ],
        all: 618,
        waiting: 0,
      }),
    })
    const { wrapper, router } = await show(Gaps)
    expect(wrapper.findAll('article')).toHaveLength(1)
    expect(wrapper.get('article').text()).toMatch(/17\s*no way to reach them on file/)
    expect(wrapper.get('.line').text()).toMatch(/Juniors\s*11/)
    await button(wrapper, 'See who they are').trigger('click')
    await pass(10)
    expect(JSON.parse(String(router.currentRoute.value.query.rule))).toEqual([
      { on: 'gap', test: 'is', value: 'no-address' },
    ])
  })

  it('say so when there are none', async () => {
    serve(always)
    const { wrapper } = await show(Gaps)
    expect(wrapper.text()).toContain('There are no gaps')
  })

  it('show corrections with what changes, and take a yes or a no', async () => {
    const asked = serve({
      ...always,
      'GET /api/updates': () => [
        {
          id: 5,
          person: 2,
          name: 'Piotr',
          at: '2026-11-24T08:00:00Z',
          changes: [{ what: 'wish', to: 'text' }],
        },
      ],
      'POST /api/updates/5/decline': () => ({ edit: 0, said: 'left', people: 0, person: 2, issues: [] }),
    })
    const { wrapper } = await show(Gaps)
    expect(wrapper.get('.waiting').text()).toMatch(/Piotr[\s\S]*wish:\s*text/)
    await button(wrapper, 'Leave as it is').trigger('click')
    await pass(10)
    expect(asked.some((a) => a.call === 'POST /api/updates/5/decline')).toBe(true)
  })
})

it('twins stand side by side and are merged into either', async () => {
  const side = (id: number, over = {}) => ({
    id,
    name: 'Łukasz Kłos',
    externalId: `M${id}`,
    roles: ['member'],
    unit: '',
    speaks: 'Polish',
    groups: [],
    ties: [],
    addresses: [{ channel: 'email', value: 'k@example.org', shown: 'k@example.org' }],
    bornOn: '',
    ...over,
  })
  const asked = serve({
    ...always,
    'GET /api/twins': () => ({
      pairs: [{ a: side(1), b: side(2, { speaks: 'English' }), reasons: ['the same name'], likely: true }],
      all: 1,
    }),
    'POST /api/people/merge': () => ({ edit: 3, said: 'merged', people: 2, person: 2, issues: [] }),
    'POST /api/twins/apart': () => new Response(null, { status: 204 }),
  })
  const { wrapper } = await show(Twins)
  expect(wrapper.findAll('.same')).toHaveLength(2)
  const differing = wrapper.findAll('.differs th').map((th) => th.text())
  expect(differing).toEqual(['Id', 'Reads'])
  await wrapper.findAll('.acts button')[1]?.trigger('click')
  await pass(10)
  expect(asked.find((a) => a.call.endsWith('/merge'))?.body).toEqual({ keep: 2, others: [1] })
  await button(wrapper, 'They are two').trigger('click')
  await pass(10)
  expect(asked.find((a) => a.call.endsWith('/apart'))?.body).toEqual({ a: 1, b: 2 })
})

it('changes are listed and undone once', async () => {
  const edit = (id: number, undone: boolean) => ({
    id,
    kind: 'import',
    said: `loaded ${id}.csv`,
    by: 'Hugo',
    people: 1200,
    at: '2026-11-24T08:00:00Z',
    undone,
    mine: true,
  })
  const asked = serve({
    ...always,
    'GET /api/edits': () => [edit(2, false), edit(1, true)],
    'POST /api/edits/2/undo': () => ({ said: 'Undone.', edit: 3, kept: [] }),
  })
  const { wrapper } = await show(Changes)
  expect(wrapper.findAll('tbody tr')).toHaveLength(2)
  expect(wrapper.get('tbody').text()).toContain('1,200')
  expect(wrapper.findAll('tbody button')).toHaveLength(1)
  await wrapper.get('tbody button').trigger('click')
  await pass(10)
  expect(asked.some((a) => a.call === 'POST /api/edits/2/undo')).toBe(true)
})

describe('a file', () => {
  const view = (over = {}) => ({
    id: 4,
    fileName: 'club.csv',
    state: 'proposed',
    result: '',
    edit: 0,
    done: 0,
    total: 0,
    read: 'UTF-8',
    mapping: '',
    unit: 0,
    markLeft: false,
    meanings: ['full name', 'attribute: Swim test'],
    columns: [{ heading: 'Wer', meaning: '', first: ['Bo'] }],
    places: [{ sheet: 'Wardens', line: 2 }],
    rows: 1,
    added: 1,
    changed: 1,
    unchanged: 0,
    new: [{ id: 0, name: 'Bo', detail: '' }],
    groups: [],
    changes: [{ line: 3, person: 7, name: 'Cy', changes: [{ what: 'language', from: 'ar', to: 'pl' }] }],
    missing: [{ id: 9, name: 'Di', detail: '' }],
    missingAll: 1,
    refused: [],
    refusedAll: 0,
    noted: [],
    notedAll: 0,
    problem: '',
    reading: {},
    encoding: 'UTF-8',
    encodings: ['UTF-8', 'Windows-1250'],
    heading: 1,
    top: [
      { line: 1, words: 'Wer' },
      { line: 2, words: 'Bo' },
    ],
    questions: [],
    units: [],
    ...over,
  })

  it('shows what loading it would do, and takes other meanings and choices', async () => {
    const asked = serve({
      ...always,
      'GET /api/imports/4': () => view(),
      'PUT /api/imports/4': (body) => view(body as object),
    })
    const { wrapper } = await show(Import, '/', { id: '4' })
    expect(wrapper.text()).toContain('Load 2 people')
    expect(wrapper.text()).toMatch(/Cy\s*language:\s*ar\s*→\s*pl/)
    expect(wrapper.get('.grid tbody td').text()).toBe('Wardens 2')
    await wrapper.get('th select').setValue('full name')
    await pass(10)
    expect(asked.at(-1)?.body).toEqual({ meanings: ['full name'], markLeft: false, unit: 0, reading: {} })
    await wrapper.findAll('input[type=radio]')[1]?.setValue(true)
    await pass(10)
    expect(asked.at(-1)?.body).toMatchObject({ markLeft: true })
    expect(wrapper.text()).toContain('Load 3 people')
  })

  it('asks once for what it does not tell', async () => {
    const asked = serve({
      ...always,
      'GET /api/imports/4': () =>
        view({
          problem: 'Answer what is asked above the columns first.',
          reading: { statuses: { ruht: 'away' } },
          questions: [
            { kind: 'dates', column: 'DOB', value: '3/4/2012', rows: 1 },
            { kind: 'status', column: 'Status', value: 'karteileiche', rows: 2 },
          ],
        }),
      'PUT /api/imports/4': (body) => view(body as object),
    })
    const { wrapper } = await show(Import, '/', { id: '4' })
    const box = wrapper.get('[aria-label="What the file does not tell"]')
    expect(box.text()).toMatch(
      /3\/4\/2012 is 3 April[\s\S]*3\/4\/2012 is 4 March[\s\S]*karteileiche\s*2 rows/,
    )
    expect(wrapper.find('[role=alert]').exists()).toBe(false)
    await box.get('select[aria-label="What karteileiche means"]').setValue('left')
    await pass(10)
    expect(asked.at(-1)?.body).toMatchObject({
      reading: { statuses: { ruht: 'away', karteileiche: 'left' } },
    })
  })

  it('that cannot be loaded says why', async () => {
    serve({ ...always, 'GET /api/imports/4': () => view({ problem: 'No column holds names.' }) })
    const { wrapper } = await show(Import, '/', { id: '4' })
    expect(wrapper.get('[role=alert]').text()).toBe('No column holds names.')
    expect(button(wrapper, 'Load').attributes('disabled')).toBeDefined()
  })
})

it('sheets are in the language and direction of the household', async () => {
  const phrase = {
    'sheet title': 'عنوان',
    'sheet link': 'حتى {date}:',
    nothing: 'لا شيء',
    email: 'بريد',
  }
  const asked = serve({
    ...always,
    'POST /api/people/ids': () => ({ ids: [3], words: '' }),
    'POST /api/gaps/sheets': () => ({
      organisation: 'Club',
      households: [
        {
          words: { tag: 'ar', rtl: true, phrase },
          date: '2026-12-09',
          people: [
            {
              name: 'رانيا',
              about: [],
              speaks: 'العربية',
              link: '/own/abc',
              details: { addresses: [], language: 'ar', wish: '' },
            },
          ],
        },
      ],
    }),
  })
  const { wrapper } = await show(Sheets, '/?rule=[]')
  expect(asked.find((a) => a.call.endsWith('/sheets'))?.body).toEqual({ people: [3] })
  const paper = wrapper.get('.paper')
  expect(paper.attributes()).toMatchObject({ lang: 'ar', dir: 'rtl' })
  expect(paper.text()).toContain('/own/abc')
  expect(paper.findAll('.none')).toHaveLength(3)
})

describe('settings', () => {
  const settings = {
    language: 'en',
    languages: [{ value: 'pl', words: 'Polish' }],
    roles: [
      { role: 'staff', people: 3, builtIn: true },
      { role: 'safeguarding', people: 0, builtIn: false },
    ],
    updatesWait: true,
    units: [{ id: 2, name: 'Rowing', path: 'Rowing', people: 4, groups: 1 }],
    attributes: [{ id: 1, name: 'Swim test', kind: 'choice', choices: ['passed', 'due'], people: 9 }],
    rights: [
      { right: 'see-people', words: 'see people', held: true, factor: false },
      { right: 'write', words: 'write to people', held: false, factor: false },
    ],
  }
  const served = {
    ...always,
    'GET /api/settings': () => settings,
    'GET /api/accounts': () => [
      {
        id: 1,
        login: 'a@example.org',
        name: 'Ana',
        duty: '',
        active: true,
        scope: { whole: false, units: [2] },
        rights: ['see-people'],
        units: ['Rowing'],
        self: false,
        password: true,
        factor: false,
      },
    ],
  }

  it('accounts give no more than their giver has', async () => {
    const asked = serve({ ...served, 'POST /api/accounts': () => [] })
    const { wrapper } = await show(Settings)
    expect(wrapper.get('tbody').text()).toMatch(/Ana[\s\S]*Rowing[\s\S]*see people/)
    await wrapper.get('tbody .link').trigger('click')
    const rights = wrapper.findAll('fieldset')[1]?.findAll('input') ?? []
    expect(rights.map((r) => r.attributes('disabled') !== undefined)).toEqual([false, true])
    await wrapper.get('form').trigger('submit')
    await pass(10)
    expect(asked.find((a) => a.call === 'POST /api/accounts')?.body).toEqual({
      id: 1,
      login: 'a@example.org',
      name: 'Ana',
      duty: '',
      active: true,
      scope: { whole: false, units: [2] },
      rights: ['see-people'],
    })
  })

  it('a refused change is said and put back', async () => {
    serve({ ...served, 'PUT /api/settings': () => problem(422, 'This cannot be done: it is no language.') })
    const { wrapper } = await show(Settings, '/?of=habits')
    await wrapper.get('input[aria-label="Another language"]').setValue('river')
    await wrapper.findAll('form')[1]?.trigger('submit')
    await pass(10)
    expect(wrapper.get('[role=alert]').text()).toContain('it is no language')
    expect(wrapper.findAll('section')[1]?.findAll('li')).toHaveLength(1)
  })

  it('an attribute is deleted only after it was asked', async () => {
    const asked = serve({ ...served, 'DELETE /api/attributes/1': () => new Response(null, { status: 204 }) })
    const { wrapper } = await show(Settings, '/?of=attributes')
    expect(wrapper.get('tbody').text()).toMatch(/one of a list: passed, due\s*9 people/)
    await button(wrapper, 'Delete…').trigger('click')
    expect(asked.some((a) => a.call.startsWith('DELETE'))).toBe(false)
    await button(wrapper, 'Delete it').trigger('click')
    await pass(10)
    expect(asked.some((a) => a.call === 'DELETE /api/attributes/1')).toBe(true)
  })

  it('a unit is made inside another', async () => {
    const asked = serve({ ...served, 'POST /api/units': () => settings })
    const { wrapper } = await show(Settings, '/?of=units')
    await button(wrapper, 'Add a unit').trigger('click')
    await wrapper.get('form input').setValue('Juniors')
    await wrapper.get('form select').setValue('2')
    await wrapper.get('form').trigger('submit')
    await pass(10)
    expect(asked.find((a) => a.call === 'POST /api/units')?.body).toEqual({
      name: 'Juniors',
      parent: 2,
      prefix: '',
      footer: '',
    })
  })
})
