import { mount } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { reactive } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import type { Draft, Part } from '@/api/client'
import { emptyDraft } from '@/composables/draft'
import { problem, serve } from '@/testkit'
import { aChannel } from '@/testkit/examples'
import HistoryDrawer from './HistoryDrawer.vue'
import ListDrawer from './ListDrawer.vue'
import PartDrawer from './PartDrawer.vue'
import PeopleDrawer from './PeopleDrawer.vue'
import PushFace from './PushFace.vue'
import ShelfDrawer from './ShelfDrawer.vue'
import VoiceFace from './VoiceFace.vue'
import WhyBox from './WhyBox.vue'

afterEach(() => {
  vi.unstubAllGlobals()
  document.body.innerHTML = ''
})

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
    teleport: true,
    VBtn: { props: ['disabled'], template: '<button :disabled="disabled"><slot /></button>' },
    VIcon: true,
    RichEditor: { template: '<div class="editor" />' },
  },
})
const button = (
  wrapper: { findAll: (s: string) => { text: () => string; trigger: (e: string) => Promise<void> }[] },
  words: string,
) => wrapper.findAll('button').find((b) => b.text().startsWith(words))!

const choices = {
  roles: ['staff', 'guardian'],
  units: [{ id: 3, path: 'Rowing' }],
  languages: [],
  attributes: [],
  subjects: [{ on: 'role', tests: ['is', 'is-not'] }],
  gaps: [],
  devices: [],
}
const session = {
  timeZone: 'Europe/London',
  fields: ['first name'],
  scope: { whole: true },
  readsAloud: true,
}

describe('a part', () => {
  const part = (parts: Part[], shown: number | undefined, answers: object) => {
    const asked = serve({
      'GET /api/choices': () => choices,
      'GET /api/groups': () => [],
      'GET /api/filters': () => [
        { id: 1, name: 'Sluice keys', rule: [{ on: 'role', test: 'is', value: 'staff' }] },
      ],
      'POST /api/plan/part': () => answers,
    })
    const draft = reactive<Draft>({ ...emptyDraft(), audience: { parts, receivers: 'guardians' } })
    const wrapper = mount(PartDrawer, {
      props: { modelValue: false, draft, part: shown, label: 'U14', asked: JSON.stringify(draft) },
      global: global(),
    })
    return { asked, draft, wrapper, open: () => wrapper.setProps({ modelValue: true }) }
  }
  const people = [
    { id: 1, name: 'Sami Haddad', detail: 'dependent', leftOut: false },
    { id: -1, name: 'new@example.org', detail: 'not on the roster', leftOut: false },
    { id: 2, name: 'Kim Venn', detail: 'dependent', leftOut: true },
  ]

  it('shows who is in it and leaves out one by one', async () => {
    const { draft, wrapper, open } = part([{ kind: 'group', group: 1 }], 0, { people, all: 3, filters: [] })
    await open()
    await vi.waitFor(() => expect(wrapper.text()).toContain('Sami Haddad'))
    expect(wrapper.findAll('li.gone')).toHaveLength(1)
    expect(wrapper.text()).toContain('left out by a part')
    await button(wrapper, 'Leave out').trigger('click')
    expect(draft.audience.parts[1]).toEqual({ kind: 'people', people: [1], leaveOut: true })
    await button(wrapper, 'Back in').trigger('click')
    expect(draft.audience.parts).toHaveLength(1)
  })

  it('takes conditions of its own', async () => {
    const { asked, draft, wrapper, open } = part([{ kind: 'group', group: 1 }], 0, {
      people,
      all: 3,
      filters: [],
    })
    await open()
    await vi.waitFor(() => expect(wrapper.text()).toContain('Sami Haddad'))
    await vi.waitFor(() => expect(asked.some((a) => a.call === 'GET /api/choices')).toBe(true))
    await new Promise((done) => setTimeout(done)) // the choices are there
    await button(wrapper, 'Add a filter').trigger('click')
    await wrapper.get('select[aria-label="What with"]').setValue('staff')
    await wrapper.get('form').trigger('submit')
    expect(draft.audience.parts[0]).toEqual({
      kind: 'group',
      group: 1,
      only: [{ on: 'role', test: 'is', value: 'staff' }],
    })
  })

  it('is made from a kept rule', async () => {
    const { draft, wrapper, open } = part([], undefined, {})
    await open()
    await vi.waitFor(() => expect(wrapper.text()).toContain('Sluice keys'))
    await button(wrapper, 'Sluice keys').trigger('click')
    expect(draft.audience.parts[0]).toMatchObject({ kind: 'rule', name: 'Sluice keys' })
    expect(wrapper.emitted('made')).toEqual([[0]])
  })
})

