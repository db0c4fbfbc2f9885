import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Draft = Schemas['Draft']
export type Part = Schemas['Part']
export type Plan = Schemas['PlanView']
export type Channel = Schemas['DeliveryView']['channel']
export type DeliveryState = Schemas['DeliveryView']['state']

/** What the server answered instead of a result (RFC 9457). */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message)
  }
}

export const api = createClient<paths>({ baseUrl: '/api', fetch: (request) => fetch(request) })

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
  throw new ApiError(response.status, describe(response.status, error))
}

function describe(status: number, error: Schemas['ErrorModel'] | undefined): string {
  const details = (error?.errors ?? []).map((e) =>
    [e.location?.replace(/^body\./, ''), e.message].filter(Boolean).join(': '),
  )
  if (details.length > 0) return details.join('; ')
  return error?.detail || `The program answered ${status}.`
}
