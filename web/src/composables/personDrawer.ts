import { computed, ref } from 'vue'

const person = ref(0)
const adding = ref(false)
const open = computed(() => person.value !== 0 || adding.value)

/** The one person drawer, opened from wherever a name appears. */
export function usePersonDrawer() {
  return {
    person,
    adding,
    open,
    show: (id: number) => {
      adding.value = false
      person.value = id
    },
    add: () => {
      person.value = 0
      adding.value = true
    },
    close: () => {
      person.value = 0
      adding.value = false
    },
  }
}
