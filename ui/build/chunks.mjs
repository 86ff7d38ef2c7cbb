// Which built scripts and styles a page needs: what it imports, and what those import.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'

const names = (text, pattern) => [...text.matchAll(pattern)].map((m) => `assets/${m[1]}`)

/** Reads what was built into a folder. */
export function built(dist) {
  const read = (name) => readFileSync(join(dist, name))
  const text = (name) => read(name).toString()
  /** What the page asks for before anything runs. */
  const first = () => names(text('index.html'), /(?:src|href)="\/assets\/([^"]+\.(?:js|css))"/g)
  /** The scripts that a script needs before it runs. */
  const imports = (name) => names(text(name), /(?:from|import)\s*["']\.\/([^"']+\.js)["']/g)
  /** The pages and parts that a script fetches when they are wanted. */
  const fetched = (name) => names(text(name), /import\((?:"|'|`)\.\/([^"'`]+\.js)/g)
  function reached(from) {
    const seen = new Set()
    const visit = (n) => {
      if (seen.has(n)) return
      seen.add(n)
      if (n.endsWith('.js')) imports(n).forEach(visit)
    }
    from.forEach(visit)
    return seen
  }
  return { read, first, fetched, reached }
}
