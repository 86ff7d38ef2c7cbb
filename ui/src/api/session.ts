import { reactive } from 'vue'
import type { Schemas } from './client'

/** Who is signed on at this device, and which site it looks at. */
export const session = reactive({
  person: null as Schemas['PeoplePerson'] | null,
  csrf: '',
  site: Number(localStorage.getItem('site')) || 1,
  /** The session ended while a page was open: sign on again over it. */
  ended: false,
  /** The first look at who is signed on is done. */
  known: false,
})

export function signedOn(s: Schemas['SignedOn']) {
  session.person = s.person
  session.csrf = s.csrf
  session.ended = false
}

export function lookAt(site: number) {
  session.site = site
  localStorage.setItem('site', String(site))
}
