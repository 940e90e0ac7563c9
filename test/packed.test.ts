/**
 * Both packages as a user gets them: packed, installed into an empty folder, and used there from plain Node, the command, the type
 * checker, esbuild and Vite.
 */
import assert from 'node:assert/strict'
import { spawnSync } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join, normalize } from 'node:path'
import { after, before, test } from 'node:test'
import { fileURLToPath } from 'node:url'
import { build } from 'esbuild'

const root = fileURLToPath(new URL('..', import.meta.url))
const folder = mkdtempSync(join(tmpdir(), 'keen-packed-'))
const app = join(folder, 'app')
const modules = join(app, 'node_modules')
after(() => rmSync(folder, { recursive: true, force: true }))

function run(command: string, words: string[], cwd = app): string {
  const { status, stdout, stderr } = spawnSync(command, words, { cwd, encoding: 'utf8' })
  assert.equal(status, 0, `${command} ${words.join(' ')}\n${stdout}\n${stderr}`)
  return stdout
}

function install(name: string): void {
  run('npm', ['install', '--prefer-offline', '--no-audit', '--no-fund', join(folder, `${name}-${version}.tgz`)])
}

const { version } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')) as { version: string }

before(() => {
  mkdirSync(app)
  writeFileSync(join(app, 'package.json'), JSON.stringify({ type: 'module', private: true }))
  // Its `prepack` builds both.
  run('npm', ['pack', '-w', 'scenes-package', '--pack-destination', folder], root)
  run('npm', ['pack', '--ignore-scripts', '--pack-destination', folder], root)
})

test('keen-sentry alone brings nothing else along, and the first example of the README runs', () => {
  install('keen-sentry')
  assert.deepEqual(
    readdirSync(modules).filter((name) => !name.startsWith('.')),
    ['keen-sentry'],
  )
  const readme = readFileSync(join(modules, 'keen-sentry/README.md'), 'utf8')
  const [, example] = /```ts\n([\s\S]*?)```/.exec(readme)!
  const [, printed] = /It prints\n\n```\n([\s\S]*?)```/.exec(readme)!
  writeFileSync(join(app, 'first.mjs'), example)
  assert.equal(run(process.execPath, ['first.mjs']), printed)
})

test('the example of a worker runs as packed', () => {
  cpSync(join(modules, 'keen-sentry/examples/worker'), join(app, 'worker'), { recursive: true })
  assert.equal(
    run(process.execPath, ['worker/main.mjs']),
    'worker: 25 of 64 rays meet the sea floor\nmain thread: the same, to the bit\n',
  )
})

test('keen-sentry-scenes brings the command, the schema and the demo scenes', () => {
  install('keen-sentry-scenes')
  const scene = 'node_modules/keen-sentry-scenes/scenes/lantern-reef.json'
  const command = (...words: string[]): string => run(join(modules, '.bin/keen-sentry'), words)
  assert.match(command('check', scene), /no problem found/)
  assert.match(command('run', scene, '--ticks', '60'), /60 ticks/)
  command('draw', scene, '--out', 'reef.png')
  assert.equal(readFileSync(join(app, 'reef.png')).subarray(1, 4).toString(), 'PNG')
  assert.ok(existsSync(join(modules, 'keen-sentry-scenes/schema/scene.schema.json')))
})