describe('a list', () => {
  it('is looked through before it becomes parts', async () => {
    serve({
      'POST /api/plan/list': () => ({
        people: [4],
        addresses: ['+447700900123', 'new@example.org'],
        known: 1,
        unclear: [{ line: 2, text: 'nobody', problem: 'is nobody’s name' }],
      }),
    })
    const wrapper = mount(ListDrawer, { props: { modelValue: undefined }, global: global() })
    await wrapper.setProps({ modelValue: '07700 900123, new@example.org' })
    await vi.waitFor(() => expect(wrapper.text()).toContain('2 addresses: 1 on the roster, 1 not'))
    expect(wrapper.text()).toContain('line 2: nobody')
    await button(wrapper, 'Add 3 people').trigger('click')
    expect(wrapper.emitted('add')).toEqual([
      [
        [
          { kind: 'addresses', addresses: ['+447700900123', 'new@example.org'] },
          { kind: 'people', people: [4] },
        ],
      ],
    ])
  })
})

describe('templates', () => {
  const shelf = [
    {
      id: 7,
      kind: 'template',
      name: 'Outing',
      own: false,
      unit: 0,
      shared: 'everybody',
      by: 'Naya',
      at: '2026-11-25T08:00:00Z',
      mine: true,
      blanks: ['day'],
      content: { ...emptyDraft(), email: 'On {{ask: day}}' },
      plain: 'On {{ask: day}}',
    },
  ]

  it('ask for what they leave open and keep the audience', async () => {
    const asked = serve({
      'GET /api/session': () => session,
      'GET /api/choices': () => choices,
      'GET /api/shelf': () => shelf,
      'POST /api/shelf/7/use': () => ({ ...emptyDraft(), subject: 'Outing', email: 'On Monday' }),
      'POST /api/shelf': () => shelf,
    })
    const draft = reactive<Draft>({
      ...emptyDraft(),
      audience: { parts: [{ kind: 'role', role: 'staff' }], receivers: 'both' },
    })
    const wrapper = mount(ShelfDrawer, { props: { modelValue: false, draft }, global: global() })
    await wrapper.setProps({ modelValue: true })
    await vi.waitFor(() => expect(wrapper.text()).toContain('Outing'))
    await button(wrapper, 'Outing').trigger('click')
    await wrapper.get('input[aria-label=day]').setValue('Monday')
    await wrapper.get('form.blanks').trigger('submit')
    await vi.waitFor(() => expect(draft.email).toBe('On Monday'))
    expect(asked.find((a) => a.call === 'POST /api/shelf/7/use')?.body).toEqual({ values: { day: 'Monday' } })
    expect(draft.audience.parts).toEqual([{ kind: 'role', role: 'staff' }])

    await wrapper.setProps({ modelValue: false })
    await wrapper.setProps({ modelValue: true })
    await wrapper.get('input[aria-label="Name of the template"]').setValue('Mine')
    await wrapper.get('select[aria-label="For whom"]').setValue('3')
    await wrapper.get('form.keep').trigger('submit')
    await vi.waitFor(() =>
      expect(asked.find((a) => a.call === 'POST /api/shelf')?.body).toMatchObject({
        kind: 'template',
        name: 'Mine',
        own: false,
        unit: 3,
      }),
    )
  })

  it('are not the only way back: a draft has a history', async () => {
    serve({
      'GET /api/session': () => session,
      'GET /api/messages/3/versions': () => [
        {
          id: 2,
          by: 'Naya',
          at: '2026-11-25T08:05:00Z',
          title: 'Outing',
          plain: 'now',
          draft: { ...emptyDraft(), email: 'now' },
        },
        {
          id: 1,
          by: 'Naya',
          at: '2026-11-25T08:00:00Z',
          title: 'Outing',
          plain: 'before',
          draft: { ...emptyDraft(), email: 'before' },
        },
      ],
    })
    const draft = reactive<Draft>({ ...emptyDraft(), email: 'now', spread: 5 })
    const wrapper = mount(HistoryDrawer, { props: { modelValue: false, draft, id: 3 }, global: global() })
    await wrapper.setProps({ modelValue: true })
    await vi.waitFor(() => expect(wrapper.text()).toContain('as it is now'))
    await button(wrapper, 'Bring this wording back').trigger('click')
    expect(draft).toMatchObject({ email: 'before', spread: 5 })
  })
})

