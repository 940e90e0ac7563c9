/**
 * Runs the test files with Node's own runner: `npm run unit`, or `npm run unit -- ray cli` for those whose path has
 * one of these words. (Node 20 has no globs for `--test`, and a shell's differ.)
 */
import { spawnSync } from 'node:child_process'
import { readdirSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { join, sep } from 'node:path'
import { build } from 'vite'

/** Milliseconds that a file may take; with many more cases, as long as it likes. */
const TIMEOUT = process.env['KEEN_LONG'] ? 0 : 600_000

const words = process.argv.slice(2)
const files = readdirSync('test', { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('.test.ts') && (words.length === 0 || words.some((word) => file.includes(word))))
  .map((file) => join('test', file))
  .sort()
if (files.length === 0) {
  process.stderr.write(`no test file has ${words.join(' or ')} in its path\n`)
  process.exit(1)
}
// Left to itself the runner keeps one core idle, which is half of a small machine.
const atOnce = `--test-concurrency=${availableParallelism()}`
const env = { ...process.env }
if (files.some((file) => file.includes(`${sep}pages${sep}`))) {
  await build({ configFile: 'examples/vite.config.ts', logLevel: 'error' })
  env['KEEN_PAGES_BUILT'] = '1'
}
// What hangs fails, and says where.
const flags = ['--import', 'tsx', '--test', atOnce, `--test-timeout=${TIMEOUT}`, '--test-reporter=spec']
const run = spawnSync(process.execPath, [...flags, ...files], { stdio: 'inherit', env })
process.exit(run.status ?? 1)
