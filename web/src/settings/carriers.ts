import type { Channel, Schemas } from '@/api/client'

/** The channels whose carriers are set up here: pushes need none. */
export type Carried = Exclude<Channel, 'push'>
export type Carrier = Schemas['OwnCarrierView']
export type Setup = Schemas['Setup']

/** Changes something of the carriers; gives what was wrong, or ''. */
export type Run = (request: () => Promise<Schemas['CarriersView'] | void>) => Promise<string>

export const carriersKey = ['carriers']

/** Where a carrier takes messages, in a few words. */
export function whereWords({ server, gateway }: Setup): string {
  if (server) return `${server.host}:${server.port}`
  if (!gateway?.template) return gateway?.url ?? ''
  try {
    return (JSON.parse(gateway.template) as { url: string }).url
  } catch {
    return 'by a template'
  }
}

export interface Condition {
  words: string
  kind: 'good' | 'bad' | 'quiet'
}

/** How a carrier is, in a few words. */
export function conditionOf(c: Carrier, standIns: boolean): Condition {
  if (c.sealed) return { words: 'its secrets cannot be opened: type them again', kind: 'bad' }
  if (c.setup.rests) return { words: 'rests', kind: 'quiet' }
  if (c.trouble) return { words: 'in trouble', kind: 'bad' }
  if (!c.used) return { words: standIns ? 'set up, not used yet' : 'not used', kind: 'quiet' }
  if (c.next) return { words: 'takes the next one', kind: 'good' }
  if (c.setup.perDay && c.today >= c.setup.perDay) return { words: 'took enough for today', kind: 'quiet' }
  return { words: 'stands by', kind: 'quiet' }
}

/** A carrier of a channel with what is usual, to begin with. */
export function usualSetup(channel: Carried): Setup {
  const common = { channel, name: '', rests: false, perSecond: 0, perDay: 0 }
  if (channel !== 'email') return { ...common, gateway: { url: '', template: '' } }
  return {
    ...common,
    perDomain: 0,
    server: { host: '', port: 587, security: 'starttls', user: '', selector: '' },
  }
}

/** A template with its lines broken, if it can be read. */
export function written(template: string): string {
  try {
    return JSON.stringify(JSON.parse(template), null, 2)
  } catch {
    return template
  }
}
