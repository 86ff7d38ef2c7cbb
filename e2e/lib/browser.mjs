import { chromium } from '@playwright/test'

export const executablePath = process.env.CHROMIUM ?? '/usr/bin/chromium'
export const args = [
  '--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync',
]

/**
 * Waits until a page has all that it asked the server for, has drawn it, and nothing on it comes to rest any more:
 * colours that change over to another theme too.
 */
export async function settled(page) {
  const still = () =>
    page.evaluate(async () => {
      for (let frame = 0; frame < 4; frame++) {
        await new Promise(requestAnimationFrame)
        const { fetching, restless } = document.documentElement.dataset
        if (fetching !== '0' || Number(restless ?? 0) > 0) return false
        const ends = (a) => a.playState === 'running' && Number.isFinite(a.effect?.getComputedTiming().endTime)
        if (document.getAnimations().some(ends)) return false
      }
      return document.fonts.status === 'loaded'
    })
  while (!(await still()));
}

/** Opens a page signed on as somebody. */
export async function signedOn(base, login, viewport = { width: 1280, height: 800 }) {
  const browser = await chromium.launch({ executablePath, args })
  const page = await (await browser.newContext({ viewport, baseURL: base, reducedMotion: 'reduce' })).newPage()
  await page.goto('/')
  await page.getByLabel('Name').fill(login)
  await page.getByLabel('Password').fill('lantern')
  await page.getByRole('button', { name: 'Sign on', exact: true }).click()
  await page.locator('[data-station=receive]').waitFor()
  return { browser, page }
}
