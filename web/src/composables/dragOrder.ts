import { onBeforeUnmount, watch, type Ref } from 'vue'
import Sortable from 'sortablejs'

/** Moves one place of a list to another; out of range it stays. */
export function moved<T>(list: T[], from: number, to: number): T[] {
  if (from === to || to < 0 || to >= list.length || from < 0 || from >= list.length) return list
  const next = [...list]
  next.splice(to, 0, ...next.splice(from, 1))
  return next
}

/**
 * Lets the children of an element be dragged by their .grip. Moving a child is
 * told; the list itself is drawn anew by whoever owns it.
 */
export function useDragOrder(
  list: Ref<HTMLElement | undefined | null>,
  move: (from: number, to: number) => void,
) {
  let sortable: Sortable | undefined
  watch(
    list,
    (element) => {
      sortable?.destroy()
      sortable = element
        ? Sortable.create(element, {
            handle: '.grip',
            animation: 120,
            onEnd: ({ item, oldIndex, newIndex, from }) => {
              if (oldIndex === undefined || newIndex === undefined || oldIndex === newIndex) return
              // The child goes back, so that what is drawn is what the list says.
              from.insertBefore(item, from.children[oldIndex + (newIndex < oldIndex ? 1 : 0)] ?? null)
              move(oldIndex, newIndex)
            },
          })
        : undefined
    },
    { immediate: true },
  )
  onBeforeUnmount(() => sortable?.destroy())
}
