import createClient from 'openapi-fetch'
import type { components, paths } from './schema'
import { answered, commandOf, keyOf, settles } from './pending'
import { follow } from './progress'
import { passwordGiven, session, wantPassword } from './session'
import { touchedLately } from './touch'

/** The types of the API's answers, named as in its description. */
export type Schemas = components['schemas']

/** What a refusal is known by: the server's codes, and those of this device alone. */
export type Code = Schemas['Problem']['code'] | 'offline' | 'loaded' | 'device_full' | 'wrong_order' | 'wrong_scan'

/** An RFC 9457 problem document: a refusal in words, with the field it is about. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: Code,
    detail: string,
    readonly field = '',
    readonly facts: Record<string, string> = {},
  ) {
    super(detail)
  }
}

const client = createClient<paths>({ baseUrl: '', credentials: 'same-origin' })

const commands = new WeakMap<Request, string>()
/** What ends the following of a command. */
const followed = new WeakMap<Request, () => void>()

client.use({
  async onRequest({ request }) {
    if (touchedLately()) request.headers.set('X-Present', '1')
    if (request.method === 'GET') return request
    request.headers.set('X-CSRF-Token', session.csrf)
    const offered = request.headers.get('Idempotency-Key')
    if (offered) {
      const body = await request.clone().text()
      const command = commandOf(session.person?.id, new URL(request.url).pathname, body)
      request.headers.set('Idempotency-Key', keyOf(command, offered))
      commands.set(request, command)
      followed.set(request, follow(request.headers.get('Idempotency-Key')!))
    }
    return request
  },
  onResponse({ request, response }) {
    followed.get(request)?.()
    const command = commands.get(request)
    if (command && settles(response.status)) answered(command)
    return response
  },
  onError: ({ request }) => followed.get(request)?.(),
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
  const p = (answer.error ?? {}) as { code?: Code; detail?: string; field?: string; facts?: Record<string, string> }
  // A late answer to somebody who has signed on again since says nothing of now.
  if (answer.response.status === 401 && p.code === 'signed_out' && asked === session.csrf) session.ended = true
  if (p.code === 'password_needed') wantPassword()
  throw new Problem(
    answer.response.status,
    p.code ?? 'internal',
    p.detail ?? 'Something went wrong here, not with what you entered. Try again.',
    p.field,
    p.facts,
  )
}

/** Whether a failure leaves open what became of a command. */
export const unanswered = (e: unknown) => e instanceof Problem && (e.status === 0 || e.code === 'outcome_unknown')

/** A key for one command, so that sending it twice does it once. */
export function requestKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  return Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('')
}

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms))

/** How often a command is tried when no answer comes through, before whoever pressed decides. */
const tries = 3

/**
 * Runs a command under one key: again when the answer did not come through, and once more when it asks for the password
 * and that is given. An unchanged command that is still unanswered then keeps its key for the next press.
 */
export async function once<T>(
  run: (headers: { 'Idempotency-Key': string }) => Promise<T>,
  key = requestKey(),
): Promise<T> {
  const headers = { 'Idempotency-Key': key }
  for (let attempt = 1; ; attempt++) {
    try {
      return await run(headers)
    } catch (e) {
      if (!(e instanceof Problem)) throw e
      if (e.code === 'password_needed') {
        if (await passwordGiven()) continue
        throw e
      }
      if (!unanswered(e) || attempt >= tries) throw e
      await pause(400 * attempt)
    }
  }
}
