import { mount, type VueWrapper } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createMemoryHistory, createRouter } from 'vue-router'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Component } from 'vue'
import type { Schemas } from '@/api/client'
import { said } from '@/composables/said'
import { useSelection } from '@/composables/selection'
import { vuetify } from '@/plugins/vuetify'
import { pass, problem, serve } from '@/testkit'
import { aGroup, anAddress, aPerson, aPersonInDetail, aSheet } from '@/testkit/examples'
import PersonAddresses from '@/person/PersonAddresses.vue'
import RuleStack from '@/components/RuleStack.vue'
import SaidBar from '@/components/SaidBar.vue'
import GroupFill from './GroupFill.vue'
import GroupForm from './GroupForm.vue'
import IssueTable from './IssueTable.vue'
import PersonForm from '@/person/PersonForm.vue'
import SelectionBar from './SelectionBar.vue'

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
  useSelection().clear()
})

const choices: Schemas['ChoicesView'] = {
  roles: ['guardian', 'staff'],
  units: [{ id: 2, path: 'Rowing' }],
  languages: [{ value: 'pl', words: 'Polish' }],
  attributes: [
    { id: 1, name: 'Swim test', kind: 'choice', choices: ['passed', 'due'], tests: ['is', 'is-not'] },
  ],
  subjects: [{ on: 'role', tests: ['is', 'is-not'] }],
  gaps: [],
  devices: ['phone', 'vehicle terminal'],
}
const coaches = aGroup()
const session = {
  name: 'Hugo',
  rights: ['see-people', 'edit-people', 'write'],
  scope: { whole: true, units: [] },
  units: [],
  timeZone: 'Europe/London',
}
const always = {
  'GET /api/choices': () => choices,
  'GET /api/groups': () => [coaches],
  'GET /api/session': () => session,
  'GET /api/find': () => ({ groups: [], units: [], roles: [], people: [], messages: [] }),
}

function show<C extends Component>(component: C, props: Record<string, unknown>): VueWrapper {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)*', name: 'sheets', component: { template: '<div />' } }],
  })
  return mount(component as Component, {
    props,
    global: {
      plugins: [
        vuetify,
        router,
        [VueQueryPlugin, { queryClient: new QueryClient({ defaultOptions: { queries: { retry: false } } }) }],
      ],
    },
  }) as VueWrapper
}

const button = (w: VueWrapper, words: string) => {
  const found = w.findAll('button').find((b) => b.text().includes(words))
  if (!found) throw new Error(`no button ${words}`)
  return found
}

describe('a stack of filters', () => {
  it('adds a condition by subject, test and value, and takes one away', async () => {
    serve(always)
    const wrapper = show(RuleStack, { modelValue: [], filters: [] })
    await pass(10)
    await button(wrapper, 'Add a filter').trigger('click')
    const what = wrapper.get('select[aria-label="What the filter looks at"]')
    await what.setValue('attribute 1')
    await wrapper.get('select[aria-label="How it compares"]').setValue('is-not')
    await wrapper.get('select[aria-label="What with"]').setValue('due')
    await wrapper.get('form').trigger('submit')
    expect(wrapper.emitted('update:modelValue')).toEqual([
      [[{ on: 'attribute', test: 'is-not', value: 'due', id: 1 }]],
    ])
  })

  it('says how many each leaves, and nothing before it knows', async () => {
    serve(always)
    const rule = [{ on: 'role', test: 'is', value: 'staff' }]
    const wrapper = show(RuleStack, { modelValue: rule, filters: [] })
    expect(wrapper.get('li b').text()).toBe('…')
    await wrapper.setProps({ filters: [{ words: 'in the role staff', leaves: 1234 }] })
    expect(wrapper.get('li').text()).toContain('in the role staff')
    expect(wrapper.get('li b').text()).toBe('1,234')
    await wrapper.get('.drop').trigger('click')
    expect(wrapper.emitted('update:modelValue')).toEqual([[[]]])
  })
})

