/**
 * The request keys of commands that were sent and not answered yet: a command that is asked for again unchanged, by
 * another press, after a reload or when the connection is back, goes under the same key and so happens once. Kept for
 * this tab, since another tab's press is another wish.
 */
type Pending = Record<string, { key: string; at: number }>

const location = 'lanternrow.pending'
/** How long an unanswered command is remembered. The server keeps its answers longer. */
const remembered = 24 * 60 * 60 * 1000

function read(): Pending {
  try {
    const all = JSON.parse(sessionStorage.getItem(location) ?? '{}') as Pending
    return Object.fromEntries(Object.entries(all).filter(([, p]) => Date.now() - p.at < remembered))
  } catch {
    return {}
  }
}

const write = (all: Pending) => sessionStorage.setItem(location, JSON.stringify(all))

/** What tells one command from another: who asks, what for, and all that is sent with it. */
export const commandOf = (person: number | undefined, path: string, body: string) => `${person ?? 0} ${path} ${body}`

/** The key of a command: the one that it was sent under before, or the one that is offered. */
export function keyOf(command: string, offered: string): string {
  const all = read()
  const key = all[command]?.key ?? offered
  write({ ...all, [command]: { key, at: Date.now() } })
  return key
}

/** Whether an answer says what became of a command. Without one, and where the server does not know, nothing does. */
export const settles = (status: number) => status > 0 && status < 500

/** Forgets a command that was answered. */
export function answered(command: string) {
  const all = read()
  delete all[command]
  write(all)
}
