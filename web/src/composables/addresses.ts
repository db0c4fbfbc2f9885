import type { Channel, Schemas } from '@/api/client'

export type Address = Schemas['Address']
export type AddressView = Schemas['AddressView']

/** An address with every channel that it serves: one number takes both texts and calls. */
export type SharedAddress = AddressView & { channels: Channel[] }

export function together(addresses: AddressView[]): SharedAddress[] {
  const byValue = new Map<string, SharedAddress>()
  for (const a of addresses) {
    const seen = byValue.get(a.value)
    if (seen) seen.channels.push(a.channel)
    else byValue.set(a.value, { ...a, channels: [a.channel] })
  }
  return [...byValue.values()]
}

/** One line of the form: a mailbox, a number with what it takes, or a device. */
export interface AddressLine {
  key: number
  kind: 'mail' | 'number' | 'device'
  /** As it is typed; what is known already in the form that it is kept. */
  value: string
  label: string
  texts: boolean
  calls: boolean
  /** Of a device: whether it lets itself be pushed to. */
  allowed: boolean
  declinesRoutine: boolean
  declinesTimely: boolean
  checkedOn: string
  /** What the program learned, by channel; it is not typed. */
  known: Address[]
}

let lastKey = 0

export function emptyLine(kind: AddressLine['kind']): AddressLine {
  return {
    key: ++lastKey,
    kind,
    value: '',
    label: kind === 'mail' ? 'email' : kind === 'number' ? 'mobile' : 'phone',
    texts: kind === 'number',
    calls: kind === 'number',
    allowed: true,
    declinesRoutine: false,
    declinesTimely: false,
    checkedOn: '',
    known: [],
  }
}

const kindOf = (c: Channel): AddressLine['kind'] =>
  c === 'email' ? 'mail' : c === 'push' ? 'device' : 'number'

export function toLines(addresses: Address[]): AddressLine[] {
  const lines: AddressLine[] = []
  for (const a of addresses) {
    let line = lines.find((l) => l.value === a.value && l.kind === kindOf(a.channel))
    if (!line) {
      line = {
        ...emptyLine(kindOf(a.channel)),
        value: a.value,
        label: a.label ?? '',
        texts: false,
        calls: false,
      }
      lines.push(line)
    }
    line.texts ||= a.channel === 'text'
    line.calls ||= a.channel === 'voice'
    line.allowed = !(a.channel === 'push' && a.carrierStop)
    line.declinesRoutine ||= a.declinesRoutine ?? false
    line.declinesTimely ||= a.declinesTimely ?? false
    line.checkedOn ||= a.checkedOn ?? ''
    line.known.push(a)
  }
  return lines
}

export function toAddresses(lines: AddressLine[]): Address[] {
  return lines.flatMap((line) => {
    const channels: Channel[] =
      line.kind === 'mail'
        ? ['email']
        : line.kind === 'device'
          ? ['push']
          : ([line.texts && 'text', line.calls && 'voice'].filter(Boolean) as Channel[])
    return channels.map((channel) => ({
      channel,
      value: line.value,
      label: line.label,
      declinesRoutine: line.declinesRoutine,
      declinesTimely: line.declinesTimely,
      ...(line.checkedOn ? { checkedOn: line.checkedOn } : {}),
      ...(line.kind === 'device' && !line.allowed ? { carrierStop: true } : {}),
    }))
  })
}
