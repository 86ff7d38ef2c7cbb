/** What every line of an order has while it is typed. */
interface TypedLine {
  /** What tells it from the others: its id, or a name of its own while it has none. */
  key: string
  id?: number
  sku: string
  text: string
}

let made = 0
/** A name for a line that has no id yet: of this visit and no other, since drafts are kept over a reload. */
export const newKey = () => `new ${Date.now()} ${made++}`

/** The lines of the order as it was read that are taken off it: said, never implied. */
export const removedLines = (read: TypedLine[], typed: TypedLine[]) =>
  read.flatMap((l) => (l.id && !typed.some((m) => m.key === l.key) ? [l.id] : []))

/** How a field is called where somebody else changed it too: by its name, and the line it is on. */
export function calledAt(path: string[], names: Record<string, string>, lines: TypedLine[]): string {
  const line = path[0] === 'lines' ? lines.find((l) => l.key === path[1]) : undefined
  const field = names[path.at(-1)!] ?? 'the line'
  return line ? `${field} of ${line.sku || line.text}` : field
}
