import type { Column } from './columns'

/** Text that a spreadsheet would run as a formula when it is opened. */
const harmful = /^[=+\-@\t\r]/
const number = /^[+-]?\d+(\.\d+)?$/

function cellOf(text: string): string {
  const safe = harmful.test(text) && !number.test(text) ? `'${text}` : text
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe
}

/** The columns of rows as a CSV file (RFC 4180): their text as it stands on the screen, the labels first. */
export function csvOf<R>(columns: Column<R>[], rows: readonly R[]): string {
  const named = columns.filter((c) => c.of && c.label)
  const lines = [named.map((c) => c.label), ...rows.map((r) => named.map((c) => String(c.of!(r) ?? '')))]
  return lines.map((line) => line.map(cellOf).join(',') + '\r\n').join('')
}

/** Gives a file to whoever looks at the page. */
export function saveFile(name: string, text: string) {
  // A spreadsheet takes the file for UTF-8 by its mark.
  const url = URL.createObjectURL(new Blob(['\uFEFF', text], { type: 'text/csv' }))
  const link = Object.assign(document.createElement('a'), { href: url, download: name })
  link.click()
  URL.revokeObjectURL(url)
}
