import { dayOf, timeOf } from './clock'

/** A time as the site's clock shows it, with the day when it is not today. */
export function when(iso: string): string {
  const at = new Date(iso)
  return dayOf(at) === today() ? timeOf(at) : `${dayOf(at)} ${timeOf(at)}`
}

/** Today at the site, or so many days on, as YYYY-MM-DD. */
export function today(ahead = 0): string {
  const [year, month, day] = dayOf(new Date()).split('-').map(Number)
  return new Date(Date.UTC(year!, month! - 1, day! + ahead)).toISOString().slice(0, 10)
}

/** How long ago, in words. */
export function since(iso: string): string {
  const minutes = Math.max(0, Math.round((Date.now() - new Date(iso).getTime()) / 60_000))
  if (minutes < 60) return `${minutes} min`
  if (minutes < 48 * 60) return `${Math.round(minutes / 60)} h`
  return `${Math.round(minutes / 1440)} days`
}

/** Money as it is read: two decimals. */
export const money = (amount: string) => (amount === '' ? '' : Number(amount).toFixed(2))

export function plural(n: number, noun: string): string {
  return `${n} ${noun}${n === 1 ? '' : 's'}`
}

/** Serials in few words: one, or the first and how many more. */
export function unitsWords(codes: string[]): string {
  return codes.length > 1 ? `${codes[0]} and ${codes.length - 1} more` : (codes[0] ?? '')
}

/** A state as people read it: "on_hold" is "on hold". */
export const stateWords = (state: string) => (state === 'placed' ? 'sent to supplier' : state.replaceAll('_', ' '))

/** Which goods of an item: their lot, their serial, and the end of the number they stand under. */
export const goodsWords = (g: { lot?: string | null; serial?: string | null; carton?: string | null }) =>
  [g.lot, g.serial, g.carton ? `…${g.carton.slice(-5)}` : ''].filter(Boolean).join(' ')
