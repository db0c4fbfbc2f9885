import { mount } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { emptyDraft } from '@/composables/draft'
import { contentOf } from '@/composables/shelf'
import SendingSettings from '@/settings/SendingSettings.vue'
import { serve } from '@/testkit'
import Letters from './Letters.vue'
import Shelf from './Shelf.vue'

afterEach(() => vi.unstubAllGlobals())

const router = createRouter({
  history: createMemoryHistory(),
  routes: [{ path: '/:rest(.*)*', component: { template: '<i />' } }],
})
const global = () => ({
  plugins: [
    router,
    [VueQueryPlugin, { queryClient: new QueryClient({ defaultOptions: { queries: { retry: false } } }) }],
  ] as never,
  stubs: {
    VBtn: { props: ['disabled'], template: '<button :disabled="disabled"><slot /></button>' },
    VIcon: true,
    RichEditor: { template: '<div class="editor" />' },
    FindBox: { template: '<i />' },
    WhatPane: { props: ['draft'], template: '<input aria-label="Subject" :value="draft.subject" />' },
  },
})

describe('how messages are sent', () => {
  const settings: Schemas['SettingsView'] = {
    language: 'en-GB',
    languages: [],
    rights: [],
    roles: [],
    updatesWait: false,
    units: [{ id: 3, name: 'Rowing', path: 'Rowing', people: 9, groups: 2 }],
    attributes: [{ id: 9, name: 'Postal address', kind: 'text', people: 9 }],
    currency: 'GBP',
    sending: {
      now: {
        holdSeconds: 30,
        steps: { timely: [['text'], ['email', 'voice']] },
        rules: {
          loadLimit: 4,
          quiet: { text: { from: '21:00', to: '07:00' } },
          budgets: [{ unit: 3, month: 2500 }],
          signature: { prefix: '[All]' },
        },
      },
      defaults: {
        routine: [['email'], ['text'], ['voice']],
        timely: [['text'], ['email'], ['voice']],
        emergency: [['email', 'text', 'voice']],
      },
      testers: [{ id: 5, name: 'Naya Osei', detail: '' }],
    },
  }

  it('is saved with what differs from the built-in steps', async () => {
    const asked = serve({ 'PUT /api/settings/sending': () => settings })
    const wrapper = mount(SendingSettings, {
      props: {
        settings,
        change: async (request: () => Promise<unknown>) => {
          await request()
          return true
        },
      },
      global: global(),
    })
    await wrapper.get('input[aria-label="Hold in seconds"]').setValue('60')
    await wrapper.get('input[aria-label="Budget 1"]').setValue('12.5')
    await wrapper.get('select[aria-label="Attribute with postal addresses"]').setValue('9')
    await wrapper.get('[aria-label="Quiet hours, Voice"] input[type=checkbox]').setValue(true)
    await wrapper.get('form').trigger('submit')
    await vi.waitFor(() => expect(wrapper.text()).toContain('Saved.'))
    expect(asked[0]!.body).toMatchObject({
      holdSeconds: 60,
      steps: { timely: [['text'], ['email', 'voice']] },
      rules: {
        unwished: false,
        loadLimit: 4,
        postal: 9,
        quiet: { text: { from: '21:00', to: '07:00' }, voice: { from: '21:00', to: '07:00' } },
        testers: [5],
        budgets: [{ unit: 3, month: 1250 }],
        signature: { prefix: '[All]', footer: '' },
      },
    })
    await wrapper.get('input[aria-label="Hold in seconds"]').setValue('10')
    expect(wrapper.text()).not.toContain('Saved.')
  })
})

