/**
 * Compiles projects one after the other: `tsx scripts/compile.ts tsconfig.json src/2d`. One that is built begins with an empty dist/, so that
 * nothing is packed whose source is gone.
 *
 * Types are checked and packages built by TypeScript 7, which takes a quarter of the time; 6 is there for the tools that call a compiler.
 */
import { spawnSync } from 'node:child_process'
import { rmSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'

const COMPILER = 'node_modules/typescript-7/bin/tsc'

for (const project of process.argv.slice(2)) {
  if (basename(project) === 'tsconfig.build.json')
    rmSync(join(dirname(project), 'dist'), { recursive: true, force: true })
  const { status } = spawnSync(process.execPath, [COMPILER, '-p', project], { stdio: 'inherit' })
  if (status !== 0) process.exit(status ?? 1)
}
