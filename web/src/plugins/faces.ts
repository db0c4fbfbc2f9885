import { useDebounceFn, useEventListener, useMutationObserver } from '@vueuse/core'

/** Radicals, kana, CJK signs and ideographs, and full-width forms (Unicode blocks of those names). */
const wide = /[\u2e80-\u9fff\uf900-\ufaff\uff00-\uffef]/

const shown = () =>
  wide.test(document.body.textContent) ||
  [...document.querySelectorAll<HTMLInputElement | HTMLTextAreaElement>('input, textarea')].some((field) =>
    wide.test(field.value),
  )

/**
 * Loads the list of Chinese faces, a hundred parts of one font, once a page
 * shows a character that needs it. It is larger than all other styles together.
 */
export function watchFaces() {
  const look = useDebounceFn(() => {
    if (!shown()) return
    stop()
    forget()
    void import('@/styles/faces-wide.css')
  }, 100)
  const { stop } = useMutationObserver(document.body, () => void look(), {
    childList: true,
    characterData: true,
    subtree: true,
  })
  const forget = useEventListener(document, 'input', () => void look())
}
