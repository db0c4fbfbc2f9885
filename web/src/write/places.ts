import type { Schemas } from '@/api/client'

type Place = Exclude<Schemas['ProblemView']['mend'], 'left-out'>

/** Where in Write each problem is mended. */
const places: Record<Place, string> = {
  who: '.who input',
  email: '[role=textbox][aria-label="Email"]',
  question: 'input[aria-label="Answer 1"]',
  subject: 'input[aria-label="Subject"]',
  files: 'input[aria-label="Add files"]',
  push: 'button[aria-label="Change the push"]',
  sender: '.sender',
  steps: '.ladder .change button',
  time: '.time',
  copies: '[aria-label="Copies"]',
  emergency: 'input[aria-label="Why it is an emergency"]',
}

/** Brings a place on screen and the focus to it. */
export function goTo(place: Place) {
  const target = document.querySelector<HTMLElement>(places[place])
  target?.scrollIntoView({ block: 'center' })
  target?.focus()
}
