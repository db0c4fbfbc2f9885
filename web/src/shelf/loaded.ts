import type { Schemas } from '@/api/client'
import { count } from '@/composables/words'

/** What loading a file came to, in words. */
export function loadedWords(loaded: Schemas['LinesLoadedView'], one: string, many: string): string {
  const skipped = loaded.skipped
    ? ` ${count(loaded.skipped, 'was', 'were')} left: ${loaded.why.join('; ')}.`
    : ''
  return `${count(loaded.added, one, many)} added.${skipped}`
}
