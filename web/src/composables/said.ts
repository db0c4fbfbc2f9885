import { ref } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { api, take, type Done } from '@/api/client'

interface Said {
  words: string
  /** The edit to take back, or 0. */
  edit: number
  bad?: boolean
}

/** What the bar at the bottom says, one thing at a time. */
export const said = ref<Said>()

const sentence = (words: string) => words.charAt(0).toUpperCase() + words.slice(1).replace(/\.?$/, '.')

/** What was just done, with the way back. */
export function useSaid() {
  const client = useQueryClient()
  return {
    said,
    done: async (d: Pick<Done, 'said' | 'edit'>) => {
      said.value = { words: d.edit ? sentence(d.said) : 'Nothing changed: it was so already.', edit: d.edit }
      await client.invalidateQueries({ queryKey: ['roster'] })
    },
    tell: (words: string) => (said.value = { words, edit: 0 }),
    fail: (error: unknown) => (said.value = { words: (error as Error).message, edit: 0, bad: true }),
    undo: async (edit: number) => {
      try {
        const undone = await take(api.POST('/edits/{id}/undo', { params: { path: { id: edit } } }))
        said.value = { words: undone.said, edit: 0 }
      } catch (error) {
        said.value = { words: (error as Error).message, edit: 0, bad: true }
      }
      await client.invalidateQueries({ queryKey: ['roster'] })
    },
  }
}
