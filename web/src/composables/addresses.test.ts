import { expect, it } from 'vitest'
import { emptyLine, toAddresses, together, toLines, type Address, type AddressView } from './addresses'

const view = (channel: AddressView['channel'], value: string): AddressView => ({
  channel,
  value,
  shown: value,
})

it('a number that takes texts and calls is one address', () => {
  const list = together([view('text', '+44'), view('email', 'a@example.org'), view('voice', '+44')])
  expect(list.map((a) => [a.value, a.channels])).toEqual([
    ['+44', ['text', 'voice']],
    ['a@example.org', ['email']],
  ])
})

it('lines and addresses turn into each other without loss', () => {
  const addresses: Address[] = [
    {
      channel: 'text',
      value: '+447700900417',
      label: 'mobile',
      declinesRoutine: true,
      declinesTimely: false,
    },
    {
      channel: 'voice',
      value: '+447700900417',
      label: 'mobile',
      declinesRoutine: true,
      declinesTimely: false,
    },
    {
      channel: 'email',
      value: 'a@example.org',
      label: 'work',
      declinesRoutine: false,
      declinesTimely: false,
      checkedOn: '2026-11-01',
    },
    {
      channel: 'voice',
      value: '+441632960001',
      label: 'landline',
      declinesRoutine: false,
      declinesTimely: false,
    },
    {
      channel: 'push',
      value: 'Van 2',
      label: 'vehicle terminal',
      declinesRoutine: false,
      declinesTimely: false,
      carrierStop: true,
    },
  ]
  const lines = toLines(addresses)
  expect(lines.map((l) => [l.kind, l.texts, l.calls, l.allowed])).toEqual([
    ['number', true, true, true],
    ['mail', false, false, true],
    ['number', false, true, true],
    ['device', false, false, false],
  ])
  expect(toAddresses(lines)).toEqual(addresses)
})

it('a number without any use is no address', () => {
  expect(toAddresses([{ ...emptyLine('number'), value: '1', texts: false, calls: false }])).toEqual([])
})
