// What a browser loads first, and what each page adds to it, as gzip: node build/sizes.mjs [--brief]. Fails above the limits.
import { gzipSync } from 'node:zlib'
import { readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const dist = join(dirname(fileURLToPath(import.meta.url)), '../../internal/platform/web/dist')
const read = (name) => readFileSync(join(dist, name))
const size = (name) => gzipSync(read(name)).length
const first = [...read('index.html').toString().matchAll(/(?:src|href)="\/(assets\/[^"]+\.(?:js|css))"/g)].map((m) => m[1])
/** The scripts that a script needs before it runs. */
const imports = (name) =>
  [...read(name).toString().matchAll(/(?:from|import)\s*["']\.\/([^"']+\.js)["']/g)].map((m) => `assets/${m[1]}`)
function all(names) {
  const seen = new Set()
  const visit = (n) => {
    if (seen.has(n)) return
    seen.add(n)
    if (n.endsWith('.js')) imports(n).forEach(visit)
  }
  names.forEach(visit)
  return seen
}
const loaded = all(first)
const kB = (names) => [...names].reduce((sum, n) => sum + size(n), 0) / 1000
const rows = [['first load', kB(loaded), 300]]
const entry = first.find((n) => n.endsWith('.js'))
const pages = [...read(entry).toString().matchAll(/import\((?:"|'|`)\.\/([^"'`]+\.js)/g)].map((m) => `assets/${m[1]}`)
for (const page of new Set(pages)) {
  const own = [...all([page])].filter((n) => !loaded.has(n))
  rows.push([page.replace(/^assets\/|-[^-]+\.js$/g, ''), kB(own), 120])
}
rows.sort((a, b) => b[1] - a[1])
const shown = process.argv.includes('--brief') ? rows.filter(([n, is, limit], i) => i < 2 || is > limit || n === 'first load') : rows
for (const [name, is, limit] of shown) console.log(`${is.toFixed(1).padStart(7)} kB of ${limit}  ${name}${is > limit ? '  TOO LARGE' : ''}`)
if (rows.some(([, is, limit]) => is > limit)) process.exit(1)
