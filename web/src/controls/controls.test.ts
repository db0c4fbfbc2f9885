import { mount } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { VSelect, VTextField } from 'vuetify/components'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { type Component } from 'vue'
import { vuetify } from '@/plugins/vuetify'
import { problem, serve } from '@/testkit'
import CheckBox from './CheckBox.vue'
import DayField from './DayField.vue'
import MonthPanel from './MonthPanel.vue'
import NumberField from './NumberField.vue'
import RadioBox from './RadioBox.vue'
import SelectField from './SelectField.vue'
import TimeField from './TimeField.vue'

afterEach(() => vi.unstubAllGlobals())

const session = { timeZone: 'Europe/London' }

/** A control with what it holds kept, as v-model would. */
function hold(control: Component, props: Record<string, unknown>) {
  const wrapper = mount(control, {
    props: {
      ...props,
      'onUpdate:modelValue': (now: unknown) => wrapper.setProps({ modelValue: now }),
    },
    global: { plugins: [vuetify, [VueQueryPlugin, { queryClient: new QueryClient() }]] },
    attachTo: document.body,
  })
  return wrapper
}

describe('fields', () => {
  it('a number is a number, and nothing when nothing is typed', async () => {
    const wrapper = hold(NumberField, { modelValue: 5, min: 0 })
    const input = wrapper.get<HTMLInputElement>('input')
    expect(input.element.value).toBe('5')
    expect(input.attributes('min')).toBe('0')
    await input.setValue('12')
    expect(wrapper.props('modelValue')).toBe(12)
    await input.setValue('')
    expect(wrapper.props('modelValue')).toBeUndefined()
  })

  it('a select gives the value of what was chosen', async () => {
    const wrapper = hold(SelectField, {
      modelValue: 0,
      items: [
        { value: 0, title: 'nothing' },
        { value: 7, title: 'Rowing' },
      ],
      'aria-label': 'Unit',
    })
    expect(wrapper.text()).toContain('nothing')
    wrapper.getComponent(VSelect).vm.$emit('update:modelValue', 7)
    await vi.waitFor(() => expect(wrapper.text()).toContain('Rowing'))
    expect(wrapper.find('[aria-label="Unit"]').exists()).toBe(true)
  })

  it('a box is ticked, alone or as one of several', async () => {
    const alone = hold(CheckBox, { modelValue: false })
    await alone.get('input').setValue(true)
    expect(alone.props('modelValue')).toBe(true)
    const several = hold(CheckBox, { modelValue: [1], value: 2 })
    await several.get('input').setValue(true)
    expect(several.props('modelValue')).toEqual([1, 2])
  })

  it('a dot takes its own value', async () => {
    const wrapper = hold(RadioBox, { modelValue: 'a', value: 'b' })
    await wrapper.get('input').setValue(true)
    expect(wrapper.props('modelValue')).toBe('b')
  })
})

describe('a moment', () => {
  it('is read by the server, with what is odd about it', async () => {
    serve({
      'GET /api/session': () => session,
      'GET /api/moments': () => ({ at: '2026-10-25T00:30:00Z', note: 'twice' }),
    })
    const wrapper = hold(TimeField, {})
    await wrapper.get('input').setValue('25 Oct 1:30')
    await wrapper.get('input').trigger('change')
    await vi.waitFor(() => expect(wrapper.text()).toContain('Clocks are put back that night'))
    expect(wrapper.props('modelValue')).toBe('2026-10-25T00:30:00Z')
    expect(wrapper.get('input').element.value).toContain('25 Oct 2026')
    expect(wrapper.get('input').element.value).toContain('01:30')
  })

  it('keeps what cannot be read, and says why', async () => {
    serve({
      'GET /api/session': () => session,
      'GET /api/moments': () => problem(422, 'This cannot be read.'),
    })
    const wrapper = hold(TimeField, { modelValue: '2026-10-25T00:30:00Z' })
    await vi.waitFor(() => expect(wrapper.get('input').element.value).toContain('01:30'))
    await wrapper.get('input').setValue('soon')
    await wrapper.get('input').trigger('change')
    await vi.waitFor(() => expect(wrapper.text()).toContain('This cannot be read.'))
    expect(wrapper.get('input').element.value).toBe('soon')
    expect(wrapper.props('modelValue')).toBe('2026-10-25T00:30:00Z')
  })

  it('is none when it is emptied', async () => {
    serve({ 'GET /api/session': () => session })
    const wrapper = hold(TimeField, { modelValue: '2026-10-25T00:30:00Z' })
    await wrapper.get('input').setValue('')
    await wrapper.get('input').trigger('change')
    await vi.waitFor(() => expect(wrapper.props('modelValue')).toBeUndefined())
  })

  it('a day that cannot be read stays as it was typed, so that whoever saves it is told', async () => {
    serve({ 'GET /api/days': () => problem(422, 'This is no day.') })
    const wrapper = hold(DayField, { modelValue: '2014-05-12' })
    expect(wrapper.getComponent(VTextField).props('modelValue')).toBe('12 May 2014')
    await wrapper.get('input').setValue('in May')
    await wrapper.get('input').trigger('change')
    await vi.waitFor(() => expect(wrapper.text()).toContain('This is no day.'))
    expect(wrapper.props('modelValue')).toBe('in May')
  })
})

describe('a month', () => {
  const month = {
    first: '2026-12-01',
    today: '2026-12-02',
    days: ['2026-12-01', '2026-12-02', '2026-12-25'].map((day) => ({
      day,
      holiday: day.endsWith('25') ? 'Christmas Day' : '',
      leaves: day.endsWith('02') ? [{ message: 3, title: 'Rota', at: '2026-12-02T18:00:00Z' }] : [],
    })),
    quiet: [{ channel: 'text', from: '21:00', to: '07:00' }],
    usual: ['tomorrow 07:30'],
  }

  it('shows what leaves, holidays, quiet hours and usual moments', async () => {
    const asked = serve({ 'GET /api/session': () => session, 'GET /api/months': () => month })
    const wrapper = hold(MonthPanel, { chosen: '2026-12-01', moment: true, usual: true })
    await vi.waitFor(() => expect(wrapper.text()).toContain('December 2026'))
    expect(wrapper.get('.notes').text()).toContain('18:00 Rota')
    expect(wrapper.get('.notes').text()).toContain('Christmas Day')
    expect(wrapper.text()).toContain('Text waits from 21:00 to 07:00')
    await wrapper.get('.usual button').trigger('click')
    await wrapper.get('.days .holiday').trigger('click')
    expect(wrapper.emitted('pick')).toEqual([['tomorrow 07:30'], ['2026-12-25']])
    await wrapper.get('[aria-label="The month after"]').trigger('click')
    await vi.waitFor(() => expect(asked.filter((a) => a.call === 'GET /api/months')).toHaveLength(2))
  })

  it('for a day of the roster shows holidays only', async () => {
    serve({ 'GET /api/session': () => session, 'GET /api/months': () => month })
    const wrapper = hold(MonthPanel, { chosen: '' })
    await vi.waitFor(() => expect(wrapper.text()).toContain('Christmas Day'))
    expect(wrapper.text()).not.toContain('Rota')
    expect(wrapper.find('.usual').exists()).toBe(false)
  })
})
