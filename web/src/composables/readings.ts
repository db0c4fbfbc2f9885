import { computed, type Ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'
import { count } from './words'

export type Reading = Schemas['ReadingView']

/** Who was asked to read the copies of a message, and how far they are. */
export function useReadings(message: Ref<number>) {
  const query = useQuery({
    queryKey: computed(() => ['messages', message.value, 'readings']),
    queryFn: () => take(api.GET('/messages/{id}/readings', { params: { path: { id: message.value } } })),
    enabled: computed(() => message.value > 0),
    staleTime: 0, // readers go on meanwhile
  })
  const readings = computed(() => query.data.value ?? [])
  const open = computed(() => readings.value.filter(isOpen))
  return { readings, open, error: query.error }
}

/** Whether a reading is waited for. */
export const isOpen = (r: Reading) => r.state === 'asked' || r.state === 'reading'

/** How far a reading is, in a few words. */
export function readingWords(r: Reading): string {
  const far = `${r.read} of ${count(r.lines, 'line', 'lines')}`
  const others = r.others ? ` · ${count(r.others, 'line', 'lines')} said otherwise` : ''
  const words = {
    asked: r.request ? 'asked, not opened yet' : 'no request left: give them their link',
    reading: far,
    done: `done: ${far}`,
    expired: `their link has ended: ${far}`,
    withdrawn: 'taken back',
  }[r.state]
  return words + others
}
