/** When somebody touched this page last: what it asks by itself keeps no session open. */
let touched = Date.now()

/** For how long a touch says that somebody is there, in ms. */
const presence = 60_000

export const touchedLately = () => Date.now() - touched < presence

/** Notes from now on when somebody touches the page. */
export function noteTouches() {
  for (const kind of ['pointerdown', 'keydown', 'wheel', 'touchstart'])
    window.addEventListener(kind, () => (touched = Date.now()), { passive: true, capture: true })
}