describe('the call', () => {
  const face = (draft: Draft, upload = vi.fn()) =>
    mount(VoiceFace, {
      props: {
        modelValue: draft,
        goes: 'goes to 7 people',
        takes: 'about 12 s',
        fields: [],
        text: 'Come to the lock',
        stale: false,
        upload,
        languages: [
          { value: 'en', title: 'English' },
          { value: 'so', title: 'Somali' },
        ],
      },
      global: global(),
    })

  it('plays another recording to readers of a language', async () => {
    serve({ 'GET /api/session': () => session })
    const draft = reactive<Draft>(emptyDraft())
    const wav = { hash: 'c', name: 'somali.wav', type: 'audio/wav', size: 1, seconds: 8 }
    const wrapper = face(draft, vi.fn().mockResolvedValueOnce(wav))
    await button(wrapper, 'Change').trigger('click')
    await wrapper.get('select[aria-label="Whose recording"]').setValue('so')
    const input = wrapper.get<HTMLInputElement>('input[aria-label="Recording for a language"]')
    Object.defineProperty(input.element, 'files', { value: [new File(['x'], 'somali.wav')] })
    await input.trigger('change')
    await vi.waitFor(() => expect(draft.voice?.others).toEqual([{ ...wav, language: 'so' }]))
    expect(wrapper.text()).toContain('recorded for readers of Somali')
    await button(wrapper, 'Take away').trigger('click')
    expect(draft).not.toHaveProperty('voice')
  })

  it('takes keys that are not the same', async () => {
    serve({ 'GET /api/session': () => session })
    const draft = reactive<Draft>(emptyDraft())
    const wrapper = face(draft)
    await button(wrapper, 'Change').trigger('click')
    const [repeat, confirm] = wrapper.findAll('select').slice(-2)
    await repeat!.setValue('2')
    expect(confirm!.find('option[disabled]').text()).toBe('2')
    await confirm!.setValue('1')
    expect(draft.voice).toEqual({ repeatKey: '2', confirmKey: '1' })
    await repeat!.setValue('')
    await confirm!.setValue('')
    expect(draft).not.toHaveProperty('voice')
  })

  it('plays a recording, if it is one', async () => {
    serve({ 'GET /api/session': () => session })
    const draft = reactive<Draft>(emptyDraft())
    const upload = vi
      .fn()
      .mockResolvedValueOnce({ hash: 'a', name: 'a.pdf', type: 'application/pdf', size: 1, seconds: 0 })
      .mockResolvedValueOnce({ hash: 'b', name: 'flood.wav', type: 'audio/wav', size: 1, seconds: 9 })
    const wrapper = face(draft, upload)
    await button(wrapper, 'Change').trigger('click')
    const input = wrapper.get('input[type=file]')
    Object.defineProperty(input.element, 'files', { value: [new File(['x'], 'x')] })
    await input.trigger('change')
    await vi.waitFor(() => expect(wrapper.get('[role=alert]').text()).toContain('Save it as WAV'))
    await input.trigger('change')
    await vi.waitFor(() => expect(wrapper.text()).toContain('flood.wav, 9 s'))
    expect(draft.voice).toMatchObject({ seconds: 9, recording: { hash: 'b' } })
    await button(wrapper, 'Read aloud instead').trigger('click')
    expect(draft).not.toHaveProperty('voice')
  })

  it('says why it cannot be heard', async () => {
    serve({
      'GET /api/session': () => session,
      'POST /api/listen': () => problem(422, 'There is no voice for this language.'),
    })
    const wrapper = face(reactive<Draft>(emptyDraft()))
    await button(wrapper, 'Listen').trigger('click')
    await vi.waitFor(() => expect(wrapper.get('[role=alert]').text()).toContain('no voice for this language'))
  })
})

