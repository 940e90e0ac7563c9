import { build } from 'esbuild'
import { gzipSync } from 'node:zlib'
const code = process.argv[2]
const r = await build({ stdin: { contents: `export ${code}`, resolveDir: '.', loader: 'ts' }, bundle: true, minify: true, format: 'esm', target: 'es2022', write: false, metafile: true })
const out = Object.values(r.metafile.outputs)[0]
const rows = Object.entries(out.inputs).map(([f, { bytesInOutput }]) => [f, bytesInOutput] as const).sort((a, b) => b[1] - a[1])
const tot = out.bytes, gz = gzipSync(r.outputFiles[0].contents).length
console.log(tot, gz, gz / tot)
const dirs = new Map<string, number>()
for (const [f, b] of rows) { const d = f.split('/').slice(0, -1).join('/'); dirs.set(d, (dirs.get(d) ?? 0) + b) }
for (const [d, b] of [...dirs].sort((a, b) => b[1] - a[1])) console.log(String(b).padStart(7), d)
console.log('---')
for (const [f, b] of rows.slice(0, Number(process.argv[3] ?? 150))) console.log(String(b).padStart(7), f)
