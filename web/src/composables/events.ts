import { onScopeDispose } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { sessionQuery } from './session'

const pause = 400

/**
 * Asks again for what changed, one question of a kind at a time: a large
 * message moves faster than its record can be read.
 */
function useAgain() {
  const client = useQueryClient()
  const busy = new Map<string, boolean>() // whether to ask once more after this time
  return async (...queryKey: unknown[]) => {
    const name = JSON.stringify(queryKey)
    if (busy.has(name)) {
      busy.set(name, true)
      return
    }
    do {
      // An answer that is under way may be older than the change.
      busy.set(name, client.isFetching({ queryKey }) > 0)
      await client.invalidateQueries({ queryKey }, { cancelRefetch: false })
      await new Promise((resolve) => setTimeout(resolve, pause))
    } while (busy.get(name))
    busy.delete(name)
  }
}

/** Listens to the server while the caller lives and asks again for what changed. */
export function useEvents(): void {
  const client = useQueryClient()
  const again = useAgain()
  const told = client.getQueryData(sessionQuery.queryKey)?.told ?? 0
  const source = new EventSource(`/api/events?since=${told}`)
  source.addEventListener('message-moved', (event) => {
    const { message } = JSON.parse(event.data) as { message: number }
    void again('messages')
    void again('strip')
    void again('record', message)
    void again('received')
    void again('copy', message)
    void again('plan', message)
  })
  source.addEventListener('import-moved', (event) => {
    const moved = JSON.parse(event.data) as { import: number }
    void again('import', moved.import)
    void again('roster')
  })
  source.addEventListener('roster-moved', () => {
    void again('roster')
    void again('desks') // who is in a thread follows the roster, and it ends with its job
  })
  source.addEventListener('desk-moved', () => void again('desks'))
  source.addEventListener('carrier-moved', () => void again('strip'))
  // After a break, anything may have changed, and so may it while the page began.
  let broken = false
  source.addEventListener('error', () => (broken = true))
  source.addEventListener('still-here', (event) => {
    const { missed } = JSON.parse(event.data) as { missed: boolean }
    if (broken || missed) void client.invalidateQueries()
    broken = false
  })
  onScopeDispose(() => source.close())
}