describe('letters', () => {
  const page = (letters: object[], all = letters.length) => {
    serve({
      'GET /api/messages/3': () => ({ draft: emptyDraft(), labels: [] }),
      'POST /api/plan/letters': () => ({
        organisation: 'Quillmere',
        language: 'en',
        date: '25 November 2026',
        letters,
        all,
      }),
    })
    return mount(Letters, { props: { id: '3' }, global: global() })
  }

  it('are a page for each household, and say where an address is missing', async () => {
    const wrapper = page(
      [
        {
          names: ['Ana Venn', 'Bo Venn'],
          address: '1 Sluice Lane',
          subject: 'Outing',
          html: '<p>Dear <strong>Ana</strong></p>',
          missing: '',
          date: '25 November 2026',
          languages: ['pl', 'en'],
        },
        {
          names: ['Di Venn'],
          address: '',
          subject: 'Outing',
          html: '<p>Dear Di</p>',
          missing: 'dependents',
          date: '25 November 2026',
          languages: ['en'],
        },
      ],
      700,
    )
    await vi.waitFor(() => expect(wrapper.findAll('.paper')).toHaveLength(2))
    expect(wrapper.find('.paper strong').text()).toBe('Ana')
    expect(wrapper.find('.paper').attributes('lang')).toBe('pl')
    expect(wrapper.text()).toContain('25 November 2026')
    expect(wrapper.text()).toContain('These are the first 2 of 700')
    expect(wrapper.text()).toContain('1 household has no postal address')
    expect(wrapper.text()).toContain('Nothing fills “dependents”')
  })

  it('say that nobody needs one', async () => {
    const wrapper = page([])
    await vi.waitFor(() => expect(wrapper.text()).toContain('Everybody is reached'))
  })
})

describe('the shelf', () => {
  const item = {
    id: 7,
    kind: 'template',
    name: 'Outing',
    own: false,
    unit: 0,
    shared: 'everybody',
    by: 'Naya',
    at: '2026-11-25T08:00:00Z',
    mine: true,
    blanks: [],
    content: { ...contentOf(emptyDraft()), subject: 'Outing' },
    plain: 'Come',
  }
  const answers = {
    'GET /api/session': () => ({ timeZone: 'Europe/London', fields: [], scope: { whole: true } }),
    'GET /api/choices': () => ({ units: [{ id: 3, path: 'Rowing' }] }),
    'GET /api/shelf': () => [item, { ...item, id: 8, name: 'Not mine', mine: false }],
    'GET /api/shelf/7/versions': () => [
      { id: 2, by: 'Naya', at: '2026-11-25T08:00:00Z', plain: 'now', content: contentOf(emptyDraft()) },
      {
        id: 1,
        by: 'Hugo',
        at: '2026-11-24T08:00:00Z',
        plain: 'before',
        content: { ...contentOf(emptyDraft()), subject: 'Before' },
      },
    ],
    'GET /api/shelf/8/versions': () => [],
    'POST /api/shelf': () => [item],
    'DELETE /api/shelf/7': () => new Response(null, { status: 204 }),
  }

  it('changes a template, brings a version back and deletes it', async () => {
    const asked = serve(answers)
    const wrapper = mount(Shelf, { global: global() })
    await vi.waitFor(() => expect(wrapper.text()).toContain('Outing'))
    await wrapper.get('button.item').trigger('click')
    await vi.waitFor(() => expect(wrapper.text()).toContain('Earlier versions'))
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Bring back')!
      .trigger('click')
    await wrapper.get('form').trigger('submit')
    await vi.waitFor(() =>
      expect(asked.find((a) => a.call === 'POST /api/shelf')?.body).toMatchObject({
        id: 7,
        name: 'Outing',
        own: false,
        content: { subject: 'Before' },
      }),
    )
    await vi.waitFor(() => expect(wrapper.find('button.item[aria-pressed=true]').exists()).toBe(true))
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Delete')!
      .trigger('click')
    await vi.waitFor(() => expect(wrapper.find('button.item').exists()).toBe(false))
  })

  it('lets nobody change what somebody else shares', async () => {
    serve(answers)
    const wrapper = mount(Shelf, { global: global() })
    await vi.waitFor(() => expect(wrapper.findAll('button.item')).toHaveLength(2))
    await wrapper.findAll('button.item').at(1)!.trigger('click')
    const words = wrapper.findAll('button').map((b) => b.text())
    expect(words).not.toContain('Save a new version')
    expect(words).not.toContain('Delete')
  })
})
