import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Draft = Schemas['Draft']
export type Content = Schemas['Content']
export type Part = Schemas['Part']
export type Plan = Schemas['PlanView']
export type Channel = Schemas['Address']['channel']
export type Person = Schemas['PersonView']
export type Sheet = Schemas['Sheet']
export type Condition = Schemas['Condition']
export type Group = Schemas['GroupView']
export type Done = Schemas['DoneView']
export type DeliveryState = Schemas['DeliveryView']['state']

/** What the server answered instead of a result (RFC 9457). */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    /** What is wrong or changed, field by field, if the server said so. */
    readonly details: Schemas['ErrorDetail'][] = [],
  ) {
    super(message)
  }
}

export const api = createClient<paths>({ baseUrl: '/api', fetch: (request) => fetch(request) })

/** Insufficient Storage (RFC 4918): nothing can be saved until there is room. */
const diskFull = 507

interface Answer<T> {
  data?: T
  error?: Schemas['ErrorModel']
  response: Response
}

/** Returns the data of an answer, or throws an ApiError in words for a person. */
export async function take<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await request
  } catch {
    throw new ApiError(0, 'The program does not answer. What you typed is still here; try again in a moment.')
  }
  const { data, error, response } = answer
  if (response.ok) return data as T
  if (response.status === diskFull) window.dispatchEvent(new Event('disk-full'))
  throw new ApiError(response.status, describe(response.status, error), error?.errors ?? [])
}

function describe(status: number, error: Schemas['ErrorModel'] | undefined): string {
  const details = (error?.errors ?? []).map((e) =>
    [e.location?.replace(/^body\./, ''), e.message].filter(Boolean).join(': '),
  )
  const detail = error?.detail ?? ''
  if (details.length > 0) return detail.startsWith('Nothing was') ? detail : details.join('; ')
  return detail || `The program answered ${status}.`
}

/** Sends a file as it is. */
export const asFile = (file: File) => ({
  body: file as unknown as string,
  bodySerializer: (body: unknown) => body as BodyInit,
  headers: { 'Content-Type': 'application/octet-stream' },
})

/** Gives a file that the server made to the browser to keep. */
export async function download(
  request: Promise<{ data?: unknown; error?: Schemas['ErrorModel']; response: Response }>,
) {
  const { data, error, response } = await request
  if (!response.ok) throw new ApiError(response.status, describe(response.status, error))
  const name = /filename="([^"]+)"/.exec(response.headers.get('Content-Disposition') ?? '')?.[1] ?? 'file'
  const link = document.createElement('a')
  link.href = URL.createObjectURL(data as Blob)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 1000)
}
