import type { Schemas } from '@/api/client'
import { plural } from './words'

/** A bin of the plan, with what it saw where that is shown. */
type Bin = Schemas['StockFloorBin'] & Partial<Pick<Schemas['StockBinUse'], 'picks' | 'age_days'>>

/** What the plan's colours say of its bins: a step from 0, nothing, to 5, the most, and what each step means. */
export interface FloorView {
  label: string
  step: (b: Bin) => number
  says: (b: Bin) => string
  /** Whether it needs what the bins saw, which is read apart. */
  uses?: boolean
  /** The meaning of the steps from 0 on; the plan draws no step that has none. */
  legend: string[]
}
export type FloorViewName = 'fullness' | 'age' | 'picks' | 'count'

/** The step whose upper bound a figure is within. */
const within = (figure: number, bounds: number[]) => {
  const i = bounds.findIndex((b) => figure <= b)
  return i < 0 ? bounds.length : i
}

export const floorViews: Record<FloorViewName, FloorView> = {
  fullness: {
    label: 'Fullness',
    step: (b) => (b.full >= 0.995 ? 5 : Math.min(4, Math.floor(b.full * 5 + (b.full > 0 ? 0.4 : 0)))),
    says: (b) => `${Math.round(b.full * 100)}% full`,
    legend: ['empty', 'a little', 'half', 'most', 'nearly full', 'full'],
  },
  age: {
    label: 'Age of the goods',
    uses: true,
    step: (b) => (b.age_days == null ? 0 : 1 + within(b.age_days, [1, 7, 30, 90])),
    says: (b) => (b.age_days == null ? 'nothing lies there' : `goods there for ${plural(b.age_days, 'day')}`),
    legend: ['nothing', 'to 1 day', 'to 7 days', 'to 30 days', 'to 90 days', 'longer'],
  },
  picks: {
    label: 'Picks of 7 days',
    uses: true,
    step: (b) => within(b.picks ?? 0, [0, 2, 5, 10, 20]),
    says: (b) => `${plural(b.picks ?? 0, 'pick')} in 7 days`,
    legend: ['none', '1 or 2', 'to 5', 'to 10', 'to 20', 'more'],
  },
  count: {
    label: 'To be counted',
    step: (b) => (b.count_request ? 5 : 0),
    says: (b) => (b.count_request ? 'to be counted' : 'nothing to count'),
    legend: ['nothing to count', '', '', '', '', 'to be counted'],
  },
}
