/**
 * Runs the test files with Node's own runner: `npm run unit`, or `npm run unit -- ray cli` for those whose path has
 * one of these words. (Node 20 has no globs for `--test`, and a shell's differ.)
 */
import { spawnSync } from 'node:child_process'
import { readdirSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'

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
const run = spawnSync(process.execPath, ['--import', 'tsx', '--test', atOnce, '--test-reporter=spec', ...files], {
  stdio: 'inherit',
})
process.exit(run.status ?? 1)
