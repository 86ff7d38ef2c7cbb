import 'fake-indexeddb/auto'
import { beforeEach, expect, test, vi } from 'vitest'
import type { Schemas } from '@/api/client'

const stop = (id: number, more = {}) => ({
  id,
  quantity: '3',
  picked: '0',
  serials: [],
  units: [],
  short: '0',
  state: 'open',
  other_lots: [],
  ...more,
})
const round = {
  id: 7,
  number: 'R-7',
  state: 'walking',
  stops: [stop(1), stop(2)],
  cartons: [],
  orders: [],
} as unknown as Schemas['PickRound']
const pick = (stop_id: number) => ({ what: 'pick' as const, body: { stop_id, quantity: '3' } })

/** What the server was asked, and how it answers; undefined for no answer at all. */
let asked: { path: string; key: string | null; body: string }[]
let answers: (path: string) => { status: number; body: object } | undefined

/** What a page has that the tests' own surroundings lack. */
function surroundings() {
  const shelf = () => {
    const kept = new Map<string, string>()
    return { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => kept.set(k, v) }
  }
  const based = class extends Request {
    constructor(to: RequestInfo | URL, init?: RequestInit) {
      super(typeof to === 'string' ? new URL(to, 'http://hand.test') : to, init)
    }
  }
  const stubs = { localStorage: shelf(), sessionStorage: shelf(), navigator: { onLine: true }, Request: based }
  for (const [name, stub] of Object.entries(stubs)) vi.stubGlobal(name, stub)
  vi.stubGlobal('window', { addEventListener: () => undefined })
}

/** The page as it is opened anew, with somebody signed on. */
async function opened(person: number) {
  vi.resetModules()
  vi.stubGlobal('fetch', async (request: Request) => {
    const path = new URL(request.url).pathname
    const answer = answers(path)
    if (!answer) throw new TypeError('no connection')
    asked.push({ path, key: request.headers.get('Idempotency-Key'), body: await request.text() })
    const type = answer.status < 400 ? 'application/json' : 'application/problem+json'
    return new Response(JSON.stringify(answer.body), { status: answer.status, headers: { 'content-type': type } })
  })
  const { signedOn } = await import('@/api/session')
  signedOn({ person: { id: person, name: `Person ${person}` }, csrf: 'x', may: [] as string[] } as Schemas['SignedOn'])
  const { queue, mine, loaded, sendOrQueue, sendQueued, settle } = await import('./queue')
  await loaded
  return { queue, mine, sendOrQueue, sendQueued, settle }
}

const nobody = () => undefined
const everything = () => ({ status: 200, body: round })

beforeEach(() => {
  surroundings()
  asked = []
  answers = nobody
  vi.stubGlobal('indexedDB', new IDBFactory())
})

test('steps made without a connection outlive a reload, and go once, in order, under their keys', async () => {
  const before = await opened(4)
  const once = await before.sendOrQueue(round, pick(1), 'one')
  expect(once.stops[0]).toMatchObject({ picked: '3', state: 'picked' })
  await before.sendOrQueue(once, pick(2), 'two')
  const keys = before.mine.value.map((s) => s.key)
  expect(new Set(keys).size).toBe(2)

  const after = await opened(4)
  expect(after.mine.value.map((s) => s.words)).toEqual(['one', 'two'])
  answers = everything
  await after.sendQueued()
  expect(asked.map((a) => a.key)).toEqual(keys)
  expect(after.queue.steps).toEqual([])
  expect((await opened(4)).queue.steps).toEqual([])
})

test('a refused step stops those behind it until it is settled, and another person’s wait for them', async () => {
  const first = await opened(4)
  await first.sendOrQueue(round, pick(1), 'mine')
  const second = await opened(5)
  await second.sendOrQueue(round, pick(1), 'refused')
  await second.sendOrQueue(round, pick(2), 'behind')
  answers = () => ({ status: 409, body: { code: 'stop_done', detail: 'It is done.' } })
  await second.sendQueued()
  expect(second.queue.refused).toBe('It is done.')
  expect(second.mine.value.map((s) => s.words)).toEqual(['refused', 'behind'])
  answers = everything
  await second.settle(false)
  await vi.waitFor(() => expect(second.mine.value).toEqual([]))
  expect(asked.map((a) => JSON.parse(a.body).stop_id)).toEqual([1, 2])
  expect(second.queue.steps.map((s) => s.words)).toEqual(['mine'])
})

