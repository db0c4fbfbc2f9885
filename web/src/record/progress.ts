import { count } from '@/composables/words'

/** How long something took, the way people say it. */
export function lasted(seconds: number): string {
  if (seconds < 1) return 'a second'
  if (seconds < 90) return count(Math.round(seconds), 'second', 'seconds')
  if (seconds < 90 * 60) return count(Math.round(seconds / 60), 'minute', 'minutes')
  if (seconds < 36 * 3600) return count(Math.round(seconds / 3600), 'hour', 'hours')
  return count(Math.round(seconds / 86_400), 'day', 'days')
}
