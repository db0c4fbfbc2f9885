import { ref } from 'vue'

const person = ref(0)

/** The one person drawer, opened from wherever a name appears. */
export function usePersonDrawer() {
  return {
    person,
    show: (id: number) => {
      person.value = id
    },
  }
}
