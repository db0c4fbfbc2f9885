const minute = 60_000
const hour = 60 * minute
const day = 24 * hour

/** How long ago something was, as a shift says it: “3 h”, “yesterday”, “Tue”, “12 Nov”. */
export function ageOf(at: string, now: number, zone: string): string {
  const then = new Date(at).getTime()
  const ago = now - then
  if (ago < minute) return 'now'
  if (ago < hour) return `${Math.floor(ago / minute)} min`
  if (ago < 12 * hour) return `${Math.floor(ago / hour)} h`
  const dayOf = (ms: number) => new Intl.DateTimeFormat('en-CA', { timeZone: zone }).format(ms)
  if (dayOf(then) === dayOf(now)) return `${Math.floor(ago / hour)} h`
  if (dayOf(then) === dayOf(now - day)) return 'yesterday'
  const parts: Intl.DateTimeFormatOptions =
    ago < 6 * day ? { weekday: 'short' } : { day: 'numeric', month: 'short' }
  return new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...parts }).format(then)
}
