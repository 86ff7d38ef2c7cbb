import type { Schemas } from '@/api/client'

/** How orders are shared out among rounds. */
export type Split = NonNullable<Schemas['SchedulesWish']['settings']['split']>

export const splits: { value: Split; label: string }[] = [
  { value: 'walk', label: 'that walk least together' },
  { value: 'zone', label: 'a zone each' },
  { value: 'order', label: 'an order each' },
  { value: 'one', label: 'all in one' },
]
