/**
 * What a user's bundle grows by, minified and gzipped, for a few ways to use the library: `npm run size`. With `--check` it fails where one
 * has grown beyond its ceiling; whoever makes one smaller lowers the ceiling.
 */
import { gzipSync } from 'node:zlib'
import { build } from 'esbuild'

interface Use {
  readonly name: string
  readonly code: string
  /** Kilobytes (1000 bytes), minified and gzipped, that it must stay below; and those that are aimed at. */
  readonly ceiling: number
  readonly aim: number
}

const plain2 = 'box, circle, closestPoint, distance, overlaps, raycast, shapecast'
const plain3 = 'box, closestPoint, distance, overlaps, raycast, shapecast, sphere'
const world = 'createWorld, defineLayers, box'

const USES: readonly Use[] = [
  { name: '2D: shapes and plain functions', code: `{ ${plain2} } from 'keen-sentry/2d'`, ceiling: 14.3, aim: 9 },
  { name: '2D: a world without forces', code: `{ ${world} } from 'keen-sentry/2d/kinematic'`, ceiling: 92.1, aim: 35 },
  { name: '2D: a world', code: `{ ${world} } from 'keen-sentry/2d'`, ceiling: 134.0, aim: 55 },
  { name: '3D: shapes and plain functions', code: `{ ${plain3} } from 'keen-sentry/3d'`, ceiling: 31.9, aim: 20 },
  { name: '3D: a world without forces', code: `{ ${world} } from 'keen-sentry/3d/kinematic'`, ceiling: 117.2, aim: 40 },
  { name: '3D: a world', code: `{ ${world} } from 'keen-sentry/3d'`, ceiling: 167.4, aim: 65 },
  {
    name: '3D: a world, rays by SIMD',
    code: `{ ${world} } from 'keen-sentry/3d'; export { simdRays } from 'keen-sentry/3d/simd'`,
    ceiling: 169.7,
    aim: 67,
  },
]

async function sizeOf(code: string): Promise<{ minified: number; gzipped: number }> {
  const { outputFiles } = await build({
    stdin: { contents: `export ${code}`, resolveDir: '.', loader: 'ts' },
    bundle: true,
    minify: true,
    format: 'esm',
    target: 'es2022',
    write: false,
  })
  const [{ contents }] = outputFiles
  return { minified: contents.length / 1000, gzipped: gzipSync(contents).length / 1000 }
}

let grown = 0
console.log(`${'use'.padEnd(32)}  minified   gzipped   ceiling       aim`)
for (const { name, code, ceiling, aim } of USES) {
  const { minified, gzipped } = await sizeOf(code)
  const column = (kilobytes: number): string => `${kilobytes.toFixed(1)} kB`.padStart(8)
  console.log(`${name.padEnd(32)}  ${[minified, gzipped, ceiling, aim].map(column).join('  ')}`)
  if (gzipped > ceiling) grown++
}
if (process.argv.includes('--check') && grown > 0) {
  console.error(`${grown} of the sizes are above their ceiling`)
  process.exitCode = 1
}
