// Judges bracketed GS1 texts, one a line of JSON on standard input, by bwip-js (the GS1 Barcode Syntax Dictionary).
// For each it prints what is wrong with it, or, when it is right, what a scanner would read from the symbol: zxing-wasm
// reads the drawn symbol back.
import bwip from 'bwip-js'
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { createInterface } from 'node:readline'
import { prepareZXingModule, readBarcodes } from 'zxing-wasm/reader'

const require = createRequire(import.meta.url)
const wasmBinary = readFileSync(require.resolve('zxing-wasm/reader/zxing_reader.wasm'))
await prepareZXingModule({ overrides: { wasmBinary: wasmBinary.buffer.slice(wasmBinary.byteOffset, wasmBinary.byteOffset + wasmBinary.byteLength) }, fireImmediately: true })

for await (const line of createInterface({ input: process.stdin })) {
  const { text, symbol, read } = JSON.parse(line)
  try {
    if (!read) {
      bwip.raw({ bcid: 'gs1datamatrix', text, lintreqs: true })
      console.log(JSON.stringify({ ok: true }))
      continue
    }
    const png = await bwip.toBuffer({ bcid: symbol, text, scale: 3, ...(symbol === 'gs1-128' ? { height: 15 } : {}), padding: 6, backgroundcolor: 'ffffff' })
    const [code] = await readBarcodes(new Uint8Array(png), { textMode: 'Plain', tryHarder: true })
    console.log(JSON.stringify({ ok: true, identifier: code?.symbologyIdentifier, raw: code ? Buffer.from(code.bytes).toString('latin1') : '' }))
  } catch (e) {
    console.log(JSON.stringify({ ok: false, says: String(e.message ?? e) }))
  }
}
