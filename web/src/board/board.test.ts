import { afterEach, describe, expect, it, vi } from 'vitest'
import { mount } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { reactive } from 'vue'
import { emptyDraft } from '@/composables/draft'
import { serve } from '@/testkit'
import { freeKeys } from '@/write/asking'
import QuestionFace from '@/write/QuestionFace.vue'
import CallList from './CallList.vue'
import { minutesOf, pilesOf, shareOf, sharesOf, toCall, type BoardView, type Mark } from './answers'

afterEach(() => vi.unstubAllGlobals())

const mark = (over: Partial<Mark>): Mark => ({
  recipient: over.person ?? 1,
  person: 1,
  name: 'Ola Nowak',
  stand: 'silent',
  answer: 0,
  minutes: 0,
  area: 0,
  groups: [],
  numbers: [],
  ...over,
})

const board = (marks: Mark[]): BoardView => ({
  title: 'Safe?',
  question: {
    choices: [{ words: 'Yes', means: 'counts' }, { words: 'Help', means: 'attend' }, { words: 'Away' }],
  },
  tally: { asked: 4, choices: [1, 1, 0], wrote: 0, silent: 1, onTheWay: 0, missed: 1, fills: 1, attend: 1 },
  unclear: 0,
  leftOut: 0,
  moving: false,
  marks,
  areas: [{ id: 7, name: 'North' }],
  groups: [
    { id: 1, name: 'All' },
    { id: 2, name: 'Key holders' },
  ],
  latest: [],
})

describe('a board', () => {
  const marks = [
    mark({ person: 1, stand: 'answered', answer: 1, area: 7, groups: [1, 2] }),
    mark({ person: 2, stand: 'answered', answer: 2, groups: [1] }),
    mark({ person: 3, name: 'Bo', numbers: ['+44 7700 900123'], groups: [1] }),
    mark({ person: 4, name: 'Zoe', stand: 'missed' }),
  ]

  it('shares out everybody, and leaves out what nobody did', () => {
    const shares = sharesOf(board(marks).question, board(marks).tally)
    expect(shares.map((s) => [s.key, s.people, s.look])).toEqual([
      ['1', 1, 'counts'],
      ['2', 1, 'attend'],
      ['3', 0, 'plain'],
      ['silent', 1, 'silent'],
      ['missed', 1, 'missed'],
    ])
    expect(marks.map(shareOf)).toEqual(['1', '2', 'silent', 'missed'])
  })

  it('piles marks by area and by group, nobody lost', () => {
    expect(pilesOf(board(marks), 'all')[0]?.marks).toHaveLength(4)
    expect(pilesOf(board(marks), 'area').map((p) => [p.name, p.marks.length, p.answered])).toEqual([
      ['North', 1, 1],
      ['No area', 3, 1],
    ])
    expect(pilesOf(board(marks), 'group').map((p) => [p.name, p.marks.length, p.answered])).toEqual([
      ['All', 3, 2],
      ['Key holders', 1, 1],
      ['In none of the groups', 1, 0],
    ])
  })

  it('leaves a group out that everybody is in, and nobody with it', () => {
    const all = marks.map((m) => ({ ...m, groups: [1, ...(m.answer === 1 ? [2] : [])] }))
    expect(pilesOf(board(all), 'group').map((p) => [p.name, p.marks.length])).toEqual([
      ['Key holders', 1],
      ['In no smaller group', 3],
    ])
  })

  it('says after how many minutes they come, the soonest first', () => {
    const late = [30, 5, 0].map((minutes, i) =>
      mark({ person: i + 1, stand: 'answered', answer: 1, minutes }),
    )
    expect(minutesOf(board(late), 1)).toBe('in 5, 30 min')
    expect(minutesOf(board(late), 2)).toBe('')
  })

  it('lists whom to call, those who were not reached first', () => {
    expect(toCall(board(marks)).map((m) => m.name)).toEqual(['Zoe', 'Bo'])
  })

  it('writes an answer down with one key, and no other key does', async () => {
    const asked = serve({ 'POST /api/messages/5/answers': () => ({}) })
    const wrapper = mount(CallList, {
      props: { message: 5, board: board(marks) },
      global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] as never },
      attachTo: document.body,
    })
    const first = wrapper.get('li')
    await first.trigger('keydown', { key: '4' })
    await first.trigger('keydown', { key: 'x' })
    await first.trigger('keydown', { key: '2' })
    await vi.waitFor(() => expect(asked).toHaveLength(1))
    expect(asked[0]!.body).toEqual({ person: 4, answer: 2 })
    expect(document.activeElement?.textContent).toContain('Bo')
    wrapper.unmount()
  })
})

describe('the answers to choose from', () => {
  it('begin with a question, mean something, and are taken away', async () => {
    const draft = reactive({ ...emptyDraft(), voice: { confirmKey: '1' as const, repeatKey: '9' as const } })
    serve({ 'GET /api/jobs': () => ({ jobs: [], templates: [] }) })
    const wrapper = mount(QuestionFace, {
      props: { modelValue: draft },
      global: {
        plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] as never,
        stubs: { VIcon: true, TextField: true, SelectField: true, NumberField: true },
      },
    })
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Are you safe?')!
      .trigger('click')
    expect(draft.question?.choices).toHaveLength(3)
    expect(draft.voice).toEqual({ repeatKey: '9' })
    await wrapper.get('[aria-label="Take answer 3 away"]').trigger('click')
    expect(draft.question?.choices.map((c) => c.words)).toEqual(['I am safe', 'I need help'])
    expect(wrapper.get('[aria-label="Take answer 1 away"]').attributes('disabled')).toBeDefined()
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Ask nothing')!
      .trigger('click')
    expect(draft.question).toBeUndefined()
    wrapper.unmount()
  })

  it('free no key that they do not take', () => {
    const draft = { ...emptyDraft(), voice: { confirmKey: '2' as const } }
    freeKeys(draft)
    expect(draft.voice).toEqual({ confirmKey: '2' })
  })
})
