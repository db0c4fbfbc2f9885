import { computed, ref, watch, type Ref } from 'vue'
import { keepPreviousData, useQueries, useQuery } from '@tanstack/vue-query'
import { api, take, type Person, type Schemas } from '@/api/client'

export const pageSize = 100
export const rowHeight = 33 // px, as the table's style has it
const beyond = 8 // rows that are drawn before and after what is on screen

type Answer = Schemas['PeopleView'] & { page: number }

const pageOf = (row: number) => Math.floor(row / pageSize)

/** What asks for a page of the answer to a question, given as JSON. */
const asking = (question: string, page: number) => ({
  queryKey: ['roster', 'people', question, page],
  queryFn: async (): Promise<Answer> => {
    const answer = await take(
      api.POST('/people/search', {
        params: { query: { first: page * pageSize, count: pageSize } },
        body: JSON.parse(question) as Schemas['Query'],
      }),
    )
    return { ...answer, page }
  },
  staleTime: 5000,
})

/** A row of the list; the person is missing until their page is there. */
export interface Row {
  index: number
  person?: Person
}

/**
 * A list of people of any length, of which only the pages around what is on
 * screen are asked for. A new question keeps showing the old answer until its
 * first page is there.
 */
export function usePeoplePages(query: Ref<Schemas['Query']>) {
  const top = ref(0)
  const height = ref(600)
  const question = computed(() => JSON.stringify(query.value))
  watch(question, () => (top.value = 0))

  const start = useQuery(
    computed(() => ({ ...asking(question.value, 0), placeholderData: keepPreviousData<Answer> })),
  )
  const head = computed<Answer | undefined>((before) => start.data.value ?? before)
  const answered = computed<string>((before) =>
    start.data.value && !start.isPlaceholderData.value ? question.value : (before ?? question.value),
  )

  const first = computed(() => Math.max(0, Math.floor(top.value / rowHeight) - beyond))
  const last = computed(() =>
    Math.min(Math.ceil((top.value + height.value) / rowHeight) + beyond, head.value?.matching ?? 0),
  )
  const wanted = computed(() => {
    const from = pageOf(first.value)
    return Array.from({ length: Math.max(0, pageOf(last.value - 1) - from + 1) }, (_, n) => from + n)
  })
  const answers = useQueries({
    queries: computed(() => wanted.value.map((page) => asking(answered.value, page))),
  })
  const pages = computed(() => new Map(answers.value.map(({ data }) => [data?.page, data?.people])))

  const rows = computed<Row[]>(() =>
    Array.from({ length: Math.max(0, last.value - first.value) }, (_, n) => {
      const index = first.value + n
      return { index, person: pages.value.get(pageOf(index))?.[index % pageSize] }
    }),
  )
  /** The people whose rows can be seen in full. */
  const onScreen = computed(() => {
    const from = Math.ceil(top.value / rowHeight)
    const to = Math.floor((top.value + height.value) / rowHeight)
    return rows.value.filter((r) => r.index >= from && r.index < to).flatMap((r) => r.person?.id ?? [])
  })
  const error = computed(
    () => (start.error.value ?? answers.value.find((a) => a.error)?.error)?.message ?? '',
  )
  return { head, rows, onScreen, first, top, height, error }
}