describe('the form of a person', () => {
  const person = aPersonInDetail({
    ties: [{ id: 9, name: 'Sami Haddad', guardian: false, receives: true, barred: false, reached: false }],
    sheet: aSheet({
      roles: ['guardian'],
      addresses: [
        { channel: 'text', value: '+447700900417', label: 'mobile' },
        { channel: 'voice', value: '+447700900417', label: 'mobile' },
      ],
      ties: [{ guardian: 7, dependent: 9, receives: true, barred: false }],
      groups: [4],
    }),
  })

  it('shows one line for a number of two channels and sends both', async () => {
    const asked = serve({
      ...always,
      'POST /api/people/check': () => [
        { field: 'addresses[1]', value: '+44', reason: 'is in no range', refused: false },
      ],
      'PUT /api/people/7': () => ({ edit: 5, said: 'changed', people: 1, person: 7, issues: [] }),
    })
    const wrapper = show(PersonForm, { person })
    await pass(500)
    expect(wrapper.findAll('.addresses li')).toHaveLength(1)
    expect(wrapper.get('.addresses li').text()).toContain('is in no range')
    expect(wrapper.get('.chip').text()).toContain('Coaches')

    await wrapper.findAll('.uses input[type=checkbox]')[0]?.setValue(false)
    const barred = wrapper.findAll('.ties input[type=checkbox]')[1]
    await barred?.setValue(true)
    await wrapper.get('form').trigger('submit')
    await pass(10)
    const sent = asked.find((a) => a.call.startsWith('PUT'))?.body as Schemas['Sheet']
    expect(sent.addresses.map((a) => a.channel)).toEqual(['voice'])
    expect(sent.ties).toEqual([{ guardian: 7, dependent: 9, receives: false, barred: true }])
    expect(sent.version).toBe(3)
    expect(wrapper.emitted('saved')?.[0]?.[0]).toMatchObject({ edit: 5 })
  })

  it('shows what somebody else changed and keeps what was typed', async () => {
    serve({
      ...always,
      'POST /api/people/check': () => [],
      'PUT /api/people/7': () =>
        new Response(
          JSON.stringify({
            status: 409,
            detail: 'Nothing was saved: somebody else changed this person in the meantime.',
            errors: [{ location: 'family name', message: 'Hugo changed Haddad to Al-Haddad' }],
          }),
          { status: 409, headers: { 'Content-Type': 'application/problem+json' } },
        ),
      'GET /api/people/7': () => ({ ...person, sheet: { ...person.sheet, version: 8 } }),
    })
    const wrapper = show(PersonForm, { person })
    await wrapper.findAll('input')[2]?.setValue('Rana')
    await wrapper.get('form').trigger('submit')
    await pass(10)
    expect(wrapper.get('[role=alert]').text()).toContain('Hugo changed Haddad to Al-Haddad')
    expect((wrapper.findAll('input')[2]?.element as HTMLInputElement).value).toBe('Rana')
    expect(wrapper.emitted('saved')).toBeUndefined()
    await button(wrapper, 'Save mine over it').trigger('click')
    await pass(10)
    expect(wrapper.find('[role=alert]').exists()).toBe(false)
  })

  it('moves addresses by keys and begins empty for somebody new', async () => {
    serve({ ...always, 'POST /api/people/check': () => [] })
    const wrapper = show(PersonForm, {})
    await button(wrapper, 'Add a number').trigger('click')
    await button(wrapper, 'Add a mail address').trigger('click')
    await button(wrapper, 'Add a device').trigger('click')
    const kinds = () => wrapper.findAll('.value').map((i) => i.attributes('aria-label'))
    expect(kinds()).toEqual(['Number', 'Mail address', 'Name of the device'])
    await wrapper.findAll('button[aria-label="Earlier"]')[2]?.trigger('click')
    expect(kinds()).toEqual(['Number', 'Name of the device', 'Mail address'])
    await wrapper.findAll('button[aria-label="Take away"]')[0]?.trigger('click')
    expect(kinds()).toHaveLength(2)
  })
})

describe('a selection', () => {
  it('has three ways to choose and says who is chosen', async () => {
    serve(always)
    const wrapper = show(SelectionBar, { onScreen: [1, 2], matching: 40, narrowed: true })
    await pass(10)
    expect(wrapper.get('.words').text()).toBe('Nobody is selected')
    await button(wrapper, 'Select the 2 on screen').trigger('click')
    expect(wrapper.get('.words').text()).toBe('2 people selected')
    await button(wrapper, 'all 40 that match').trigger('click')
    expect(wrapper.emitted('matching')).toHaveLength(1)
    await wrapper.setProps({ onScreen: [9] })
    expect(wrapper.get('.words').text()).toBe('2 people selected, 0 of them on screen')
    await button(wrapper, 'none').trigger('click')
    expect(wrapper.get('.words').text()).toBe('Nobody is selected')
  })

  it('is written to as it is', async () => {
    const asked = serve({
      ...always,
      'POST /api/messages': () => ({
        id: 3,
        revision: 1,
        draft: { audience: { parts: [], receivers: 'guardians' } },
      }),
      'PUT /api/messages/3': () => ({ revision: 2, updatedAt: '2026-11-24T08:00:00Z' }),
    })
    useSelection().add([5, 6])
    const wrapper = show(SelectionBar, { onScreen: [], matching: 2, narrowed: false })
    await pass(10)
    await button(wrapper, 'Write to them').trigger('click')
    await pass(10)
    expect(asked.find((a) => a.call.startsWith('PUT'))?.body).toMatchObject({
      draft: { audience: { parts: [{ kind: 'people', people: [5, 6] }] } },
    })
  })
})

