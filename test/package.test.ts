/** The package as a user gets it: built, imported by its own name, with the README's first example as pasted. */
import assert from 'node:assert/strict'
import { spawnSync } from 'node:child_process'
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { test } from 'node:test'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const read = (path: string): string => readFileSync(`${root}/${path}`, 'utf8')
const readme = read('README.md')
const [, example] = /```ts\n([\s\S]*?)```/.exec(readme)!
const [, printed] = /It prints\n\n```\n([\s\S]*?)```/.exec(readme)!

test('the first example of the README runs as pasted, on the built package', () => {
  rmSync(`${root}/dist`, { recursive: true, force: true })
  const build = spawnSync('npm', ['run', '-s', 'build'], { cwd: root, encoding: 'utf8' })
  assert.equal(build.status, 0, build.stdout)
  mkdirSync(`${root}/out`, { recursive: true })
  writeFileSync(`${root}/out/first.mjs`, example)
  const run = spawnSync(process.execPath, ['out/first.mjs'], { cwd: root, encoding: 'utf8' })
  assert.equal(run.stderr, '')
  assert.equal(run.stdout, printed)
  const command = spawnSync(
    process.execPath,
    ['scenes-package/dist/cli/main.js', 'check', 'scenes/lantern-reef.json'],
    {
      cwd: root,
      encoding: 'utf8',
    },
  )
  assert.match(command.stdout, /no problem found/)
})

test('the example file is the one of the README', () => {
  assert.equal(read('examples/first.ts').replace(/^.*\n/, ''), example)
})

test('the library imports no package, so it has no runtime dependency', () => {
  for (const folder of ['src']) {
    for (const file of readdirSync(`${root}/${folder}`, { recursive: true, encoding: 'utf8' })) {
      if (!file.endsWith('.ts')) continue
      for (const [, from] of read(`${folder}/${file}`).matchAll(/^(?:import|export|}).* from '([^']+)'/gm))
        assert.match(from, /^\.\.?\//, file)
    }
  }
})

test('every link of the README and the docs leads to a file', () => {
  const docs = [
    'README.md',
    'CONTRIBUTING.md',
    ...readdirSync(`${root}/docs`)
      .filter((file) => file.endsWith('.md'))
      .map((file) => `docs/${file}`),
  ]
  for (const doc of docs) {
    const folder = doc.includes('/') ? 'docs/' : ''
    for (const [, target] of read(doc).matchAll(/\]\(([^)#]+)(?:#[^)]*)?\)/g)) {
      if (/^https?:/.test(target)) continue
      assert.doesNotThrow(() => readFileSync(`${root}/${folder}${target}`), `${doc} links to ${target}`)
    }
  }
})
