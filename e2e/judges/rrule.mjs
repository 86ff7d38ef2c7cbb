// Says when a rule is due, one question a line of JSON on standard input, by rrule (RFC 5545): the rule's days of the
// week, 0 for Sunday, its times in minutes since midnight UTC, after when, and how many moments are asked for.
import { createInterface } from 'node:readline'
import rrule from 'rrule'

const { RRule } = rrule
const weekdays = [RRule.SU, RRule.MO, RRule.TU, RRule.WE, RRule.TH, RRule.FR, RRule.SA]

for await (const line of createInterface({ input: process.stdin })) {
  const { days, times, after, count } = JSON.parse(line)
  const start = new Date(after)
  const byTime = times.map(
    (m) =>
      new RRule({
        freq: RRule.DAILY,
        dtstart: new Date(start.getTime() - 864e5),
        byweekday: days?.length ? days.map((d) => weekdays[d]) : undefined,
        byhour: [Math.floor(m / 60)],
        byminute: [m % 60],
        bysecond: [0],
      }),
  )
  const due = []
  for (let at = start; due.length < count; ) {
    at = new Date(Math.min(...byTime.map((r) => r.after(at, false).getTime())))
    due.push(at.toISOString().slice(0, 16).replace('T', ' ') + ' UTC')
  }
  console.log(JSON.stringify(due))
}
