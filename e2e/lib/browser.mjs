import { chromium } from '@playwright/test'

export const executablePath = process.env.CHROMIUM ?? '/usr/bin/chromium'
export const args = [
  '--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync',
]

/** Waits until a page has all that it asked the server for, and has drawn it. */
export const settled = (page) =>
  page.waitForFunction(async () => {
    for (let frame = 0; frame < 4; frame++) {
      await new Promise(requestAnimationFrame)
      if (document.documentElement.dataset.fetching !== '0') return false
    }
    return document.fonts.status === 'loaded'
  })

/** Opens a page signed on as somebody. */
export async function signedOn(base, login, viewport = { width: 1280, height: 800 }) {
  const browser = await chromium.launch({ executablePath, args })
  const page = await (await browser.newContext({ viewport, baseURL: base })).newPage()
  await page.goto('/')
  await page.getByLabel('Name').fill(login)
  await page.getByLabel('Password').fill('lantern')
  await page.getByRole('button', { name: 'Sign on', exact: true }).click()
  await page.locator('[data-station=receive]').waitFor()
  return { browser, page }
}
