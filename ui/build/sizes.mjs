// What a browser loads first, and what each page adds to it, as gzip: node build/sizes.mjs [--brief]. Fails above the limits.
import { gzipSync } from 'node:zlib'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { built } from './chunks.mjs'

const dist = join(dirname(fileURLToPath(import.meta.url)), '../../internal/platform/web/dist')
const { read, first, fetched, reached } = built(dist)
const size = (name) => gzipSync(read(name)).length
const loaded = reached(first())
const kB = (names) => [...names].reduce((sum, n) => sum + size(n), 0) / 1000
const rows = [['first load', kB(loaded), 300]]
const pages = fetched(first().find((n) => n.endsWith('.js')))
for (const page of new Set(pages)) {
  const own = [...reached([page])].filter((n) => !loaded.has(n))
  rows.push([page.replace(/^assets\/|-[^-]+\.js$/g, ''), kB(own), 120])
}
rows.sort((a, b) => b[1] - a[1])
const shown = process.argv.includes('--brief') ? rows.filter(([n, is, limit], i) => i < 2 || is > limit || n === 'first load') : rows
for (const [name, is, limit] of shown) console.log(`${is.toFixed(1).padStart(7)} kB of ${limit}  ${name}${is > limit ? '  TOO LARGE' : ''}`)
if (rows.some(([, is, limit]) => is > limit)) process.exit(1)
