import type { Schemas } from '@/api/client'

export type BoardView = Schemas['BoardView']
export type Mark = Schemas['BoardMark']
type Question = Schemas['Question']
type Tally = Schemas['Tally']

/** How an answer looks: what it means, or how it stands with who has not given one. */
export type Look = 'counts' | 'attend' | 'plain' | 'wrote' | 'silent' | 'on-the-way' | 'missed'

/** One count of the board: an answer, or those who have not given one. */
export interface Share {
  key: string
  words: string
  people: number
  look: Look
  /** Of an answer; 0 otherwise. */
  number: number
}

export function lookOf(question: Question, number: number): Look {
  const means = question.choices[number - 1]?.means
  if (means === 'attend') return 'attend'
  return means ? 'counts' : 'plain'
}

/** Everybody who was asked, in shares that add up. */
export function sharesOf(question: Question, tally: Tally): Share[] {
  const answers = question.choices.map((c, i) => ({
    key: String(i + 1),
    words: c.words,
    people: tally.choices[i] ?? 0,
    look: lookOf(question, i + 1),
    number: i + 1,
  }))
  const rest: Share[] = [
    { key: 'wrote', words: 'wrote something else', people: tally.wrote, look: 'wrote', number: 0 },
    { key: 'silent', words: 'have it, no answer', people: tally.silent, look: 'silent', number: 0 },
    { key: 'on-the-way', words: 'on the way', people: tally.onTheWay, look: 'on-the-way', number: 0 },
    { key: 'missed', words: 'not reached', people: tally.missed, look: 'missed', number: 0 },
  ]
  return [...answers, ...rest.filter((s) => s.people || s.key === 'silent')]
}

/** After how many minutes those come who gave an answer, the soonest first, in words. */
export function minutesOf(board: BoardView, number: number): string {
  const list = board.marks.filter((m) => m.answer === number && m.minutes > 0).map((m) => m.minutes)
  if (!list.length) return ''
  const soonest = list.sort((a, b) => a - b).slice(0, 6)
  return `in ${soonest.join(', ')}${list.length > soonest.length ? ' …' : ''} min`
}

/** To which share somebody belongs. */
export const shareOf = (mark: Mark) => (mark.stand === 'answered' ? String(mark.answer) : mark.stand)

export interface Pile {
  id: number
  name: string
  marks: Mark[]
  answered: number
}

/** The marks by area or by group. Who is in several groups stands in each; who is in none comes last. */
export function pilesOf(board: BoardView, by: 'all' | 'area' | 'group'): Pile[] {
  const pile = (id: number, name: string, marks: Mark[]) => ({
    id,
    name,
    marks,
    answered: marks.filter((m) => m.answer > 0).length,
  })
  if (by === 'all') return [pile(0, '', board.marks)]
  const parts = by === 'area' ? board.areas : board.groups
  const within = (m: Mark, id: number) => (by === 'area' ? m.area === id : m.groups.includes(id))
  const piles = parts.map((p) =>
    pile(
      p.id,
      p.name,
      board.marks.filter((m) => within(m, p.id)),
    ),
  )
  const rest = board.marks.filter((m) => !parts.some((p) => within(m, p.id)))
  // A group that everybody is in says nothing beside those inside it.
  const telling = piles.filter((p) => p.marks.length < board.marks.length)
  if (by === 'group' && telling.length && telling.length < piles.length && !rest.length) {
    const told = new Set(telling.flatMap((p) => p.marks))
    const left = board.marks.filter((m) => !told.has(m))
    return [...telling, pile(0, 'In no smaller group', left)].filter((p) => p.marks.length)
  }
  if (rest.length) piles.push(pile(0, by === 'area' ? 'No area' : 'In none of the groups', rest))
  return piles.filter((p) => p.marks.length)
}

/** Whom to call: those who were not reached first, then who says nothing. */
export function toCall(board: BoardView): Mark[] {
  const order = ['missed', 'silent', 'on-the-way', 'wrote']
  return board.marks
    .filter((m) => m.stand !== 'answered' && m.person)
    .sort((a, b) => order.indexOf(a.stand) - order.indexOf(b.stand) || a.name.localeCompare(b.name))
}
