/** Compiles wasm/rays.ts and puts its bytes into src/3d/simd/bytes.ts: `npm run kernel`. */
import { createHash } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { pathToFileURL } from 'node:url'

const SOURCE = 'wasm/rays.ts'
export const BYTES = 'src/3d/simd/bytes.ts'

/** What the file of bytes says of the source that they are of. */
export function signOf(): string {
  return createHash('sha256').update(readFileSync(SOURCE)).digest('hex').slice(0, 32)
}

/** The file of bytes, as it must be for the source as it is. */
export async function bytesFile(): Promise<string> {
  const { default: asc } = await import('assemblyscript/asc')
  const { binary, error, stderr } = await asc.compileString(
    { 'rays.ts': readFileSync(SOURCE, 'utf8') },
    { optimizeLevel: 3, noAssert: true, enable: ['simd'], runtime: 'stub', initialMemory: 2 },
  )
  if (error !== null || binary === null) throw new Error(`${SOURCE} does not compile: ${stderr}`)
  const lines =
    Buffer.from(binary)
      .toString('hex')
      .match(/.{1,110}/g) ?? []
  return [
    `/** ${SOURCE}, as \`npm run kernel\` compiles it: two digits a byte. Source: ${signOf()}. */`,
    'export const BYTES =',
    ...lines.map((part, i) => `  '${part}'${i < lines.length - 1 ? ' +' : ''}`),
    '',
  ].join('\n')
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href) writeFileSync(BYTES, await bytesFile())
