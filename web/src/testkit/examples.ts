import type { Person, Plan, Schemas } from '@/api/client'
import { emptyDraft } from '@/composables/draft'

// Whole answers of the API. A test says only what it is about; what the type
// gains has to be added here once.

const instant = '2026-11-24T08:00:00Z'

export const aPlan = (over: Partial<Plan> = {}): Plan => ({
  budget: '',
  channels: [],
  confirm: false,
  copies: [],
  copiesSeen: '',
  cost: '£0.00',
  defaultSteps: true,
  off: [],
  deliveries: 120,
  keptOut: 0,
  languages: [],
  lastAt: instant,
  leavesAt: instant,
  leftOut: [],
  load: { emergency: 0, limit: 0, most: 0, over: 0, routine: 0, timely: 0 },
  meter: {
    alphabet: 'gsm7',
    forces: [],
    least: 1,
    most: 1,
    room: 0,
    saves: 0,
    shorten: 0,
    shortens: 0,
    swapped: '',
    total: 1,
  },
  named: 94,
  namedTwice: 0,
  nobody: 0,
  overridden: 0,
  parts: [],
  problems: [],
  push: { quiet: true, usuallyQuiet: true },
  recipients: 94,
  secondYes: false,
  sendable: true,
  sender: { footer: '', inUse: [], names: [], numbers: [], own: '', prefix: '', replies: '', shown: [] },
  sentences: [],
  shared: 0,
  spent: '',
  steps: [],
  told: 0,
  unchecked: false,
  unquiet: 0,
  waits: [],
  wished: 0,
  ...over,
})

export const aCopyUse = (over: Partial<Schemas['CopyUseView']> = {}): Schemas['CopyUseView'] => ({
  alphabet: '',
  by: [],
  checked: 0,
  cost: '',
  doubtful: 0,
  filled: 0,
  language: 'pl',
  lines: 3,
  name: 'Polish',
  parts: 0,
  people: 1,
  state: 'incomplete',
  texts: 0,
  used: false,
  ...over,
})

export const aReading = (over: Partial<Schemas['ReadingView']> = {}): Schemas['ReadingView'] => ({
  id: 7,
  language: 'pl',
  languageName: 'Polish',
  name: 'Piotr',
  askedAt: '2026-11-26T09:00:00Z',
  until: '2026-11-29T09:00:00Z',
  state: 'asked',
  read: 0,
  lines: 8,
  others: 0,
  remark: '',
  request: 9,
  path: '/reading/abc',
  ...over,
})

export const aCopyLine = (over: Partial<Schemas['LineView']> = {}): Schemas['LineView'] => ({
  doubts: [],
  faces: ['email'],
  key: '0123456789abcdef0123456789abcdef',
  others: [],
  original: 'Hello',
  places: [],
  target: '',
  terms: [],
  ...over,
})

export const aChannel = (over: Partial<Schemas['ChannelView']> = {}): Schemas['ChannelView'] => ({
  bytes: 0,
  channel: 'push',
  cost: '£0.00',
  deliveries: 0,
  most: 3700,
  parts: 0,
  people: 0,
  seconds: 0,
  ...over,
})

export const anAddress = (over: Partial<Schemas['AddressView']> = {}): Schemas['AddressView'] => ({
  channel: 'email',
  value: 'a@example.org',
  shown: 'a@example.org',
  health: 'good',
  ...over,
})

export const aPerson = (over: Partial<Person> = {}): Person => ({
  addresses: [],
  awayUntil: '',
  externalId: '',
  gaps: [],
  groups: [],
  guest: false,
  id: 7,
  knownAs: '',
  language: '',
  name: 'Rania Haddad',
  reachedOn: '',
  roles: [],
  speaks: '',
  status: 'active',
  unit: '',
  ...over,
})

export const aSheet = (over: Partial<Schemas['Sheet']> = {}): Schemas['Sheet'] => ({
  addresses: [],
  familyName: 'Haddad',
  givenName: 'Rania',
  groups: [],
  id: 7,
  roles: [],
  status: 'active',
  ties: [],
  values: [],
  version: 3,
  ...over,
})

type Detail = Schemas['PersonDetailView']

export const aPersonInDetail = (over: Partial<Detail> = {}): Detail => ({
  ...aPerson(),
  editable: true,
  got: [],
  history: [],
  in: [],
  sheet: aSheet(),
  ties: [],
  ...over,
})

export const aGroup = (over: Partial<Schemas['GroupView']> = {}): Schemas['GroupView'] => ({
  archived: false,
  beyond: 0,
  depth: 0,
  editable: true,
  id: 4,
  identity: {},
  kind: 'picked',
  name: 'Coaches',
  own: 2,
  people: 2,
  rank: 1,
  unitPath: '',
  within: [],
  words: [],
  ...over,
})

export const aDraftView = (over: Partial<Schemas['DraftView']> = {}): Schemas['DraftView'] => ({
  author: 'Hugo Farrowby',
  draft: emptyDraft(),
  figures: {
    answered: 0,
    deliveries: 0,
    here: 0,
    leftOut: 0,
    notReached: 0,
    reached: 0,
    recipients: 0,
    stopped: 0,
    stoppedDeliveries: 0,
    told: 0,
    undecided: 0,
    waiting: 0,
  },
  id: 7,
  labels: [],
  late: false,
  revision: 1,
  scheduled: false,
  sender: '',
  state: 'draft',
  title: 'Outing',
  updatedAt: instant,
  urgency: 'routine',
  ...over,
})

export const onTheShelf = (over: Partial<Schemas['ShelfView']> = {}): Schemas['ShelfView'] => ({
  at: instant,
  blanks: [],
  by: 'Hugo Farrowby',
  content: { subject: '', email: '', ownText: false, text: '' },
  id: 7,
  kind: 'quick-text',
  mine: true,
  name: 'Parking',
  own: false,
  plain: '',
  shared: 'everybody',
  unit: 0,
  ...over,
})
