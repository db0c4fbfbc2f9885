import { mount } from '@vue/test-utils'
import { reactive } from 'vue'
import { expect, it } from 'vitest'
import type { Draft, Plan } from '@/api/client'
import { emptyDraft } from '@/composables/draft'
import StepLadder from './StepLadder.vue'

const plan = (steps: string[][], people: number[]) =>
  ({
    recipients: people.reduce((a, b) => a + b, 0),
    steps: steps.map((channels, i) => ({ channels, people: people[i] })),
    defaultSteps: true,
  }) as unknown as Plan

function ladder() {
  const draft = reactive<Draft>(emptyDraft())
  const wrapper = mount(StepLadder, {
    props: { draft, plan: plan([['email'], ['text'], ['voice']], [3, 2, 0]), stale: false },
  })
  const put = async (channel: string, step: string) => {
    const row = wrapper.get(`[aria-label="Step of ${channel}"]`)
    await row
      .findAll('button')
      .find((b) => b.text() === step)
      ?.trigger('click')
  }
  return { draft, wrapper, put }
}

it('shows the steps and opens the people on one', async () => {
  const { wrapper } = ladder()
  const rungs = wrapper.findAll('.rung')
  expect(rungs.map((r) => r.find('.mark').attributes('aria-label'))).toEqual(['Email', 'Text', 'Voice'])
  await rungs[1]?.get('button').trigger('click')
  expect(wrapper.emitted('open')).toEqual([[2]])
  expect(rungs[2]?.get('button').attributes('disabled')).toBeDefined()
})

it('puts channels on the same step, closes gaps and switches off', async () => {
  const { draft, wrapper, put } = ladder()
  await wrapper.get('.change button').trigger('click')
  await put('Text', '1')
  expect(draft.steps).toEqual([['email', 'text'], ['voice']])
  await put('Email', 'off')
  expect(draft.steps).toEqual([['text'], ['voice']])
  await put('Voice', 'off')
  expect(draft.steps).toEqual([['text']])
})

it('says how many wishes are honoured, and passes over them when asked', async () => {
  const { draft, wrapper } = ladder()
  await wrapper.setProps({ plan: { ...plan([['email'], ['text']], [3, 2]), wished: 2 } })
  expect(wrapper.text()).toContain('2 of them by the channel they asked for first')
  await wrapper.get('.change button').trigger('click')
  const honour = wrapper.findAll('label').find((l) => l.text().startsWith('Honour wishes'))
  await honour?.get('input').setValue(false)
  expect(draft.unwished).toBe(true)
  draft.urgency = 'timely'
  await wrapper.vm.$nextTick()
  expect(wrapper.text()).not.toContain('Honour wishes')
})
