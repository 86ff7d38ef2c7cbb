import { reactive, watch } from 'vue'
import type { Schemas } from './client'
import type { operations } from './schema'

/** Who is signed on at this device, and which site it looks at. */
export const session = reactive({
  person: null as Schemas['PeoplePerson'] | null,
  csrf: '',
  /** The operations that the person may use of those that not everyone may, or that change or plan something, as the server says. */
  may: [] as string[],
  /** Who is signed on is what this device kept: the server has not been asked yet. */
  kept: false,
  site: Number(localStorage.getItem('site')) || 1,
  /** The session ended while a page was open: sign on again over it. */
  ended: false,
  /** What is being done asks for the password of somebody who signed on with a badge. */
  passwordWanted: false,
  /** The first look at who is signed on is done. */
  known: false,
})

export function signedOn(s: Schemas['SignedOn']) {
  session.person = s.person
  session.csrf = s.csrf
  session.may = s.may
  session.kept = false
  session.ended = false
}

type Role = Schemas['PeoplePerson']['roles'][number]
/** Whether whoever is signed on works as one of these. */
export const worksAs = (...roles: Role[]) => !!session.person?.roles.some((r) => roles.includes(r))

/** Whether whoever is signed on is told what things cost and are sold for; who signed on with a badge is not. */
export const seesMoney = () => worksAs('lead', 'office', 'accounts') && !session.person?.badge

/** Whether whoever is signed on may use an operation: what they may not do is not offered. */
export const can = (operation: keyof operations) => session.may.includes(operation)

export function signedOff() {
  session.person = null
  session.csrf = ''
  session.kept = false
}

export function lookAt(site: number) {
  session.site = site
  localStorage.setItem('site', String(site))
}

/** How long whoever would not give the password is left alone by what only looks. */
const leftAlone = 60_000
let declinedAt = 0

/** Asks for the password, unless it was just declined. */
export function wantPassword() {
  if (Date.now() - declinedAt > leftAlone) session.passwordWanted = true
}

/** The question is closed: the password was given, or not. */
export function passwordAnswered(given: Schemas['SignedOn'] | null) {
  if (given) signedOn(given)
  else declinedAt = Date.now()
  session.passwordWanted = false
}

/** Waits until the question is closed, and tells whether the password was given. */
export function passwordGiven(): Promise<boolean> {
  declinedAt = 0
  session.passwordWanted = true
  return new Promise((done) => {
    const stop = watch(
      () => session.passwordWanted,
      (wanted) => {
        if (wanted) return
        stop()
        done(session.person?.badge === false)
      },
    )
  })
}
