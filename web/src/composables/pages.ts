import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { api, take, type Person, type Schemas } from '@/api/client'

export const pageSize = 100
export const rowHeight = 33 // px, as the table's style has it

type Answer = Schemas['PeopleView']

/**
 * A list of people of any length, of which only the pages around what is on
 * screen are asked for. A new question keeps showing the old answer until its
 * first page is there.
 */
export function usePeoplePages(query: Ref<Schemas['Query']>) {
  const client = useQueryClient()
  const pages = shallowRef(new Map<number, Person[]>())
  const head = shallowRef<Answer>()
  const error = ref('')
  const loading = ref(false)
  const top = ref(0)
  const height = ref(600)

  const first = computed(() => Math.max(0, Math.floor(top.value / rowHeight) - 8))
  const last = computed(() => Math.ceil((top.value + height.value) / rowHeight) + 8)

  let asked = '' // the question that the pages belong to

  async function load(page: number) {
    const key = JSON.stringify(query.value)
    if (key === asked && pages.value.has(page)) return
    loading.value = true
    try {
      const answer = await client.fetchQuery({
        queryKey: ['roster', 'people', key, page],
        queryFn: () =>
          take(
            api.POST('/people/search', {
              params: { query: { first: page * pageSize, count: pageSize } },
              body: JSON.parse(key) as Schemas['Query'],
            }),
          ),
        staleTime: 5000,
      })
      if (key !== JSON.stringify(query.value)) return // overtaken
      const kept = key === asked ? new Map(pages.value) : new Map<number, Person[]>()
      kept.set(page, answer.people)
      asked = key
      pages.value = kept
      head.value = answer
      error.value = ''
    } catch (problem) {
      error.value = (problem as Error).message
    } finally {
      loading.value = false
    }
  }

  function wanted() {
    const matching = head.value?.matching ?? pageSize
    const to = Math.min(Math.floor(last.value / pageSize), Math.floor(Math.max(0, matching - 1) / pageSize))
    for (let page = Math.floor(first.value / pageSize); page <= to; page++) void load(page)
  }

  watch(
    () => JSON.stringify(query.value),
    () => {
      top.value = 0
      void load(0)
    },
    { immediate: true },
  )
  watch([first, last, head], wanted)

  // What the server says has changed is asked for again.
  client.getQueryCache().subscribe((event) => {
    if (event.type !== 'updated' || event.action.type !== 'invalidate') return
    if (event.query.queryKey[1] !== 'people') return
    asked = ''
    void load(Math.floor(first.value / pageSize)).then(wanted)
  })

  const rows = computed(() => {
    const list: { index: number; person?: Person }[] = []
    const end = Math.min(last.value, head.value?.matching ?? 0)
    for (let index = first.value; index < end; index++) {
      list.push({ index, person: pages.value.get(Math.floor(index / pageSize))?.[index % pageSize] })
    }
    return list
  })
  /** The people whose rows can be seen in full. */
  const onScreen = computed(() => {
    const from = Math.ceil(top.value / rowHeight)
    const to = Math.floor((top.value + height.value) / rowHeight)
    return rows.value.filter((r) => r.index >= from && r.index < to).flatMap((r) => r.person?.id ?? [])
  })
  return { head, rows, onScreen, first, last, top, height, error, loading }
}
