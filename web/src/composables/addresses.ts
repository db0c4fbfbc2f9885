import type { Schemas } from '@/api/client'

type Address = Schemas['AddressView']

/** An address with every channel that it serves: one number takes both texts and calls. */
export type SharedAddress = Address & { channels: Address['channel'][] }

export function together(addresses: Address[]): SharedAddress[] {
  const byValue = new Map<string, SharedAddress>()
  for (const a of addresses) {
    const seen = byValue.get(a.value)
    if (seen) seen.channels.push(a.channel)
    else byValue.set(a.value, { ...a, channels: [a.channel] })
  }
  return [...byValue.values()]
}
