/** What the repository says of its packages holds: the example, no dependency, no dead link. As they are packed: `packed.test.ts`. */
import assert from 'node:assert/strict'
import { readdirSync, readFileSync } from 'node:fs'
import { test } from 'node:test'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const read = (path: string): string => readFileSync(`${root}/${path}`, 'utf8')
const readme = read('README.md')
const [, example] = /```ts\n([\s\S]*?)```/.exec(readme)!

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
