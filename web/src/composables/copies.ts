import { computed, ref, type Ref } from 'vue'
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'

export type CopyUse = Schemas['CopyUseView']

/** How far a copy is, in a few words. */
export function copyWords(copy: CopyUse): string {
  const lines = (n: number) => (n === 1 ? '1 line' : `${n} lines`)
  if (!copy.filled) return 'nothing translated yet'
  if (copy.state === 'checked') return `checked by ${copy.by.join(', ')}`
  const said = []
  if (copy.lines > copy.filled) said.push(`${lines(copy.lines - copy.filled)} missing`)
  if (copy.doubtful) said.push(`${lines(copy.doubtful)} doubtful`)
  const unread = copy.filled - copy.checked - copy.doubtful
  if (unread)
    said.push(`${unread === copy.filled ? 'nobody has read it' : `${lines(unread)} nobody has read`}`)
  return said.join(' · ')
}

/** A copy of a message, line against line, and what changes it. */
export function useCopy(message: Ref<number>, language: Ref<string>) {
  const client = useQueryClient()
  const key = computed(() => ['copy', message.value, language.value])
  const path = () => ({ id: message.value, language: language.value })
  const query = useQuery({
    queryKey: key,
    queryFn: () => take(api.GET('/messages/{id}/copies/{language}', { params: { path: path() } })),
    staleTime: 0, // the original may have changed since
  })
  const write = useMutation({
    // One after the other: leaving a line on the way to "It is right" keeps it first, unread.
    scope: { id: 'copy' },
    mutationFn: (lines: { key: string; was: string; text: string; checked: boolean }[]) =>
      take(api.PUT('/messages/{id}/copies/{language}', { params: { path: path() }, body: { lines } })),
    onSuccess: async (copy) => {
      client.setQueryData(key.value, copy)
      await client.invalidateQueries({ queryKey: ['plan'] })
    },
  })
  return { copy: query.data, error: query.error, write }
}

/** Fills the missing lines of copies, one language after the other, and says how far it is. */
export function useDrafting(message: Ref<number>) {
  const client = useQueryClient()
  const done = ref(0)
  const all = ref(0)
  const said = ref('')
  const withheld = ref<string[]>([])
  const drafting = useMutation({
    mutationFn: async ({ languages, naming }: { languages: string[]; naming?: boolean }) => {
      done.value = 0
      all.value = languages.length
      said.value = ''
      withheld.value = []
      const sum = { filled: 0, left: 0, withheld: 0 }
      const notes = new Set<string>()
      for (const language of languages) {
        const one = await take(
          api.POST('/messages/{id}/copies/{language}/draft', {
            params: { path: { id: message.value, language }, query: { naming: naming ?? false } },
          }),
        )
        sum.filled += one.memory + one.adapted + one.machine
        sum.left += one.left
        sum.withheld += one.withheld
        if (one.withheld) withheld.value.push(language)
        if (one.note) notes.add(one.note)
        done.value += 1
      }
      const lines = (n: number) => (n === 1 ? '1 line' : `${n} lines`)
      said.value =
        (sum.filled ? `${lines(sum.filled)} filled` : 'Nothing could be filled') +
        (sum.left ? `, ${lines(sum.left)} still missing. ` : '. ') +
        [...notes].join(' ')
    },
    onSettled: async () => {
      await client.invalidateQueries({ queryKey: ['copy', message.value] })
      await client.invalidateQueries({ queryKey: ['plan'] })
    },
  })
  return { drafting, done, all, said, withheld }
}
