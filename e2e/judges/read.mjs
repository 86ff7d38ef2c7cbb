// Reads the bar code in a PNG, as a scanner would: one file a line of JSON, by zxing-wasm.
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { createInterface } from 'node:readline'
import { prepareZXingModule, readBarcodes } from 'zxing-wasm/reader'

const require = createRequire(import.meta.url)
const wasm = readFileSync(require.resolve('zxing-wasm/reader/zxing_reader.wasm'))
await prepareZXingModule({ overrides: { wasmBinary: wasm.buffer.slice(wasm.byteOffset, wasm.byteOffset + wasm.byteLength) }, fireImmediately: true })

for await (const line of createInterface({ input: process.stdin })) {
  const [code] = await readBarcodes(new Uint8Array(readFileSync(JSON.parse(line).file)), { textMode: 'Plain', tryHarder: true })
  console.log(JSON.stringify({ identifier: code?.symbologyIdentifier ?? '', raw: code ? Buffer.from(code.bytes).toString('latin1') : '' }))
}
