import { afterEach, expect, it, vi } from 'vitest'
import { dayOf, differs, timeOf, zone } from './clock'
import { today, when } from './words'

afterEach(() => vi.useRealTimers())

it('shows instants by the clock of the site, whatever the device says', () => {
  vi.useFakeTimers({ now: new Date('2026-11-26T23:30:00Z') })
  const at = new Date('2026-11-26T22:54:00Z')
  for (const [where, day, time, now] of [
    ['Europe/Berlin', '2026-11-26', '23:54', '2026-11-27'],
    ['America/New_York', '2026-11-26', '17:54', '2026-11-26'],
    ['Asia/Kolkata', '2026-11-27', '04:24', '2026-11-27'],
  ] as const) {
    zone.value = where
    expect([dayOf(at), timeOf(at), today()]).toEqual([day, time, now])
    expect(when(at.toISOString())).toBe(day === now ? time : `${day} ${time}`)
  }
  expect(today(35)).toBe('2027-01-01')
})

it('says where the two clocks differ', () => {
  zone.value = Intl.DateTimeFormat().resolvedOptions().timeZone
  expect(differs.value).toBe(false)
  zone.value = 'Pacific/Kiritimati'
  expect(differs.value).toBe(true)
})
