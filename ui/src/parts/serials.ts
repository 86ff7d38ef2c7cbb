import { api, ask, type Schemas } from '@/api/client'

/** What a label, or what was typed, says of goods of an item. */
export type LabelParts = Schemas['ResolvingParts']

/** Whether a scan has the form of a GS1 code, so that it is worth asking the server what it says. */
export const looksGS1 = (scan: string) => /^[\](]|\u001d|^0[12]\d{14}/.test(scan)

/** What the server reads of an item's lot, serial or expiry; it refuses what says none, or is the item itself. */
export const readLabel = (item: number, part: 'lot' | 'serial' | 'expiry', text: string) =>
  ask(api.GET('/api/v1/items/{id}/label', { params: { path: { id: item }, query: { part, text } } }))

/** The codes that were typed one behind the other, with blanks, commas or semicolons between them. */
export const codesOf = (typed: string) => typed.split(/[\s,;]+/).filter(Boolean)

/** The serial that a scan of a unit says. Without a GS1 code it is the text, which needs no server. */
export async function serialOf(scan: string, item: number): Promise<string> {
  return looksGS1(scan) ? (await readLabel(item, 'serial', scan)).serial : scan
}
