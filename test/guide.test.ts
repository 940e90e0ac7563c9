/** The guide's code compiles and runs as it stands, block after block, once for each dimension; and its links lead to headings. */
import assert from 'node:assert/strict'
import { spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { test } from 'node:test'

const guide = readFileSync('docs/guide.md', 'utf8')
const ELSEWHERE = '// in a game'

/** The blocks of a dimension: those marked so, and those that are the same in both. */
function blocksOf(dimension: '2D' | '3D'): string[] {
  const other = dimension === '2D' ? '// in 3D' : '// in 2D'
  const all = [...guide.matchAll(/```ts\n([\s\S]*?)```/g)].map((match) => match[1])
  return all.filter((block) => !block.startsWith(other) && !block.startsWith(ELSEWHERE))
}

for (const dimension of ['2D', '3D'] as const) {
  test(`the blocks of ${dimension} in the guide run one after the other`, () => {
    const blocks = blocksOf(dimension)
    assert.ok(blocks.length >= 23, `only ${blocks.length} blocks`)
    // Within the repository, so that the names of the packages lead to the sources.
    mkdirSync('out/guide', { recursive: true })
    const file = `out/guide/guide-${dimension}.ts`
    writeFileSync(file, `${blocks.join('\n')}\nconsole.log('end:', world.stats.bodies)\n`)
    const run = spawnSync(process.execPath, ['--import', 'tsx', file], { encoding: 'utf8' })
    assert.match(run.stdout, /\nend: \d+\n$/, run.stderr)
    assert.match(
      run.stdout,
      /unknown-layer the first side of a watch: no layer is called "craf"; did you mean "craft"\?/,
    )
    assert.match(run.stdout, /lantern: kinematic on craft at \(/)
  })
}

test('the blocks of both dimensions compile', () => {
  const config = 'out/guide/tsconfig.json'
  // Values that are only shown in passing are allowed.
  const options = { noUnusedLocals: false, paths: pathsFrom('../../') }
  writeFileSync(config, JSON.stringify({ extends: '../../tsconfig.json', compilerOptions: options, include: ['*.ts'] }))
  const check = spawnSync(process.execPath, ['node_modules/typescript-7/bin/tsc', '-p', config], { encoding: 'utf8' })
  assert.equal(check.stdout, '')
})

/** The paths of the packages to their sources, seen from a folder below the root. */
function pathsFrom(up: string): Record<string, string[]> {
  const { compilerOptions } = JSON.parse(readFileSync('tsconfig.json', 'utf8'))
  const paths = compilerOptions.paths as Record<string, string[]>
  return Object.fromEntries(Object.entries(paths).map(([name, list]) => [name, list.map((path) => up + path.slice(2))]))
}

/** The name by which a heading is linked to. */
const anchorOf = (heading: string): string =>
  heading
    .toLowerCase()
    .replace(/[^\w\s-]/g, '')
    .trim()
    .replace(/\s/g, '-')

test('links within the docs lead to headings', () => {
  const anchors = (path: string): Set<string> =>
    new Set([...readFileSync(path, 'utf8').matchAll(/^#+ (.*)$/gm)].map(([, heading]) => anchorOf(heading)))
  let links = 0
  for (const doc of [
    'guide',
    'queries',
    'scene-format',
    'event-log',
    'architecture',
    'benchmarks',
    'costs',
    'from-checks-to-watches',
  ]) {
    for (const [, path, anchor] of readFileSync(`docs/${doc}.md`, 'utf8').matchAll(/\]\(([\w-]*\.md)?#([^)]+)\)/g)) {
      links++
      assert.ok(anchors(`docs/${path ?? `${doc}.md`}`).has(anchor), `docs/${doc}.md links to ${path ?? ''}#${anchor}`)
    }
  }
  assert.ok(links > 18, `only ${links} links`)
})
