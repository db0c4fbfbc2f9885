import { expect, it } from 'vitest'
import { together, type SharedAddress } from './addresses'

const address = (channel: SharedAddress['channel'], value: string) => ({
  channel,
  value,
  shown: value,
  label: '',
  health: 'untried' as const,
  declinesRoutine: false,
  declinesTimely: false,
})

it('a number that takes texts and calls is one address', () => {
  const list = together([address('text', '+44'), address('email', 'a@example.org'), address('voice', '+44')])
  expect(list.map((a) => [a.value, a.channels])).toEqual([
    ['+44', ['text', 'voice']],
    ['a@example.org', ['email']],
  ])
})
