import { mount } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { nextTick, reactive } from 'vue'
import type { Channel, Draft, Part, Plan } from '@/api/client'
import { aPlan, onTheShelf } from '@/testkit/examples'
import { emptyDraft } from '@/composables/draft'
import { contentOf, sayAs } from '@/composables/shelf'
import { serve } from '@/testkit'
import ContactLoad from './ContactLoad.vue'
import EmergencyBand from './EmergencyBand.vue'
import FieldChips from './FieldChips.vue'
import FileList from './FileList.vue'
import FinalCheck from './FinalCheck.vue'
import SenderBox from './SenderBox.vue'
import StepEditor from './StepEditor.vue'
import TextMeter from './TextMeter.vue'
import TimeBox from './TimeBox.vue'

afterEach(() => vi.unstubAllGlobals())

const stubs = {
  VBtn: { template: '<button><slot /></button>' },
  VIcon: true,
  VDialog: { template: '<div><slot /></div>' },
}
const withQueries = { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] as never, stubs }

describe('the ladder', () => {
  it('moves a channel with the arrow keys', async () => {
    const ladder: Channel[][] = [['email'], ['text'], ['voice']]
    const wrapper = mount(StepEditor, {
      props: {
        modelValue: ladder,
        name: '',
        'onUpdate:modelValue': (now: Channel[][]) => wrapper.setProps({ modelValue: now }),
      },
    })
    await wrapper.get('[data-channel=text]').trigger('keydown', { key: 'ArrowUp' })
    await nextTick()
    expect(wrapper.props('modelValue')).toEqual([['email', 'text'], ['voice']])
    expect(wrapper.get('[role=status]').text()).toBe('Text is on step 1')
    await wrapper.get('[data-channel=voice]').trigger('keydown', { key: 'ArrowDown' })
    expect(wrapper.props('modelValue')).toEqual([['email', 'text']])
    await wrapper.get('[data-channel=voice]').trigger('keydown', { key: 'ArrowUp' })
    expect(wrapper.props('modelValue')).toEqual([['email', 'text'], ['voice']])
  })
})

describe('the final check', () => {
  const check = (over: Partial<Plan>) =>
    mount(FinalCheck, {
      props: { modelValue: true, plan: aPlan(over), title: 'Outing', sending: false, problem: '' },
      global: { stubs },
    })

  it('asks for the number where it must be typed', async () => {
    const wrapper = check({ confirm: true })
    const send = wrapper.findAll('button').at(-1)!
    expect(send.attributes('disabled')).toBeDefined()
    await wrapper.get('input').setValue('93')
    expect(send.attributes('disabled')).toBeDefined()
    await wrapper.get('input').setValue('94')
    expect(send.attributes('disabled')).toBeUndefined()
    await wrapper.get('form').trigger('submit')
    expect(wrapper.emitted('send')).toEqual([[94]])
  })

  it('asks for somebody else’s yes, and says it', async () => {
    const wrapper = check({ secondYes: true })
    expect(wrapper.find('input').exists()).toBe(false)
    expect(wrapper.findAll('button').at(-1)!.text()).toBe('Ask for a second yes')
    await wrapper.get('form').trigger('submit')
    expect(wrapper.emitted()).toMatchObject({ ask: [[]] })
    await wrapper.setProps({ asker: 'Hugo' })
    expect(wrapper.get('h2').text()).toContain('Hugo asks for your yes')
    expect(wrapper.findAll('button').at(-1)!.text()).toBe('Say yes and send to 94 people')
    await wrapper.get('form').trigger('submit')
    expect(wrapper.emitted('send')).toHaveLength(1)
  })

  it('waits for readings when it is told to', async () => {
    vi.stubGlobal('fetch', () => Promise.resolve(Response.json({ timeZone: 'Europe/London' })))
    const wrapper = mount(FinalCheck, {
      props: {
        modelValue: false,
        plan: aPlan(),
        title: 'Outing',
        sending: false,
        problem: '',
        readers: ['Piotr (Polish)'],
      },
      global: { stubs: { ...stubs, TimeField: true }, plugins: [[VueQueryPlugin, {}]] as never },
    })
    await wrapper.setProps({ modelValue: true })
    const send = wrapper.findAll('button').at(-1)!
    expect(send.text()).toBe('Send to 94 people')
    await wrapper.get('input[type=checkbox]').setValue(true)
    expect(send.text()).toBe('Wait, then send to 94 people')
    await wrapper.get('form').trigger('submit')
    const [typed, until] = wrapper.emitted<[number, string]>('await')![0]!
    expect(typed).toBe(0)
    expect(Date.parse(until)).toBeGreaterThan(Date.now())
    expect(wrapper.emitted('send')).toBeUndefined()
  })

  it('leads to where a warning is mended', async () => {
    const wrapper = check({
      problems: [
        { code: 'odd-date', sentence: '“3 May” is past.', mend: 'email', blocks: false },
        { code: 'no-content', sentence: 'There is nothing to send yet.', mend: 'email', blocks: true },
      ],
    })
    expect(wrapper.findAll('.warnings li')).toHaveLength(1)
    await wrapper.get('.warnings button').trigger('click')
    expect(wrapper.emitted('mend')).toEqual([['email']])
  })
})

