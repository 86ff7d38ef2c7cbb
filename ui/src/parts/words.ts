const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })

/** A time as the site's clock shows it, with the day when it is not today. */
export function when(iso: string): string {
  const d = new Date(iso)
  const day = d.toLocaleDateString('sv-SE')
  return day === today() ? clock.format(d) : `${day} ${clock.format(d)}`
}

/** Today, or so many days on, as YYYY-MM-DD. */
export function today(ahead = 0): string {
  const d = new Date()
  d.setDate(d.getDate() + ahead)
  return d.toLocaleDateString('sv-SE')
}

/** How long ago, in words. */
export function since(iso: string): string {
  const minutes = Math.max(0, Math.round((Date.now() - new Date(iso).getTime()) / 60_000))
  if (minutes < 60) return `${minutes} min`
  if (minutes < 48 * 60) return `${Math.round(minutes / 60)} h`
  return `${Math.round(minutes / 1440)} days`
}

/** Money as it is read: two decimals. */
export const money = (amount: string) => Number(amount).toFixed(2)

export function plural(n: number, noun: string): string {
  return `${n} ${noun}${n === 1 ? '' : 's'}`
}

/** Serials in few words: one, or the first and how many more. */
export function unitsWords(codes: string[]): string {
  return codes.length > 1 ? `${codes[0]} and ${codes.length - 1} more` : (codes[0] ?? '')
}

/** A state as people read it: "on_hold" is "on hold". */
export const stateWords = (state: string) => (state === 'placed' ? 'sent to supplier' : state.replaceAll('_', ' '))
