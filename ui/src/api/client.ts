import createClient from 'openapi-fetch'
import type { components, paths } from './schema'
import { session } from './session'

/** The types of the API's answers, named as in its description. */
export type Schemas = components['schemas']

/** An RFC 9457 problem document: a refusal in words, with the field it is about. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    detail: string,
    readonly field = '',
    readonly facts: Record<string, string> = {},
  ) {
    super(detail)
  }
}

const client = createClient<paths>({ baseUrl: '', credentials: 'same-origin' })

client.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRF-Token', session.csrf)
    return request
  },
})

export const api = client

/** Waits for an answer; a refusal is thrown as a Problem. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const asked = session.csrf
  let answer
  try {
    answer = await call
  } catch {
    throw new Problem(
      0,
      'offline',
      'The server cannot be reached. Nothing was lost; try again when the connection is back.',
    )
  }
  if (answer.response.ok) return answer.data as T
  const p = (answer.error ?? {}) as { code?: string; detail?: string; field?: string; facts?: Record<string, string> }
  // A late answer to somebody who has signed on again since says nothing of now.
  if (answer.response.status === 401 && p.code === 'signed_out' && asked === session.csrf) session.ended = true
  throw new Problem(
    answer.response.status,
    p.code ?? 'internal',
    p.detail ?? 'Something went wrong here, not with what you entered. Try again.',
    p.field,
    p.facts,
  )
}

/** A key for one command, so that sending it twice does it once. */
export function requestKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  return Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('')
}

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms))

/** Runs a command under one key, again when the answer did not come through. */
export async function once<T>(
  run: (headers: { 'Idempotency-Key': string }) => Promise<T>,
  key = requestKey(),
): Promise<T> {
  const headers = { 'Idempotency-Key': key }
  for (let attempt = 1; ; attempt++) {
    try {
      return await run(headers)
    } catch (e) {
      if (!(e instanceof Problem) || e.status !== 0 || attempt === 3) throw e
      await pause(400 * attempt)
    }
  }
}
