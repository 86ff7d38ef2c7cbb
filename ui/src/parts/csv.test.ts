import { expect, test } from 'vitest'
import { csvOf } from './csv'

interface Row {
  code: string
  units: string
}
const columns = [
  { name: 'code', label: 'Bin, or dock', of: (r: Row) => r.code },
  { name: 'units', label: 'Units', of: (r: Row) => r.units },
  { name: 'does', label: '' },
]

test('a list is a file of RFC 4180: quotes doubled, lines ended by CRLF, columns without words left out', () => {
  const rows = [
    { code: 'A-01', units: '3.5' },
    { code: 'the "red", one', units: '-2' },
  ]
  expect(csvOf(columns, rows)).toBe('"Bin, or dock",Units\r\nA-01,3.5\r\n"the ""red"", one",-2\r\n')
})

test.each(['=1+1', '+A1', '-A1', '@SUM(A1)', '\tx'])('%j is text in a spreadsheet, not a formula', (harm) => {
  expect(csvOf(columns, [{ code: harm, units: '1' }])).toContain(`\r\n'${harm},1\r\n`)
})