describe('an emergency', () => {
  it('keeps its reason and can be exercised', async () => {
    const draft = reactive<Draft>({ ...emptyDraft(), urgency: 'emergency' })
    const wrapper = mount(EmergencyBand, { props: { draft, plan: aPlan({ overridden: 3, unquiet: 0 }) } })
    expect(wrapper.text()).toContain('3 people who declined other messages get it')
    await wrapper.get('input[maxlength]').setValue('Flood')
    await wrapper.get('input[type=checkbox]').setValue(true)
    expect(draft).toMatchObject({ reason: 'Flood', practice: true })
    await wrapper.get('input[maxlength]').setValue('')
    await wrapper.get('input[type=checkbox]').setValue(false)
    expect(draft).not.toHaveProperty('reason')
    expect(draft).not.toHaveProperty('practice')
  })
})

describe('fields', () => {
  it('are inserted with words for when nothing fills them', async () => {
    const wrapper = mount(FieldChips, { props: { fields: ['first name', 'unit', 'a', 'b', 'swim test'] } })
    await wrapper.findAll('.chip')[1]!.trigger('click')
    await wrapper.get('.link').trigger('click')
    await wrapper.get('select').setValue('swim test')
    await wrapper.get('input').setValue('due')
    await wrapper.get('form').trigger('submit')
    expect(wrapper.emitted('insert')).toEqual([['{{unit}}'], ['{{swim test, else due}}']])
  })

  it('stand beside quick texts', async () => {
    const quick = [onTheShelf({ content: { ...onTheShelf().content, email: 'East side only.' } })]
    const wrapper = mount(FieldChips, { props: { fields: [], quick } })
    await wrapper.get('select').setValue('7')
    expect(wrapper.emitted('put')).toEqual([['East side only.']])
  })
})

describe('files', () => {
  it('are listed with their sizes and taken away, those in the text not', async () => {
    const draft = reactive<Draft>({
      ...emptyDraft(),
      email: { type: 'doc', content: [{ type: 'image', attrs: { src: 'file:' + 'a'.repeat(64) } }] },
      files: [
        { hash: 'a'.repeat(64), name: 'lock.png', type: 'image/png', size: 1500 },
        { hash: 'b'.repeat(64), name: 'map.pdf', type: 'application/pdf', size: 2_500_000 },
      ],
    })
    const languages = [
      { value: 'en', title: 'English' },
      { value: 'pl', title: 'Polish' },
    ]
    const wrapper = mount(FileList, { props: { modelValue: draft, languages }, global: { stubs } })
    expect(wrapper.text()).toContain('in the text')
    expect(wrapper.text()).toContain('2 files, 2.5 MB')
    expect(wrapper.findAll('select')).toHaveLength(1)
    const who = wrapper.get('select[aria-label="Who gets map.pdf"]')
    await who.setValue('pl')
    expect(draft.files![1]).toMatchObject({ name: 'map.pdf', language: 'pl' })
    await who.setValue('')
    expect(draft.files![1]).not.toHaveProperty('language')
    await wrapper.get('button[aria-label="Take away map.pdf"]').trigger('click')
    expect(draft.files).toHaveLength(1)
  })
})

