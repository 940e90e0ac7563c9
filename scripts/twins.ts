/**
 * Counts the lines that the two dimensions have in common: runs of three lines and more that stand in a file of `src/2d` and in
 * its twin in `src/3d`, with the dimension's names and the white space folded. `npm run -s twins`, and with `-- --lines` each run itself.
 */
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

const LEAST = 3

interface Line {
  readonly text: string
  readonly number: number
}

function linesOf(file: string): Line[] {
  return readFileSync(file, 'utf8')
    .split('\n')
    .map((line, index) => ({
      text: line.trim().replace(/(?<=[A-Za-z])[23]\b|\b[23](?=[dD]\b)/g, 'N'),
      number: index + 1,
    }))
    .filter(({ text }) => text !== '')
}

/** Which lines of the one are part of a run that stands in the other, each used once: longest common runs first. */
function sharedRuns(one: readonly Line[], other: readonly Line[]): { at: number; to: number; length: number }[] {
  const usedOne = new Uint8Array(one.length)
  const usedOther = new Uint8Array(other.length)
  const runs: { at: number; to: number; length: number }[] = []
  for (;;) {
    let best = { at: 0, to: 0, length: 0 }
    const before = new Int32Array(other.length + 1)
    for (let i = 0; i < one.length; i++) {
      let diagonal = 0
      for (let j = 0; j < other.length; j++) {
        const above = before[j + 1]
        const same = usedOne[i] === 0 && usedOther[j] === 0 && one[i].text === other[j].text
        before[j + 1] = same ? diagonal + 1 : 0
        diagonal = above
        if (before[j + 1] > best.length) {
          const length = before[j + 1]
          best = { at: i - length + 1, to: j - length + 1, length }
        }
      }
    }
    if (best.length < LEAST) return runs
    usedOne.fill(1, best.at, best.at + best.length)
    usedOther.fill(1, best.to, best.to + best.length)
    runs.push(best)
  }
}

const showLines = process.argv.includes('--lines')
const only = process.argv.slice(2).filter((word) => !word.startsWith('--'))
let total = 0
let paired = 0
const rows: { file: string; same: number; here: number; there: number; runs: string[] }[] = []
for (const name of readdirSync('src/2d', { recursive: true, encoding: 'utf8' })) {
  const there = join('src/3d', name.replace(/2(?=\.ts$)/, '3'))
  if (!name.endsWith('.ts') || !existsSync(there)) continue
  if (only.length > 0 && !only.some((word) => name.includes(word))) continue
  const one = linesOf(join('src/2d', name))
  const other = linesOf(there)
  const found = sharedRuns(one, other)
  const same = found.reduce((sum, { length }) => sum + length, 0)
  total += same
  paired++
  const runs = found
    .toSorted((a, b) => a.at - b.at)
    .map(
      ({ at, to, length }) =>
        `    ${length} lines: ${one[at].number} ~ ${other[to].number}  ${one[at].text.slice(0, 80)}`,
    )
  rows.push({ file: name, same, here: one.length, there: other.length, runs })
}
for (const { file, same, here, there, runs } of rows.toSorted((a, b) => b.same - a.same)) {
  if (same > 0) process.stdout.write(`${String(same).padStart(5)} of ${here} and ${there}  ${file}\n`)
  if (showLines) for (const run of runs) process.stdout.write(`${run}\n`)
}
process.stdout.write(`${String(total).padStart(5)} identical lines in ${paired} paired files\n`)
