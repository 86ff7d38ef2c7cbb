import { api, ask, Problem, type Schemas } from '@/api/client'

/** The serials that a scan names: the one in a GS1 code of this item, or the text itself. */
export async function serialsOf(scan: string, line: Schemas['ReceiveOrderLine'], site: number): Promise<string[]> {
  if (!/^[\](]/.test(scan)) return [scan]
  const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site, text: scan } } }))
  if (reading.goods?.item.id !== line.item_id)
    throw new Problem(
      409,
      'wrong_item',
      `You scanned ${reading.goods?.item.sku ?? scan}. Here come units of ${line.sku}.`,
    )
  if (!reading.goods.serial) throw new Problem(409, 'wrong_item', `That label has no serial. Scan the one on the unit.`)
  return [reading.goods.serial]
}
