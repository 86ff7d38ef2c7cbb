/**
 * A three-way merge of what was read, what is typed here, and what stands on the server now: fields that nobody touched
 * here follow the server, touched ones stay, and where both changed to something else both are told. Elements of an
 * array are told apart by their `key`, so that lines are merged line by line.
 */
export type Json = string | number | boolean | null | undefined | Json[] | { [field: string]: Json }

/** A field that was changed here and on the server, to different things. */
export interface Conflict {
  /** The way to the field, such as ['lines', '17', 'quantity']; a line is named by its key. */
  path: string[]
  mine: Json
  theirs: Json
}

export interface Merged<T> {
  value: T
  conflicts: Conflict[]
}

type Fields = { [field: string]: Json }
const isFields = (v: Json): v is Fields => typeof v === 'object' && v !== null && !Array.isArray(v)
const keyed = (v: Json): v is Fields[] => Array.isArray(v) && v.every((x) => isFields(x) && 'key' in x)
export const same = (a: Json, b: Json) => JSON.stringify(a) === JSON.stringify(b)

export function merge<T extends Json>(base: T, mine: T, theirs: T): Merged<T> {
  const conflicts: Conflict[] = []
  return { value: mergeAt(base, mine, theirs, [], conflicts) as T, conflicts }
}

function mergeAt(base: Json, mine: Json, theirs: Json, path: string[], conflicts: Conflict[]): Json {
  if (same(mine, theirs) || same(theirs, base)) return mine
  if (same(mine, base)) return theirs
  if (isFields(base) && isFields(mine) && isFields(theirs)) return mergeFields(base, mine, theirs, path, conflicts)
  if (keyed(base) && keyed(mine) && keyed(theirs)) return mergeLines(base, mine, theirs, path, conflicts)
  conflicts.push({ path, mine, theirs })
  return mine
}

function mergeFields(base: Fields, mine: Fields, theirs: Fields, path: string[], conflicts: Conflict[]): Fields {
  const names = [...new Set([...Object.keys(mine), ...Object.keys(theirs)])]
  return Object.fromEntries(names.map((n) => [n, mergeAt(base[n], mine[n], theirs[n], [...path, n], conflicts)]))
}

/** Lines keep the order they have here; what the server has more of comes after them. */
function mergeLines(base: Fields[], mine: Fields[], theirs: Fields[], path: string[], conflicts: Conflict[]): Fields[] {
  const of = (lines: Fields[], key: Json) => lines.find((l) => same(l.key, key))
  const merged: Fields[] = []
  for (const m of mine) {
    const [b, t] = [of(base, m.key), of(theirs, m.key)]
    const at = [...path, String(m.key)]
    if (t) merged.push(mergeAt(b ?? m, m, t, at, conflicts) as Fields)
    else if (!b) merged.push(m)
    else if (!same(m, b)) {
      // It is gone there and changed here.
      conflicts.push({ path: at, mine: m, theirs: undefined })
      merged.push(m)
    }
  }
  for (const t of theirs) {
    if (of(mine, t.key)) continue
    const b = of(base, t.key)
    if (!b) merged.push(t)
    // It is removed here and changed there.
    else if (!same(t, b)) conflicts.push({ path: [...path, String(t.key)], mine: undefined, theirs: t })
  }
  return merged
}

/** The value with one field set, the way to it as a conflict gives it. */
export function withField<T extends Json>(value: T, path: string[], to: Json): T {
  const [name, ...rest] = path
  if (name === undefined) return to as T
  if (Array.isArray(value)) {
    const lines = value as Fields[]
    if (rest.length === 0 && to !== undefined && !lines.some((l) => String(l.key) === name)) return [...lines, to] as T
    return lines.flatMap((l) => {
      if (String(l.key) !== name) return [l]
      const changed = withField(l as Json, rest, to)
      return changed === undefined ? [] : [changed as Fields]
    }) as T
  }
  return { ...(value as Fields), [name]: withField((value as Fields)[name], rest, to) } as T
}
