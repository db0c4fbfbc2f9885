import { beforeEach, describe, expect, it } from 'vitest'
import { useSelection } from './selection'

describe('a selection', () => {
  const s = useSelection()
  beforeEach(() => s.clear())

  it('begins with nobody and says who is in it', () => {
    expect(s.size.value).toBe(0)
    s.toggle(3)
    s.add([4, 5, 3])
    expect(s.list.value).toEqual([3, 4, 5])
    expect(s.words([3, 4, 5, 6])).toBe('3 people selected')
  })

  it('does not change with what is shown', () => {
    s.add([1, 2, 3])
    expect(s.words([1, 9])).toBe('3 people selected, 1 of them on screen')
    expect(s.words([])).toBe('3 people selected, 0 of them on screen')
    expect(s.size.value).toBe(3)
  })

  it('lets go of one, or of all', () => {
    s.add([1, 2])
    s.toggle(1)
    expect(s.has(1)).toBe(false)
    expect(s.words([2])).toBe('1 person selected')
    s.clear()
    expect(s.size.value).toBe(0)
  })
})
