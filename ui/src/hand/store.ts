import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import { Problem, type Schemas } from '@/api/client'
import type { Step } from './steps'

/**
 * What this device keeps for whoever works without a connection: who is signed on, the rounds at hand with what was
 * scanned at the stop of the moment, and the steps that are not sent yet. All but who is signed on is kept by person.
 */
export type QueuedStep = { key: string; person: number; name: string; round: number; words: string; step: Step }

/** Where somebody is on a round: what was scanned so far at which stop. */
export type Place = {
  stop?: number
  scans: { bin?: string; item?: string; lot?: string; carton?: string; each?: string[] }
  units: string[]
  step: Schemas['PickChecked']['next']
  quantity: string
  skipped: number[]
}

export type KeptRound = { person: number; id: number; round: Schemas['PickRound']; place?: Place }
type KeptPerson = { person: Schemas['PeoplePerson']; at: number; left?: boolean }

interface Kept extends DBSchema {
  people: { key: 'here'; value: KeptPerson }
  rounds: { key: [number, number]; value: KeptRound }
  /** In the order they were made: by a number that only grows. */
  steps: { key: number; value: QueuedStep & { seq?: number }; indexes: { key: string } }
}

/** How long somebody goes on without an answer of the server, in ms: a long shift. */
const stillHere = 14 * 60 * 60 * 1000

let opened: Promise<IDBPDatabase<Kept>> | undefined
function open() {
  opened ??= openDB<Kept>('lanternrow.hand', 1, {
    upgrade(db) {
      db.createObjectStore('people')
      db.createObjectStore('rounds', { keyPath: ['person', 'id'] })
      db.createObjectStore('steps', { keyPath: 'seq', autoIncrement: true }).createIndex('key', 'key', { unique: true })
    },
  })
  return opened
}

/** Plain data, as the database takes it: what the page follows is no such thing. */
const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

export async function keepPerson(person: Schemas['PeoplePerson']) {
  await (await open()).put('people', { person: plain(person), at: Date.now() }, 'here')
}

/** Whoever is signed on at this device, unless that was too long ago; or signed off untold, however long ago. */
export async function keptPerson(): Promise<KeptPerson | undefined> {
  const kept = await (await open()).get('people', 'here')
  return kept && (kept.left || Date.now() - kept.at < stillHere) ? kept : undefined
}

/** Somebody signs off while the server cannot be told: it is told before anything else when it is back. */
export async function leavePerson() {
  const db = await open()
  const kept = await db.get('people', 'here')
  if (kept) await db.put('people', { ...kept, left: true }, 'here')
}

export async function forgetPerson() {
  await (await open()).delete('people', 'here')
}

export async function keepRound(person: number, round: Schemas['PickRound']) {
  const tx = (await open()).transaction('rounds', 'readwrite')
  const before = await tx.store.get([person, round.id])
  await tx.store.put({ ...before, person, id: round.id, round: plain(round) })
  await tx.done
}

export async function keepPlace(person: number, round: number, place: Place) {
  const tx = (await open()).transaction('rounds', 'readwrite')
  const before = await tx.store.get([person, round])
  if (before) await tx.store.put({ ...before, place: plain(place) })
  await tx.done
}

export const keptRound = async (person: number, id: number) => (await open()).get('rounds', [person, id])

export const keptRounds = async (person: number) =>
  (await open()).getAll('rounds', IDBKeyRange.bound([person, 0], [person, Number.MAX_SAFE_INTEGER]))

export async function forgetRound(person: number, id: number) {
  await (await open()).delete('rounds', [person, id])
}

export const keptSteps = async (): Promise<QueuedStep[]> => (await open()).getAll('steps')

/** Keeps a step. When this device cannot, it is refused: what is not kept would be lost. */
export async function keepStep(step: QueuedStep) {
  try {
    await (await open()).add('steps', plain(step))
  } catch {
    throw new Problem(
      507,
      'device_full',
      'This device has no room to keep the step, so it was not made. Free some, or go where there is a connection.',
    )
  }
}

export async function dropStep(key: string) {
  const db = await open()
  const seq = await db.getKeyFromIndex('steps', 'key', key)
  if (seq !== undefined) await db.delete('steps', seq)
}
