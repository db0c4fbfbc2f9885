import { computed, shallowRef } from 'vue'
import { people } from './words'

/**
 * Who is selected. It is apart from what is shown: searching and filtering
 * never change it.
 */
const ids = shallowRef<ReadonlySet<number>>(new Set())

export function useSelection() {
  const change = (do_: (set: Set<number>) => void) => {
    const next = new Set(ids.value)
    do_(next)
    ids.value = next
  }
  return {
    ids,
    size: computed(() => ids.value.size),
    list: computed(() => [...ids.value]),
    has: (id: number) => ids.value.has(id),
    toggle: (id: number) => change((set) => (set.has(id) ? set.delete(id) : set.add(id))),
    add: (more: Iterable<number>) => change((set) => [...more].forEach((id) => set.add(id))),
    clear: () => (ids.value = new Set()),
    words: (shown: number[]) => {
      const here = shown.filter((id) => ids.value.has(id)).length
      const all = `${people(ids.value.size)} selected`
      return here === ids.value.size ? all : `${all}, ${here} of them on screen`
    },
  }
}
