import { onScopeDispose, shallowRef } from 'vue'
import type { Schemas } from '@/api/client'

/** What a page does with a scan when its step wants one; true when it took it. */
export type Taker = (text: string, reading: Schemas['ResolvingReading'] | null) => boolean | Promise<boolean>

const taker = shallowRef<Taker | null>(null)

/** The page that is open takes scans first; the scan line opens what it does not take. */
export function takeScans(take: Taker) {
  taker.value = take
  onScopeDispose(() => {
    if (taker.value === take) taker.value = null
  })
}

export const currentTaker = taker

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
      return `/pack/${f.id}`
    case 'order':
      return `/orders/${f.id}`
    case 'purchase':
      return `/receive/order/${f.id}`
    case 'arrival':
      return `/receive/arrival/${f.id}`
    case 'round':
      return `/pick/${f.id}`
    case 'walk':
      return `/hand/walk/${f.id}`
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
    default:
      return '/'
  }
}
