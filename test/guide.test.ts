/** The guide's code of 3D runs as it stands, block after block. */
import assert from 'node:assert/strict'
import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { test } from 'node:test'
import { pathToFileURL } from 'node:url'

test('the blocks of 3D in the guide run one after the other', () => {
  const guide = readFileSync('docs/guide.md', 'utf8')
  const blocks = [...guide.matchAll(/```ts\n(\/\/ in 3D[\s\S]*?)```/g)].map((match) => match[1])
  assert.ok(blocks.length >= 5, `only ${blocks.length} blocks`)
  const code = blocks
    .join('\n')
    .replace(/'keen-sentry\/(\w+)'/g, (_, room: string) => `'${pathToFileURL(`src/${room}/index.ts`)}'`)
  const folder = mkdtempSync(join(tmpdir(), 'keen-guide-'))
  try {
    const file = join(folder, 'guide.mts')
    writeFileSync(file, `${code}\nconsole.log(world.stats.bodies, segments(list).positions.length > 0)\n`)
    const { stdout, stderr } = spawnSync(process.execPath, ['--import', 'tsx', file], { encoding: 'utf8' })
    assert.equal(stdout, '3 true\n', stderr)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})
