/** Wall-clock time as the browser's date and time field has it: 2026-11-28T18:00. */
export function toWall(instant: string, zone: string): string {
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  }).formatToParts(new Date(instant))
  const get = (type: string) => parts.find((p) => p.type === type)?.value ?? ''
  return `${get('year')}-${get('month')}-${get('day')}T${get('hour')}:${get('minute')}`
}

/**
 * The instant at which clocks in a zone show a wall time. In the hour that a
 * zone skips it is the instant just after; in the hour that comes twice, the first.
 */
export function fromWall(wall: string, zone: string): string {
  const asUTC = new Date(`${wall}:00Z`).getTime()
  const shift = (at: number) => new Date(`${toWall(new Date(at).toISOString(), zone)}:00Z`).getTime() - at
  const before = asUTC - shift(asUTC - 86_400_000)
  const after = asUTC - shift(asUTC + 86_400_000)
  const fits = [before, after].filter((at) => at + shift(at) === asUTC)
  return new Date(fits.length ? Math.min(...fits) : before).toISOString()
}