describe('names', () => {
  it('stand behind a figure', async () => {
    const asked = serve({
      'POST /api/plan/people': () => ({
        people: [{ id: 1, name: 'Di Venn', detail: 'no way to reach them' }],
        all: 1,
      }),
    })
    const wrapper = mount(PeopleDrawer, {
      props: { modelValue: undefined, asked: JSON.stringify(emptyDraft()), draftId: 7 },
      global: global(),
    })
    await wrapper.setProps({
      modelValue: { title: 'No way', reason: 'no-address', note: 'Ask for their details.' },
    })
    await vi.waitFor(() => expect(wrapper.text()).toContain('Di Venn'))
    expect(wrapper.text()).toContain('Ask for their details.')
    expect(asked).toHaveLength(1)
    const ways = () => wrapper.findAll('.out a').map((a) => a.attributes('href'))
    expect(ways()).toEqual(['/people/sheets?ids=1', '/write/7/letters'])

    await wrapper.setProps({ modelValue: { title: 'No content', reason: 'no-content' } })
    await vi.waitFor(() => expect(ways()).toEqual(['/write/7/letters']))
    await wrapper.get('.out button').trigger('click')
    expect(wrapper.emitted('steps')).toHaveLength(1)
  })
})

describe('a push', () => {
  const face = (draft: Draft) =>
    mount(PushFace, {
      props: {
        modelValue: draft,
        goes: 'goes to 8 people',
        carried: aChannel({ bytes: 1279 }),
        heard: { quiet: true, usuallyQuiet: true },
        fields: [],
        text: 'Come to the lock',
        stale: false,
      },
      global: global(),
    })

  it('follows the subject and the text until it has words of its own', async () => {
    const draft = reactive<Draft>({ ...emptyDraft(), subject: 'Outing' })
    const wrapper = face(draft)
    await button(wrapper, 'Change').trigger('click')
    const title = wrapper.get<HTMLInputElement>('input')
    expect(title.element.value).toBe('Outing')
    expect(wrapper.text()).toContain('1,279 of 3,700 bytes')
    await title.setValue('Go')
    expect(draft.push).toEqual({ own: true, title: 'Go', body: 'Come to the lock' })
    await button(wrapper, 'Follow the subject').trigger('click')
    expect(draft).not.toHaveProperty('push')
  })

  it('says what is seen: quiet as the urgency has it, or as it is told', async () => {
    const draft = reactive<Draft>(emptyDraft())
    const wrapper = face(draft)
    await button(wrapper, 'Change').trigger('click')
    expect(wrapper.text()).toContain('without a sound')
    expect(wrapper.text()).toContain('as the urgency has it: quiet')
    await wrapper.get('select').setValue('interrupts')
    await wrapper.setProps({ heard: { quiet: false, usuallyQuiet: true } })
    expect(wrapper.text()).toContain('stays on the screen until it is touched')
    await wrapper.get('input[type=url]').setValue(' https://quillmere.example/rota ')
    await wrapper.get('input[type=checkbox]').setValue(true)
    expect(draft.push).toEqual({ sound: 'interrupts', link: 'https://quillmere.example/rota', badge: true })
  })
})

describe('why somebody is here', () => {
  it.each([
    ['the path', { why: 'In U14.', leftOut: '' }, 'Naya: In U14.'],
    [
      'what keeps them out',
      { why: '', leftOut: 'Named, but gets nothing: away.' },
      'Naya: Named, but gets nothing: away.',
    ],
    ['the plainest case', { why: '', leftOut: '' }, 'Naya: Reached on the first step.'],
  ])('is answered with %s', async (_, answer, said) => {
    serve({ 'POST /api/plan/preview': () => answer })
    const wrapper = mount(WhyBox, {
      props: { asked: JSON.stringify(emptyDraft()) },
      global: {
        ...global(),
        stubs: {
          FindBox: { template: `<button @click="$emit('pick', { kind: 'person', id: 3, name: 'Naya' })" />` },
        },
      },
    })
    await wrapper.get('button').trigger('click')
    await vi.waitFor(() => expect(wrapper.get('[role=status]').text().replace(/\s+/g, ' ')).toBe(said))
  })
})
