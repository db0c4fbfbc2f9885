import type { Schemas } from '@/api/client'

/** With whom threads are, in a word or two. */
export const withWords: Record<Schemas['ThreadRow']['with'], string> = {
  one: 'one person',
  people: 'several',
  group: 'group',
  area: 'area',
  everybody: 'everybody',
  job: 'job',
}

/** The same after “with”. */
export const withWhom: typeof withWords = {
  one: 'one person',
  people: 'several people',
  group: 'a group',
  area: 'an area',
  everybody: 'everybody',
  job: 'a job',
}

export const partWords: Record<'does' | 'on-site' | 'watches', string> = {
  does: 'does it',
  'on-site': 'on site',
  watches: 'watches over it',
}
