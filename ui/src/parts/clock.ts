import { computed, ref } from 'vue'

const here = Intl.DateTimeFormat().resolvedOptions().timeZone

/** The time zone of the site that is looked at: all times on the screen are by its clock. */
export const zone = ref(here)

const formats = computed(() => ({
  // Swedish writes dates and times as ISO 8601 does.
  day: new Intl.DateTimeFormat('sv-SE', { dateStyle: 'short', timeZone: zone.value }),
  time: new Intl.DateTimeFormat('sv-SE', { timeStyle: 'short', timeZone: zone.value }),
}))

/** The day of an instant at the site, as YYYY-MM-DD. */
export const dayOf = (at: Date) => formats.value.day.format(at)
/** The time of day of an instant at the site, as HH:MM. */
export const timeOf = (at: Date) => formats.value.time.format(at)

/** Whether this device's clock shows another time than the site's. */
export const differs = computed(() => {
  const now = new Date()
  const mine = new Intl.DateTimeFormat('sv-SE', { dateStyle: 'short', timeStyle: 'short', timeZone: here })
  return mine.format(now) !== `${dayOf(now)} ${timeOf(now)}`
})

/** The instant of a day and a time of day at the site, in ISO: NaN-free only where both are typed whole. */
export function instantOf(day: string, time: string): string | undefined {
  const wall = Date.parse(`${day}T${time}:00Z`)
  if (!Number.isFinite(wall)) return undefined
  // The zone's shift at about that instant, looked at twice for the days on which it changes.
  const shift = (at: number) => Date.parse(`${dayOf(new Date(at))}T${timeOf(new Date(at))}:00Z`) - at
  const rough = wall - shift(wall)
  return new Date(wall - shift(rough)).toISOString()
}
