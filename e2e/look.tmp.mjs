import { signedOn } from './lib/browser.mjs'
import { ask, command, order, round, scan } from './lib/floor.mjs'
const base='http://127.0.0.1:8095'
const { browser, page } = await signedOn(base, 'lead')
page.on('console',m=>{ if(m.type()==='error') console.log('console',m.text()) })
const snap=async n=>{ await page.waitForTimeout(900); await page.screenshot({path:`/tmp/shots/${n}.png`}) }
const o = await order(page, [['RS-200','2']])
const l=(await ask(page,`/sales-orders/${o.id}`)).lines[0]
const st=(await ask(page,`/sales-lines/${l.id}/stock`))[0]
await command(page,`/sales-lines/${l.id}/pins`,{pins:[{place_id:st.place_id,quantity:'2'}]})
await page.goto('/orders/pins'); await snap('pins')
await page.goto('/host'); await snap('host')
await page.goto('/orders/list'); await snap('table')
await page.goto('/'); await snap('floor')
await page.goto('/itself/1'); await page.waitForTimeout(900); await snap('itself')
await page.goto('/pack'); await page.waitForTimeout(600); await page.locator('nav.q a.card').nth(1).click(); await snap('pack')
const h = await (await browser.newContext({viewport:{width:412,height:800},baseURL:base})).newPage()
await h.goto('/'); 
await browser.close()