test('a round ended without a connection goes on when it got another stop since', async () => {
  const hand = await opened(4)
  const short = { what: 'short' as const, body: { stop_id: 1, found: '1' } }
  const after = await hand.sendOrQueue(round, short, 'short')
  expect(after.stops[0]).toMatchObject({ short: '2', state: 'open' })
  await hand.sendOrQueue(after, { what: 'stage', body: {} }, 'ended')
  answers = (path) =>
    path.endsWith('/stage')
      ? { status: 409, body: { code: 'stops_left', detail: '1 stop is left.' } }
      : { status: 200, body: round }
  await hand.sendQueued()
  expect(hand.queue).toMatchObject({ steps: [], refused: '' })
  expect(hand.queue.news).toContain('1 stop is left.')
})

test('a lot that the device does not know there is not taken without a connection', async () => {
  const hand = await opened(4)
  const lots = {
    lot: 'A1',
    expires_on: null,
    planned_lot: null,
    other_lots: [{ lot: 'B2', expires_on: '2028-01-01', free: '3' }],
  }
  const here = { ...round, stops: [stop(1, { ...lots, bin: 'A-01' })] } as unknown as Schemas['PickRound']
  const other = (lot: string) => ({ what: 'other_lot' as const, body: { stop_id: 1, lot } })
  await expect(hand.sendOrQueue(here, other('C3'), '')).rejects.toMatchObject({ code: 'wrong_lot' })
  expect(hand.queue.steps).toEqual([])
  const taken = await hand.sendOrQueue(here, other('b2'), 'another lot')
  expect(taken.stops[0]).toMatchObject({ id: 1, lot: 'B2', planned_lot: 'A1' })
})

const named = ['SP-1', 'SP-2', 'SP-3'].map((serial, i) => ({ serial, serial_id: i + 1, reservation_id: i + 1 }))
const unit = {
  id: 1,
  quantity: '3',
  picked: '0',
  short: '0',
  state: 'open',
  serials: named.map((u) => u.serial),
  units: named,
}
const byUnit = {
  id: 7,
  number: 'R-7',
  state: 'walking',
  stops: [unit],
  cartons: [],
  orders: [{ id: 1, number: 'S-1' }],
}
const here = byUnit as unknown as Schemas['PickRound']

test('units that were taken without a connection are asked for no more, by name or among those that lie there', async () => {
  const { withStep } = await import('./steps')
  const taken = withStep(here, { what: 'pick', body: { stop_id: 1, quantity: '2', serials: ['SP-3', 'SP-1'] } })
  expect(taken.stops[0]).toMatchObject({ picked: '2', state: 'open', serials: ['SP-2'] })
  expect(taken.stops[0]!.units.map((u) => u.serial)).toEqual(['SP-2'])
  const all = withStep(taken, { what: 'pick', body: { stop_id: 1, quantity: '1', serials: ['SP-2'] } })
  expect(all.stops[0]).toMatchObject({ picked: '3', state: 'picked', serials: [], units: [] })
})

test('a round looks as it will once it is told: begun, a carton opened once, a bin found short, and ended', async () => {
  const { withStep } = await import('./steps')
  expect(withStep(here, { what: 'start' }).state).toBe('walking')
  const open = { what: 'cartons', body: { scan: ']C100095212340000000017', order_id: 1 } } as const
  const opened = withStep(withStep(here, open), open)
  expect(opened.cartons).toHaveLength(1)
  expect(opened.cartons[0]).toMatchObject({ letter: 'A', sscc: '095212340000000017', order: 'S-1' })
  const short = withStep(here, { what: 'short', body: { stop_id: 1, found: '1' } })
  expect(short.stops[0]).toMatchObject({ short: '2', state: 'open' })
  expect(withStep(here, { what: 'short', body: { stop_id: 1, found: '0' } }).stops[0]!.state).toBe('short')
  expect(withStep(here, { what: 'stage', body: {} }).state).toBe('done')
})

test('a stop that empties its bin asks for a look on the device too, until somebody has looked', async () => {
  const { withStep } = await import('./steps')
  const emptying = {
    ...round,
    stops: round.stops.map((s, i) => ({ ...s, location_id: 7, item_id: 3, empties: i === 0, ask_nought: false })),
  }
  const first = emptying.stops[0]!
  const taken = withStep(emptying, { what: 'pick', body: { stop_id: first.id, quantity: first.quantity } })
  expect(taken.stops[0]).toMatchObject({ state: 'picked', ask_nought: true })
  const looked = withStep(taken, { what: 'nought', body: { stop_id: first.id, left: '0' } })
  expect(looked.stops.map((s) => s.ask_nought)).toEqual(looked.stops.map(() => false))
})