describe('the text', () => {
  const meter = (over: object) =>
    aPlan({
      meter: {
        alphabet: 'ucs2',
        least: 1,
        most: 2,
        total: 40,
        room: 3,
        saves: 0,
        shorten: 0,
        shortens: 0,
        swapped: 'a - b',
        forces: [],
        ...over,
      },
    })

  it('says how little would save parts, and swaps what forces the long alphabet', async () => {
    const wrapper = mount(TextMeter, {
      props: {
        plan: meter({
          shorten: 3,
          shortens: 12,
          saves: 20,
          forces: [{ character: '–', times: 1, replacement: '-' }],
        }),
        text: 'a – b',
        stale: false,
      },
    })
    expect(wrapper.text()).toContain('3 characters fewer save 12 parts')
    expect(wrapper.text()).toContain('save 20 parts')
    await wrapper.get('.tip button').trigger('click')
    expect(wrapper.emitted('swap')).toEqual([['a - b']])
  })
})

describe('what people were sent', () => {
  it('spares those who had enough', async () => {
    const draft = reactive<Draft>(emptyDraft())
    const load = { routine: 6, timely: 1, emergency: 0, most: 4, over: 2, limit: 4 }
    const wrapper = mount(ContactLoad, { props: { draft, load } })
    expect(wrapper.text()).toContain('7 messages: 6 routine, 1 timely')
    await wrapper.get('button').trigger('click')
    expect(wrapper.emitted('over')).toHaveLength(1)
    await wrapper.get('input').setValue(true)
    expect(draft.spare).toBe(true)
    await wrapper.get('input').setValue(false)
    expect(draft).not.toHaveProperty('spare')
  })
})

describe('the sender', () => {
  it('changes name, numbers and where replies go', async () => {
    const draft = reactive<Draft>(emptyDraft())
    const sender = {
      names: ['Club', 'Naya'],
      numbers: ['+447700900100'],
      shown: ['+44 7700 900100'],
      desk: 'Club office',
      desks: [{ id: 7, name: 'Club office' }],
      replies: 'office@quillmere.example',
      own: 'naya@quillmere.example',
      prefix: '[Juniors]',
      footer: '',
      inUse: [],
    }
    const wrapper = mount(SenderBox, { props: { draft, plan: aPlan({ sender }) } })
    expect(wrapper.text()).toContain('subject begins with [Juniors]')
    await wrapper.get('button').trigger('click')
    const [name, number, , reply] = wrapper.findAll('select')
    await name!.setValue('Naya')
    await number!.setValue('+447700900100')
    expect(wrapper.text()).toContain('Answers come to the desk Club office')
    await reply!.setValue('7')
    expect(draft.desk).toBe(7)
    await reply!.setValue('-1')
    expect(draft).not.toHaveProperty('desk')
    expect(draft).toMatchObject({
      from: { name: 'Naya', number: '+447700900100' },
      replyTo: 'naya@quillmere.example',
    })
    await name!.setValue('')
    await number!.setValue('')
    await reply!.setValue('0')
    expect(draft).not.toHaveProperty('from')
    expect(draft).not.toHaveProperty('replyTo')
  })
})

describe('when it leaves', () => {
  it('is now, or at a time of its own', async () => {
    serve({
      'GET /api/session': () => ({ timeZone: 'Europe/London', holdSeconds: 30 }),
    })
    const draft = reactive<Draft>(emptyDraft())
    const wrapper = mount(TimeBox, { props: { draft, plan: aPlan({}) }, global: withQueries })
    await wrapper.findAll('button').at(0)!.trigger('click')
    await wrapper.get('input').setValue('2026-10-25T00:30:00Z')
    expect(draft.sendAt).toBe('2026-10-25T00:30:00Z')
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Now instead')!
      .trigger('click')
    expect(draft).not.toHaveProperty('sendAt')
  })
})

describe('a template', () => {
  it('changes what a draft says and nothing else', () => {
    const parts: Part[] = [{ kind: 'group', group: 1 }]
    const draft: Draft = {
      ...emptyDraft(),
      audience: { parts, receivers: 'both' },
      files: [],
      voice: { own: true },
      sendAt: 'x',
    }
    const question = { choices: [{ words: 'Yes' }, { words: 'No' }] }
    sayAs(draft, { ...emptyDraft(), subject: 'Outing', email: 'Come', question })
    expect(contentOf(draft).question).toEqual(question)
    expect(draft).toMatchObject({
      subject: 'Outing',
      email: 'Come',
      audience: { parts, receivers: 'both' },
      sendAt: 'x',
    })
    expect(draft).not.toHaveProperty('voice')
    expect(draft).not.toHaveProperty('files')
  })
})
