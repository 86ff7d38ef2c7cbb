import type { Schemas } from '@/api/client'
import { newKey } from '@/parts/lines'

/** Goods that come back, as they are typed. */
export interface Line {
  key: string
  sold: Pick<
    Schemas['ReturnsSold'],
    | 'shipment_id'
    | 'shipment'
    | 'line_id'
    | 'lot_id'
    | 'lot'
    | 'sku'
    | 'description'
    | 'unit'
    | 'tracking'
    | 'shipped'
    | 'returnable'
    | 'serials'
    | 'customer'
  >
  quantity: string
  serials: string[]
  reason: number | null
  said: string
}

/** A return as it is typed. */
export interface Wish {
  kind: number | null
  note: string
  lines: Line[]
}

export const blank = (): Wish => ({ kind: null, note: '', lines: [] })

export const lineOf = (sold: Schemas['ReturnsSold']): Line => ({
  key: newKey(),
  sold,
  quantity: sold.serials.length ? '' : sold.returnable,
  serials: [],
  reason: null,
  said: '',
})

/** Whether each unit has a serial. */
export const unitwise = (tracking: string) => tracking === 'serial' || tracking === 'serial_out'

/** What a return waits for, in a word or two. */
export function waitsFor(r: Schemas['ReturnsReturn']): string {
  switch (r.state) {
    case 'asked':
      return 'to be approved'
    case 'announced':
      return 'not here yet'
    case 'partly_received':
      return 'partly here'
    case 'received':
      return 'to be decided'
    case 'decided':
      return 'to be settled'
    default:
      return r.state
  }
}

/** What may become of goods that came back. */
export const fates: { value: Schemas['ReturnsVerdict']['fate']; label: string }[] = [
  { value: 'stock', label: 'back to stock' },
  { value: 'quarantine', label: 'quarantine' },
  { value: 'damaged', label: 'damaged' },
  { value: 'repair', label: 'to be repaired' },
  { value: 'supplier', label: 'back to the supplier' },
  { value: 'scrap', label: 'scrap' },
]
export const fateWords = (fate: string) => fates.find((f) => f.value === fate)?.label ?? fate

/** Goods that come back without a paper, as they are typed. */
export interface LooseLine {
  key: string
  item: number
  sku: string
  text: string
  tracking: string
  quantity: string
  lot: string
  /** Serials, with blanks or commas between them. */
  serials: string
  reason: number | null
  said: string
}

/** A return without a paper as it is typed. */
export interface LooseWish {
  kind: number | null
  customer?: Schemas['CatalogParty']
  reason: string
  lines: LooseLine[]
}

export const looseWish = (): LooseWish => ({ kind: null, customer: undefined, reason: '', lines: [] })

export const looseLine = (
  item: Pick<Schemas['CatalogItem'], 'id' | 'sku' | 'description' | 'tracking'>,
): LooseLine => ({
  key: newKey(),
  item: item.id,
  sku: item.sku,
  text: item.description,
  tracking: item.tracking,
  quantity: '',
  lot: '',
  serials: '',
  reason: null,
  said: '',
})

/** Whether lots of it are known. */
export const byLot = (tracking: string) => ['lot', 'lot_expiry', 'lot_out'].includes(tracking)
