import type { Schemas } from '@/api/client'

export type Ask = Schemas['Ask']
export type Table = Schemas['Table']

/** The spans that a report can be about, as they are offered. */
export const spans: { value: Ask['span']['of']; title: string }[] = [
  { value: 'this-month', title: 'this month' },
  { value: 'last-month', title: 'last month' },
  { value: 'last-12-months', title: 'the last twelve months' },
  { value: 'this-year', title: 'this year' },
  { value: 'last-year', title: 'last year' },
  { value: 'days', title: 'between two days' },
]

/** What stands there before anything is asked for. */
export const usual: Ask = { by: 'month', span: { of: 'last-12-months' } }

/** A report as it stands in an address; what cannot be read is the usual one. */
export function readAsk(text: unknown): Ask {
  try {
    const found = JSON.parse(String(text)) as Ask
    return found?.by && found.span?.of ? found : usual
  } catch {
    return usual
  }
}

/** Whether a report can be asked for: a span between two days needs both. */
export const whole = (ask: Ask) => ask.span.of !== 'days' || Boolean(ask.span.from && ask.span.until)

/** Reports that have conditions: budgets and gaps are what they are. */
export const narrows = (ask: Ask) => ask.by !== 'budget' && ask.by !== 'gap'

/** Cells that are read from right to left in their column: figures. */
export const isFigure = (kind: Schemas['Column']['kind']) => kind !== 'text'
