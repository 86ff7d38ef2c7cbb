import { api, ask, Problem } from '@/api/client'

/** Whether a scan is a GS1 code, with its symbology prefix or in brackets. */
export const looksGS1 = (scan: string) => /^[\](]/.test(scan)

/** The serial that a scan of a unit says: in a GS1 code of this item, or the text itself. */
export async function serialOf(scan: string, item: { id: number; sku: string }, site: number): Promise<string> {
  if (!looksGS1(scan)) return scan
  const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site, text: scan } } }))
  if (reading.goods?.item.id !== item.id)
    throw new Problem(
      409,
      'wrong_item',
      `You scanned ${reading.goods?.item.sku ?? scan}. Scan the serial on a ${item.sku}.`,
    )
  if (!reading.goods.serial)
    throw new Problem(409, 'wrong_item', `That label of ${item.sku} has no serial. Scan the one on the unit.`)
  return reading.goods.serial
}
