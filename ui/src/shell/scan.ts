import { onScopeDispose, shallowRef } from 'vue'
import type { Schemas } from '@/api/client'

/** What a page does with a scan when its step wants one; true when it took it. */
export type Taker = (text: string, reading: Schemas['ResolvingReading'] | null) => boolean | Promise<boolean>

const current = shallowRef<{ take: Taker; working: () => boolean } | null>(null)

/**
 * The page that is open takes scans first; the scan line opens what it does not take, and asks before while the page
 * says that something is being worked on there.
 */
export function takeScans(take: Taker, working: () => boolean = () => false) {
  const mine = { take, working }
  current.value = mine
  onScopeDispose(() => {
    if (current.value === mine) current.value = null
  })
}

export const currentTaker = current

/** Where each kind of thing is looked at. */
export function pathOf(f: Schemas['ResolvingFound']): string {
  switch (f.kind) {
    case 'bin':
      return `/stock/location/${f.id}`
    case 'item':
      return `/stock/item/${f.id}`
    case 'lot':
      return `/stock/lot/${f.id}`
    case 'serial':
      return `/stock/serial/${f.id}`
    case 'carton':
      return f.outbound ? `/pack/${f.id}` : `/stock/carton/${f.id}`
    case 'order':
      return `/orders/${f.id}`
    case 'purchase':
      return `/receive/order/${f.id}`
    case 'transfer':
      return `/transfers/${f.id}`
    case 'customer_return':
      return `/returns/${f.id}`
    case 'arrival':
      return `/receive/arrival/${f.id}`
    case 'round':
      return `/pick/${f.id}`
    case 'walk':
      return `/hand/walk/${f.id}`
    case 'refill':
      return `/transfers/refills/${f.id}`
    case 'recall':
      return `/audit/recall/recall/${f.id}`
    case 'load':
      return `/dispatch/load/${f.id}`
    case 'invoice':
      return `/dispatch/invoices/${f.id}`
    case 'count':
      return `/stock/location/${f.id}`
    case 'schedule':
      return `/schedules/${f.id}`
    case 'shipment':
      return `/dispatch/${f.id}`
    case 'person':
      return `/stock/history?person=${encodeURIComponent(f.code)}`
    case 'supplier':
      return `/catalog/suppliers/${encodeURIComponent(f.code)}`
    case 'customer':
      return `/catalog/customers/${encodeURIComponent(f.code)}`
  }
}