test('links and pictures of what is packed lead to what is packed', () => {
  for (const name of ['keen-sentry', 'keen-sentry-scenes']) {
    const home = join(modules, name)
    const docs = readdirSync(home, { recursive: true, encoding: 'utf8' }).filter(
      (file) => file.endsWith('.md') && !file.includes('node_modules'),
    )
    assert.ok(docs.includes('README.md'), `${name} has no README`)
    for (const doc of docs) {
      const links = readFileSync(join(home, doc), 'utf8').matchAll(/\]\(([^)#\s]+)(?:#[^)]*)?\)/g)
      for (const [, target] of links) {
        if (/^https?:/.test(target)) continue
        assert.ok(existsSync(join(home, normalize(join(dirname(doc), target)))), `${name}: ${doc} links to ${target}`)
      }
    }
  }
})

test('types of the packages hold the type tests, with the declarations checked too, and hide internals', () => {
  for (const dimension of ['2d', '3d']) {
    const text = readFileSync(join(root, `test/types/${dimension}.ts`), 'utf8')
    writeFileSync(
      join(app, `${dimension}.ts`),
      text.replace(/'\.\.\/\.\.\/src\/(\dd)\/index\.ts'/g, "'keen-sentry/$1'"),
    )
  }
  writeFileSync(
    join(app, 'rest.ts'),
    `import { createWorld } from 'keen-sentry/2d/kinematic'
import { createWorld as create3 } from 'keen-sentry/3d/kinematic'
import { simdRays } from 'keen-sentry/3d/simd'
import { drawWorld2, toSvg } from 'keen-sentry/draw'
import { readLog } from 'keen-sentry/record'
import { playFor } from 'keen-sentry/testing'
import { playScene } from 'keen-sentry-scenes'
import { readModel } from 'keen-sentry-scenes/gltf'
import { defineLayers } from 'keen-sentry'
export const all = [createWorld, create3, drawWorld2, toSvg, readLog, playScene, readModel, defineLayers]
playFor(createWorld({ layers: defineLayers(['rock']) }), 1).neverMet('*', { layer: 'rock' })
playFor(create3({ layers: defineLayers(['rock']) }), 1)
simdRays(create3({ layers: defineLayers(['rock']) }))
createWorld({ layers: defineLayers(['rock']) }).kernel
`,
  )
  const flags = ['--strict', '--noEmit', '--module', 'nodenext', '--target', 'es2022', '--skipLibCheck', 'false']
  const words = [join(root, 'node_modules/typescript-7/bin/tsc'), ...flags, '--lib', 'es2023,dom']
  const { stdout } = spawnSync(process.execPath, [...words, '2d.ts', '3d.ts', 'rest.ts'], {
    cwd: app,
    encoding: 'utf8',
  })
  // What is internal is not there for a user.
  assert.match(stdout, /^rest\.ts\(\d+,\d+\): error TS2339: Property 'kernel' does not exist[^\n]*\n$/)
})

test('both bundle for the browser with plain esbuild, and the reader of models is not in what is loaded first', async () => {
  const entry = join(app, 'bundle.js')
  writeFileSync(
    entry,
    `import { playScene, readScene, loadModels } from 'keen-sentry-scenes'
import { EventLog } from 'keen-sentry/record'
import { drawWorld2, toSvg } from 'keen-sentry/draw'
console.log(playScene, readScene, loadModels, EventLog, drawWorld2, toSvg)
`,
  )
  const { metafile, warnings } = await build({
    absWorkingDir: app,
    entryPoints: [entry],
    bundle: true,
    splitting: true,
    format: 'esm',
    platform: 'browser',
    outdir: join(app, 'out'),
    metafile: true,
    logLevel: 'silent',
  })
  assert.deepEqual(warnings, [])
  const [first] = Object.values(metafile.outputs).filter((output) => output.entryPoint?.endsWith('bundle.js'))
  const loaded = new Set<string>()
  const load = (output: typeof first): void => {
    for (const input of Object.keys(output.inputs)) loaded.add(input)
    for (const { path, kind } of output.imports) if (kind === 'import-statement') load(metafile.outputs[path])
  }
  load(first)
  assert.ok(loaded.size > 50, `only ${loaded.size} files`)
  assert.deepEqual(
    [...loaded].filter((file) => /gltf/.test(file) && !file.endsWith('gltf/place.js')),
    [],
  )
  assert.ok(Object.keys(metafile.inputs).some((file) => file.endsWith('gltf/read.js')))
})

test('both build with Vite, without a word of warning', () => {
  writeFileSync(join(app, 'index.html'), '<!doctype html><script type="module" src="bundle.js"></script>')
  // All of both dimensions in one file is large, and Vite says so.
  writeFileSync(join(app, 'vite.config.js'), 'export default { build: { chunkSizeWarningLimit: 800 } }')
  const vite = spawnSync(process.execPath, [join(root, 'node_modules/vite/bin/vite.js'), 'build'], {
    cwd: app,
    encoding: 'utf8',
  })
  assert.equal(vite.status, 0, vite.stderr)
  assert.doesNotMatch(`${vite.stdout}${vite.stderr}`, /externalized|warning|\bwarn\b/i)
})

test('publint and are-the-types-wrong find nothing in either', () => {
  for (const name of ['keen-sentry', 'keen-sentry-scenes']) {
    const tarball = join(folder, `${name}-${version}.tgz`)
    run(process.execPath, [join(root, 'node_modules/publint/src/cli.js'), '--strict', tarball])
    const attw = join(root, 'node_modules/@arethetypeswrong/cli/dist/index.js')
    run(process.execPath, [attw, '--profile', 'esm-only', tarball])
  }
})
