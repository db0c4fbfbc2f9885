import { onScopeDispose } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'

/** Listens to the server while the caller lives and asks again for what changed. */
export function useEvents(): void {
  const client = useQueryClient()
  const source = new EventSource('/api/events')
  const again = (...queryKey: unknown[]) => void client.invalidateQueries({ queryKey })
  source.addEventListener('message-moved', (event) => {
    const { message } = JSON.parse(event.data) as { message: number }
    again('messages')
    again('strip')
    again('record', message)
    again('received')
  })
  source.addEventListener('import-moved', (event) => {
    const moved = JSON.parse(event.data) as { import: number }
    again('import', moved.import)
    again('people')
    again('groups')
  })
  // After a break, anything may have changed.
  let broken = false
  source.addEventListener('error', () => (broken = true))
  source.addEventListener('still-here', () => {
    if (broken) void client.invalidateQueries()
    broken = false
  })
  onScopeDispose(() => source.close())
}
