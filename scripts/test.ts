/**
 * Runs the test files with Node's own runner: `npm run unit`, or `npm run unit -- ray cli` for those whose path has
 * one of these words. (Node 20 has no globs for `--test`, and a shell's differ.)
 */
import { spawnSync } from 'node:child_process'
import { mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { dirname, join, relative, sep } from 'node:path'
import { build } from 'vite'

/** Milliseconds that a process may take; with many more cases, as long as it likes. */
const TIMEOUT = process.env['KEEN_LONG'] ? 0 : 600_000
/** Folders whose files run in processes of their own: they open browsers and servers, start commands, or take long. */
const APART = ['cli', 'engines', 'examples', 'pages', 'types']
/** Up to so many of the other files of a folder share a process, and its warm code; pages share a browser. */
const TOGETHER = 8
/** What takes longest begins first. */
const FIRST = ['cli', join('pages', 'game'), 'packed']
const GROUPS = join('out', 'tests')

const isPage = (file: string): boolean => file.includes(`${sep}pages${sep}`)

/** The files, those of one folder in groups. */
function grouped(files: readonly string[]): string[][] {
  const byFolder = new Map<string, string[]>()
  for (const file of files) byFolder.set(dirname(file), [...(byFolder.get(dirname(file)) ?? []), file])
  return [...byFolder].flatMap(([folder, all]) => {
    const name = relative('test', folder)
    const groups = name === '' || APART.includes(name) ? all.length : Math.ceil(all.length / TOGETHER)
    const size = Math.ceil(all.length / groups)
    return Array.from({ length: groups }, (_, index) => all.slice(size * index, size * (index + 1)))
  })
}

/** An order in which pages, which mostly wait, run beside what keeps a core busy. */
function ordered(groups: readonly string[][]): string[][] {
  const isFirst = ([file]: string[]): boolean => FIRST.some((part) => file.startsWith(join('test', part)))
  const rest = groups.filter((group) => !isFirst(group))
  const pages = rest.filter(([file]) => isPage(file))
  const others = rest.filter(([file]) => !isPage(file))
  const order = groups.filter(isFirst)
  for (let page = 0, other = 0; page < pages.length || other < others.length; ) {
    if (page * others.length <= other * pages.length && page < pages.length) order.push(pages[page++])
    else order.push(others[other++])
  }
  return order
}

/** Writes a file for each group, which imports its members; the runner takes them in the order of their names. */
function written(groups: readonly string[][]): string[] {
  rmSync(GROUPS, { recursive: true, force: true })
  mkdirSync(GROUPS, { recursive: true })
  return groups.map((members, index) => {
    const [first] = members
    const name = relative('test', members.length === 1 ? first : dirname(first)).replace('.test.ts', '')
    const group = join(GROUPS, `${String(index).padStart(3, '0')}-${name.replaceAll(sep, '-')}.test.ts`)
    const imports = members.map((file) => `import '${relative(GROUPS, file).replaceAll(sep, '/')}'\n`)
    writeFileSync(group, imports.join(''))
    return group
  })
}

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
const atOnce = `--test-concurrency=${availableParallelism() + (files.some(isPage) ? 1 : 0)}`
const env = { ...process.env }
if (files.some(isPage)) {
  await build({ configFile: 'examples/vite.config.ts', logLevel: 'error' })
  env['KEEN_PAGES_BUILT'] = '1'
}
// What hangs fails, and says where.
const flags = ['--import', 'tsx', '--test', atOnce, `--test-timeout=${TIMEOUT}`, '--test-reporter=spec']
const run = spawnSync(process.execPath, [...flags, ...written(ordered(grouped(files)))], { stdio: 'inherit', env })
process.exit(run.status ?? 1)
