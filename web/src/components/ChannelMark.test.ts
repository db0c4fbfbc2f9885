import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import ChannelMark from './ChannelMark.vue'

describe('a mark', () => {
  it('has a name for those who do not see it', () => {
    const mark = mount(ChannelMark, { props: { channel: 'text', state: 'failed' } })
    expect(mark.attributes('aria-label')).toBe('Text, failed for good')
    expect(mark.find('title').text()).toBe('Text, failed for good')
  })

  it('tells channels apart by shape', () => {
    const shape = (channel: 'email' | 'text' | 'voice') =>
      mount(ChannelMark, { props: { channel } }).find('path').attributes('d')
    expect(new Set([shape('email'), shape('text'), shape('voice')]).size).toBe(3)
  })

  it('tells stages apart without colour', () => {
    const look = (state: 'queued' | 'arrived' | 'failed' | 'answered' | 'stopped') => {
      const mark = mount(ChannelMark, { props: { channel: 'voice', state } })
      return [
        mark.find('path').attributes('fill') === 'none',
        mark.findAll('path')[1]?.attributes('d'),
      ].join()
    }
    const all = (['queued', 'arrived', 'failed', 'answered', 'stopped'] as const).map(look)
    expect(new Set(all).size).toBe(5)
  })
})
