import type { Schemas } from '@/api/client'
import { people } from '@/composables/words'

export type Need = Schemas['NeedView']
export type Group = Schemas['NeedGroup']
export type Way = Group['way']

/** What a group of people has in common, in words. */
export const wayWords: Record<Way, string> = {
  'next-channel': 'Another channel may reach them',
  again: 'Worth another try',
  address: 'Their address is wrong or dead',
  details: 'Nothing on file reaches them',
  words: 'The message had nothing for them',
  paper: 'They declined every channel',
}

/** What to do for a group, for so many of it. */
export function actionWords(way: Way, n: number): string {
  const them = people(n)
  switch (way) {
    case 'next-channel':
      return `Try the next channel for ${them}`
    case 'again':
      return `Send it again to ${them}…`
    case 'words':
      return `Say it in other words to ${them}…`
    case 'details':
      return `Print sheets that ask ${them}`
    case 'address':
    case 'paper':
      return `Print letters to ${them}`
  }
}

/** Why somebody of a group is done. */
export function doneWords(n: Need): string {
  if (n.reached) return 'reached by a message that belongs to this one'
  return `ticked off by ${n.doneBy}`
}

/** The people whom an action is for: those chosen, or everybody who is not done. */
export function meant(group: Group, chosen: number[]): Need[] {
  const open = group.people.filter((p) => !p.done)
  const some = open.filter((p) => chosen.includes(p.person))
  return some.length ? some : open
}
