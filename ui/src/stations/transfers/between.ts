import { newKey } from '@/parts/lines'
import { today } from '@/parts/words'

/** A line of a transfer as it is typed: how much of an item, in one of its packs or in base units. */
export interface Line {
  key: string
  item: number
  sku: string
  text: string
  unit: string
  packs: { id: number; name: string }[]
  pack: number
  quantity: string
  tracking: string
  /** The lot that goes, and the units; the withdrawal rule chooses without. */
  lot: number
  serials: string[]
}

/** A transfer to another site as it is typed. */
export interface Wish {
  to: number | null
  wanted: string
  expected: string
  carrier: string
  reason: string
  lines: Line[]
}

export const blank = (): Wish => ({
  to: null,
  wanted: today(1),
  expected: today(3),
  carrier: '',
  reason: '',
  lines: [],
})

export const lineOf = (item: {
  id: number
  sku: string
  description: string
  base_unit: string
  tracking: string
  packs: { id: number; name: string }[]
}): Line => ({
  key: newKey(),
  item: item.id,
  sku: item.sku,
  text: item.description,
  unit: item.base_unit,
  packs: item.packs.map(({ id, name }) => ({ id, name })),
  pack: 0,
  quantity: '',
  tracking: item.tracking,
  lot: 0,
  serials: [],
})
