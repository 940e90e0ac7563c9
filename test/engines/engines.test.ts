/** The same worlds on every engine that is there: see scripts/engines.ts. And nothing that engines round in different ways is in what is simulated. */
import assert from 'node:assert/strict'
import { spawnSync } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { test } from 'node:test'

test('the same bits in Node and in Chromium', (t) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['--import', 'tsx', 'scripts/engines.ts', '--quick'], {
    encoding: 'utf8',
  })
  assert.equal(status, 0, stdout + stderr)
  assert.doesNotMatch(stdout, /apart/)
  assert.match(stdout, /\| 3D: hulls on a heightfield \| 40 \|/)
  for (const [line] of stdout.matchAll(/^not found: .*/gm)) t.diagnostic(line)
})

test('nothing that is simulated uses what engines round in different ways', () => {
  const files = readdirSync('src', { recursive: true, encoding: 'utf8' }).filter(
    (file) =>
      /^(core|2d|3d)\//.test(file) &&
      file.endsWith('.ts') &&
      !file.endsWith('util/maths.ts') &&
      !file.endsWith('filter/advise.ts'),
  )
  assert.ok(files.length > 200)
  for (const file of files) {
    const code = readFileSync(`src/${file}`, 'utf8').replace(/\/\*[\s\S]*?\*\/|\/\/.*/g, '')
    assert.doesNotMatch(code, /Math\.(hypot|sin|cos|tan|a?sinh?|a?cosh?|atan2?|exp|expm1|log\w*|pow|cbrt)\b/, file)
    // Powers of two are exact.
    assert.doesNotMatch(code.replace(/\b2 \*\* /g, ''), / \*\* /, file)
  }
})
