import { describe, expect, it } from 'vitest'
import { conditionOf, usualSetup, whereWords, written, type Carrier } from './carriers'

const aCarrier = (over: Partial<Carrier>): Carrier => ({
  id: 1,
  setup: { ...usualSetup('text'), name: 'Wayside' },
  password: false,
  token: true,
  reports: false,
  sealed: false,
  readable: false,
  lines: [],
  tried: '',
  today: 0,
  used: true,
  next: false,
  ...over,
})

describe('how a carrier is', () => {
  const limited = { ...usualSetup('text'), perDay: 5 }
  const trouble = { detail: 'no credit', since: '', retryAt: '' }
  it.each([
    [aCarrier({ next: true }), 'takes the next one'],
    [aCarrier({}), 'stands by'],
    [aCarrier({ setup: limited, today: 5 }), 'took enough for today'],
    [aCarrier({ trouble }), 'in trouble'],
    [aCarrier({ used: false }), 'not used'],
    [aCarrier({ used: false, setup: { ...limited, rests: true } }), 'rests'],
    [aCarrier({ used: false, sealed: true }), 'its secrets cannot be opened: type them again'],
  ])('is said in words %#', (carrier, words) => {
    expect(conditionOf(carrier, false).words).toBe(words)
  })

  it('tells that the stand-ins carry', () => {
    expect(conditionOf(aCarrier({ used: false }), true).words).toBe('set up, not used yet')
  })
})

describe('where a carrier is', () => {
  it('is its server, its address, or that of its template', () => {
    expect(whereWords({ ...usualSetup('email') })).toBe(':587')
    const at = (url: string, template: string) => ({ ...usualSetup('text'), gateway: { url, template } })
    expect(whereWords(at('https://a.example/', ''))).toBe('https://a.example/')
    expect(whereWords(at('', '{"url":"https://b.example/{to}"}'))).toBe('https://b.example/{to}')
    expect(whereWords(at('', '{'))).toBe('by a template')
  })
})

it('breaks the lines of a template that can be read', () => {
  expect(written('{"a":1}')).toBe('{\n  "a": 1\n}')
  expect(written('{"a":')).toBe('{"a":')
})
