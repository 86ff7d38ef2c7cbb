import { nextTick } from 'vue'
import { useRouter } from 'vue-router'

/** How long a page may take to draw its heading before the focus is left where it is, in ms. */
const patience = 3000

/** After navigation the focus goes to the heading of what was opened, unless somebody is in a field by then. */
export function useHeadingFocus() {
  const router = useRouter()
  let latest = 0
  router.afterEach(async (to, from, failure) => {
    if (failure || to.path === from.path || to.meta.hand || from.matched.length === 0) return
    const mine = ++latest
    const before = document.querySelector('#main h1')
    const words = before?.textContent
    await nextTick()
    const until = performance.now() + patience
    const look = () => {
      if (mine !== latest || document.activeElement?.closest('input, textarea, [role=dialog]')) return
      const heading = document.querySelector<HTMLElement>('#main h1')
      const isNew = heading && (heading !== before || heading.textContent !== words)
      if (isNew || (heading && performance.now() > until - patience / 2)) {
        heading.tabIndex = -1
        heading.focus({ preventScroll: true })
      } else if (performance.now() < until) requestAnimationFrame(look)
    }
    requestAnimationFrame(look)
  })
}