describe('what was done', () => {
  it('can be undone, and goes away by itself', async () => {
    const asked = serve({ 'POST /api/edits/8/undo': () => ({ said: 'Undone: changed.', edit: 9, kept: [] }) })
    const wrapper = show(SaidBar, {})
    said.value = { words: 'Changed Rania.', edit: 8 }
    await pass(1)
    await button(wrapper, 'Undo').trigger('click')
    await pass(10)
    expect(asked[0]?.call).toBe('POST /api/edits/8/undo')
    expect(wrapper.text()).toContain('Undone: changed.')
    expect(wrapper.findAll('button').some((b) => b.text() === 'Undo')).toBe(false)
    await pass(21_000)
    expect(wrapper.text()).toBe('')
  })

  it('says why it cannot be undone', async () => {
    serve({ 'POST /api/edits/8/undo': () => problem(409, 'This was undone already.') })
    const wrapper = show(SaidBar, {})
    said.value = { words: 'Changed.', edit: 8 }
    await pass(1)
    await button(wrapper, 'Undo').trigger('click')
    await pass(10)
    expect(wrapper.get('[role=alert]').text()).toContain('This was undone already.')
  })
})

describe('groups', () => {
  it('by rule show who would be in them before they are made', async () => {
    const asked = serve({
      ...always,
      'POST /api/groups/rule': () => ({
        people: 32,
        filters: [{ words: 'in the role staff', leaves: 32 }],
        joins: { people: [{ id: 1, name: 'Naya Osei', detail: '' }], all: 1 },
        leaves: { people: [], all: 0 },
      }),
      'PUT /api/groups/4': () => ({ id: 4 }),
    })
    const group = { ...coaches, kind: 'rule', rule: [{ on: 'role', test: 'is', value: 'staff' }] }
    const wrapper = show(GroupForm, { group })
    await pass(400)
    expect(wrapper.text()).toContain('32 people would be in it: 1 person would join, 0 people would leave')
    await wrapper.get('form').trigger('submit')
    await pass(10)
    expect(asked.find((a) => a.call === 'PUT /api/groups/4')?.body).toMatchObject({
      kind: 'rule',
      rule: group.rule,
    })
    expect(wrapper.emitted('saved')).toEqual([[4]])
  })

  it('are filled from a pasted list after it was shown whom it means', async () => {
    const asked = serve({
      ...always,
      'POST /api/groups/match': () => ({
        people: [1, 2],
        names: { people: [{ id: 1, name: 'Rania', detail: '' }], all: 2 },
        unclear: [{ line: 2, text: 'ask Hugo', people: [], problem: 'is nobody’s name' }],
      }),
      'POST /api/groups/4/fill': () => ({ edit: 1, said: 'added', people: 2, person: 0, issues: [] }),
    })
    const wrapper = show(GroupFill, { group: coaches })
    await pass(10)
    await button(wrapper, 'A pasted list').trigger('click')
    await wrapper.get('textarea').setValue('07700 900417\nask Hugo')
    await button(wrapper, 'See whom it means').trigger('click')
    await pass(10)
    expect(wrapper.text()).toContain('It means 2 people: Rania')
    expect(wrapper.text()).toContain('line 2: “ask Hugo” is nobody’s name')
    await button(wrapper, 'Add 2 people').trigger('click')
    await pass(10)
    expect(asked.find((a) => a.call.includes('/fill'))).toMatchObject({
      call: 'POST /api/groups/4/fill',
      body: { people: [1, 2], take: 'add' },
    })
    expect(wrapper.emitted('leave')).toHaveLength(1)
  })
})

describe('words about people', () => {
  it.each([
    ['nobody can reach them', aPerson({}), 'nothing on file'],
    ['a dependent needs none', aPerson({ roles: ['dependent'] }), 'none of their own'],
    ['a dead address', aPerson({ addresses: [anAddress({ health: 'dead' })] }), 'dead'],
    ['opted out once', aPerson({ addresses: [anAddress({ declinesRoutine: true })] }), 'opted out'],
    ['a carrier’s stop', aPerson({ addresses: [anAddress({ carrierStop: true })] }), 'stopped'],
  ])('%s', (_name, person, words) => {
    expect(mount(PersonAddresses, { props: { person } }).text()).toContain(words)
  })

  it('issues say their sheet and line', () => {
    const wrapper = mount(IssueTable, {
      props: {
        title: 'Rows',
        note: '1 row',
        why: 'Why not',
        issues: [{ sheet: 'users.csv', line: 6, column: 'Email', value: 'x', reason: 'is broken' }],
      },
    })
    expect(wrapper.get('tbody').text()).toMatch(/users\.csv 6\s*x\s*Email\s*is broken/)
  })
})
