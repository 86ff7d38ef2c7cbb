import type { Schemas } from '@/api/client'

type Kind = Schemas['TransfersNewCase']['kind']
type Outcome = Schemas['TransfersSettling']['outcome']

/** How what came can differ from what was shipped. */
export const kinds: { value: Kind; label: string }[] = [
  { value: 'less', label: 'did not come' },
  { value: 'damaged', label: 'came damaged' },
  { value: 'other_lot', label: 'another lot came' },
  { value: 'more', label: 'came besides' },
]
export const kindWords = (kind: string) => kinds.find((k) => k.value === kind)?.label ?? kind

/** How a case may end. */
export function outcomes(c: Pick<Schemas['TransfersCase'], 'kind' | 'from'>): { value: Outcome; label: string }[] {
  const taken = {
    less: 'found and taken in here',
    damaged: 'taken in, to the damaged corner',
    other_lot: 'the other lot is taken in',
    more: 'taken in here',
  }[c.kind]
  const back = c.kind === 'more' ? `goes back to ${c.from}` : `back at ${c.from}`
  const ends: { value: Outcome; label: string }[] = [
    { value: 'received', label: taken },
    { value: 'back', label: back },
  ]
  if (c.kind === 'more') return ends
  return [...ends, { value: 'lost', label: 'lost on the way' }, { value: 'carrier', label: 'the carrier pays' }]
}
export const outcomeWords = (c: Schemas['TransfersCase']) =>
  outcomes(c).find((o) => o.value === c.outcome)?.label ?? c.outcome
