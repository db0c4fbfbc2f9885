import { mount } from '@vue/test-utils'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { pass, serve } from '@/testkit'
import FindBox from './FindBox.vue'

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const found = {
  groups: [
    { id: 1, name: 'Junior squads', people: 150 },
    { id: 2, name: 'Coaches', people: 18 },
  ],
  units: [],
  roles: [{ role: 'staff', people: 30 }],
  people: [],
  messages: [],
}

async function box() {
  serve({ 'GET /api/find': () => found })
  const wrapper = mount(FindBox, {
    props: { kinds: ['group', 'role'], label: 'Add', second: 'leave out' },
    global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] },
  })
  await wrapper.get('input').trigger('focus')
  await pass(200)
  return wrapper
}

it('offers everything and picks with the keyboard', async () => {
  const wrapper = await box()
  expect(wrapper.findAll('[role=option]')).toHaveLength(3)
  await wrapper.get('input').trigger('keydown', { key: 'ArrowDown' })
  await wrapper.get('input').trigger('keydown', { key: 'Enter' })
  expect(wrapper.emitted('pick')?.[0]?.[0]).toMatchObject({ kind: 'group', name: 'Coaches' })
})

it('waits for the answer rather than take what stood there before', async () => {
  const wrapper = await box()
  await wrapper.get('input').setValue('coach')
  await wrapper.get('input').trigger('keydown', { key: 'Enter', shiftKey: true })
  expect(wrapper.emitted('second')).toBeUndefined()
  await pass(400)
  expect(wrapper.emitted('second')?.[0]?.[0]).toMatchObject({ name: 'Coaches' })
  expect(wrapper.emitted('pick')).toBeUndefined()
})

it('closes with Escape and says when there is nothing', async () => {
  const wrapper = await box()
  await wrapper.get('input').setValue('zzz')
  await pass(400)
  expect(wrapper.text()).toContain('Nothing by that name')
  await wrapper.get('input').trigger('keydown', { key: 'Escape' })
  expect(wrapper.find('[role=listbox]').exists()).toBe(false)
})
