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
  let timer = 0
  const later = () => {
    clearTimeout(timer)
    timer = window.setTimeout(look, 100)
  }
  const watcher = new MutationObserver(later)
  const look = () => {
    if (!shown()) return
    watcher.disconnect()
    document.removeEventListener('input', later)
    void import('@/styles/faces-wide.css')
  }
  watcher.observe(document.body, { childList: true, characterData: true, subtree: true })
  document.addEventListener('input', later)
}
