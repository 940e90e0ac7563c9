/** The command as real processes: what a user types, what comes back, and with which exit code. */
import assert from 'node:assert/strict'
import { spawn, spawnSync } from 'node:child_process'
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { after, test } from 'node:test'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('../..', import.meta.url))
const folder = mkdtempSync(join(tmpdir(), 'keen-'))
after(() => rmSync(folder, { recursive: true, force: true }))
// Colours are for terminals; without them the words can be matched.
const PLAIN = { ...process.env, NO_COLOR: '1' }
const REEF = 'scenes/lantern-reef.json'
const COMMAND = ['--import', 'tsx', 'scenes-package/src/cli/main.ts']

function keen(...words: string[]): { code: number | null; out: string; err: string } {
  const { status, stdout, stderr } = spawnSync(process.execPath, [...COMMAND, ...words], {
    cwd: root,
    encoding: 'utf8',
    env: PLAIN,
  })
  return { code: status, out: stdout, err: stderr }
}

test('run: a table of events and a summary', () => {
  const { code, out, err } = keen('run', REEF)
  assert.equal(code, 0, err)
  assert.match(out, /^time\s+what\s+a\s+b\s+response\s+cause\s+dwell/)
  assert.match(out, /7\.62 s\s+begin\s+lantern\s+air pocket\s+sense\s+moved/)
  assert.match(out, /5\.52 s\s+end\s+lampfish\s+silt cloud\s+sense\s+teleported\s+5\.50 s/)
  assert.match(out, /10\.52 s\s+end\s+crate\s+east current\s+sense\s+removed/)
  assert.match(out, /Lantern Reef: 1200 ticks \(20\.0 s\), \d+ begins, \d+ ends/)
})

test('run --story tells sentences; --ticks shortens it', () => {
  const { out } = keen('run', REEF, '--story', '--ticks', '500')
  assert.match(out, /The lantern surfaces in the air pocket; oxygen flows/)
  assert.doesNotMatch(out, /dives again/)
  assert.match(out, /500 ticks \(8\.3 s\)/)
})

test('run --watch and --kinds take the place of what the scene watches', () => {
  const { code, out } = keen('run', REEF, '--watch', 'craft:beacon', '--watch', '#player:*', '--kinds', 'begin')
  assert.equal(code, 0)
  assert.match(out, /begin\s+lantern\s+beacon/)
  assert.doesNotMatch(out, /silt cloud|\bend\b/)
  const wrong = keen('run', REEF, '--watch', 'carft:beacon')
  assert.equal(wrong.code, 2)
  assert.match(wrong.err, /called 'carft'; did you mean "craft"\?/)
  assert.equal(keen('run', REEF, '--watch', 'craft').code, 2)
  assert.equal(keen('run', REEF, '--kinds', 'beginn').code, 2)
})

test('explain: the checks in order, what to change, and what was told until then', () => {
  const { code, out, err } = keen('explain', REEF, 'pod', 'beacon', '--tick', '800')
  assert.equal(code, 0, err)
  assert.match(out, /pod and beacon after tick 800 \(13\.33 s\): they do not meet \(enabled\)/)
  assert.match(out, /NO {2}enabled\s+pod is disabled/)
  assert.match(out, /To change that: set enabled = true on pod/)
  assert.match(out, /12\.42 s .*pod leaves beacon/)
  const json = JSON.parse(keen('explain', REEF, 'lantern:0', 'pillar', '--tick', '1080', '--json').out)
  assert.equal(json.refusedBy, 'bounds')
  assert.ok(json.checks.length > 8 && Array.isArray(json.history))
  const unknown = keen('explain', REEF, 'lantrn', 'pillar')
  assert.equal(unknown.code, 2)
  assert.match(unknown.err, /did you mean "lantern"\?/)
})

test('check --strict fails for warnings, which have a cure', () => {
  const scene = 'test/mistakes/both-static.json'
  const { code, out } = keen('check', scene)
  assert.equal(code, 0)
  assert.match(out, /warning {2}watches\[0\]/)
  assert.match(out, /=> make one side kinematic/)
  assert.equal(keen('check', scene, '--strict').code, 1)
  assert.equal(keen('check', REEF, '--strict').code, 0)
})

test('run --log writes JSON Lines, and --json the same lines in one document', () => {
  const log = join(folder, 'deep', 'events.jsonl')
  const { code, out } = keen('run', REEF, '--log', log, '--quiet')
  assert.equal(code, 0)
  assert.match(out, /Event log: .*events\.jsonl/)
  const lines = readFileSync(log, 'utf8')
    .trimEnd()
    .split('\n')
    .map((line) => JSON.parse(line))
  const { hash, ...header } = lines[0]
  assert.match(hash, /^[0-9a-f]{64}$/)
  assert.deepEqual(header, {
    format: 'keen-sentry-events',
    version: 1,
    scene: 'Lantern Reef',
    dimension: '2d',
    rate: 60,
    tick: 0,
  })
  const begins = lines.filter((line) => line.kind === 'begin')
  const ends = lines.filter((line) => line.kind === 'end')
  assert.ok(begins.length > 8)
  assert.equal(lines.at(-1).kind, 'done')
  assert.equal(lines.at(-1).counts.begin, begins.length)
  for (const end of ends)
    assert.ok(begins.some((begin) => begin.a === end.a && begin.b === end.b && begin.tick < end.tick))
  const hull = begins.find((line) => line.watch === 'hull')
  assert.equal(hull.response, 'solid')
  assert.equal(hull.normal.length, 2)
  const whole = JSON.parse(keen('run', REEF, '--json').out)
  assert.deepEqual(whole.lines, lines)
})

test('check: silent on the good, exit 1 and the place on the bad', () => {
  assert.match(keen('check', REEF).out, /ok .*no problem found/)
  const bad = join(folder, 'bad.json')
  writeFileSync(bad, readFileSync(join(root, REEF), 'utf8').replace('"layer": "fauna"', '"layer": "funa"'))
  const { code, out } = keen('check', bad)
  assert.equal(code, 1)
  assert.match(out, /colliders\[0\]\.layer\n\s+no layer is called "funa"; did you mean "fauna"\?/)
  const data = JSON.parse(keen('check', bad, '--json').out)
  assert.equal(data.problems[0].code, 'unknown-layer')
  const run = keen('run', bad)
  assert.equal(run.code, 1)
  assert.match(run.err, /did you mean "fauna"/)
  assert.doesNotMatch(run.err, /\n\s+at /)
})

test('draw: SVG and PNG of a tick', () => {
  const svg = join(folder, 'reef.svg')
  const png = join(folder, 'reef.png')
  assert.equal(keen('draw', REEF, '--tick', '440', '--out', svg).code, 0)
  const text = readFileSync(svg, 'utf8')
  assert.match(text, /^<svg .*width="1280" height="800"/)
  assert.match(text, />air pocket</)
  assert.match(text, /tick 440/)
  const drawn = keen('draw', REEF, '--tick', '1', '--out', png, '--width', '640', '--height', '400')
  assert.equal(drawn.code, 0, drawn.err)
  const bytes = readFileSync(png)
  assert.equal(bytes.toString('latin1', 1, 4), 'PNG')
  assert.deepEqual([bytes.readUInt32BE(16), bytes.readUInt32BE(20)], [640, 400])
  assert.ok(bytes.length > 5000)
})

test('ask: the four questions, as table, JSON and picture', () => {
  const ray = keen('ask', REEF, 'ray', '--tick', '440', '--from', '13,6', '--to', '38,9', '--mode', 'all', '--sensors')
  assert.equal(ray.code, 0, ray.err)
  assert.match(ray.out, /silt cloud\s+0\s+0\.000 m .*starts inside/)
  assert.match(ray.out, /pillar\s+0\s+4\.261 m\s+17\.231, 6\.508\s+-0\.998, 0\.070/)
  const svg = join(folder, 'ask.svg')
  const cast = keen(
    'ask',
    REEF,
    'shape',
    '--shape',
    'box:2,1',
    '--from',
    '3,13',
    '--to',
    '30,4',
    '--turn',
    '2',
    '--json',
    '--out',
    svg,
  )
  const { hits } = JSON.parse(cast.out)
  assert.deepEqual([hits.length, hits[0].body, hits[0].startedInside], [1, 'shelf', false])
  assert.match(readFileSync(svg, 'utf8'), /stroke-dasharray="3 4"/)
  const polygon = '{"kind":"polygon","points":[[0,0],[2,0],[0,2]]}'
  const overlap = keen('ask', REEF, 'overlap', '--shape', polygon, '--at', '17,7', '--mode', 'all', '--json')
  assert.deepEqual(
    JSON.parse(overlap.out).hits.map((hit: { body: string }) => hit.body),
    ['pillar'],
  )
  assert.match(keen('ask', REEF, 'nearest', '--at', '14,8', '--layers', 'rock').out, /shelf\s+0\s+3\.110 m/)
  assert.match(keen('ask', REEF, 'overlap', '--shape', 'circle:0.1', '--at', '24,8', '--mode', 'any').out, /^no$/m)
  assert.match(
    keen('ask', REEF, 'ray', '--from', '24,8', '--to', '24,9').out,
    /nothing: at tick 0 the ray meets nobody/,
  )
})

const SEA = 'scenes/sea-floor.json'

test('a scene of 3D: run, check, explain', () => {
  const { code, out, err } = keen('run', SEA, '--ticks', '400', '--log', join(folder, 'sea.jsonl'))
  assert.equal(code, 0, err)
  assert.match(out, /begin\s+courier\s+gate\s+sense\s+crossed/)
  const lines = readFileSync(join(folder, 'sea.jsonl'), 'utf8').trim().split('\n')
  assert.equal(JSON.parse(lines[0]).dimension, '3d')
  const ray = lines.map((line) => JSON.parse(line)).find((line) => line.kind === 'ray' && line.hit !== null)
  assert.equal(ray.hit.normal.length, 3)
  assert.match(keen('check', SEA).out, /ok {2}scenes\/sea-floor\.json: no problem found/)
  const told = keen('explain', SEA, 'courier', 'gate', '--tick', '400')
  assert.match(told.out, /courier and gate after tick 400/)
  assert.match(told.out, /courier enters gate|courier leaves gate/)
})

test('a scene of 3D: draw from a named view and from an eye', () => {
  for (const [name, ...words] of [
    ['usual.svg'],
    ['top.svg', '--view', 'top'],
    ['eye.svg', '--eye=10,8,20', '--target=0,0,0', '--view-angle', '1'],
  ]) {
    const file = join(folder, name)
    const { code, err } = keen('draw', SEA, '--tick', '60', '--out', file, ...words)
    assert.equal(code, 0, err)
    const svg = readFileSync(file, 'utf8')
    assert.match(svg, /<svg [^>]*width="1280" height="800"/)
    assert.match(svg, /crawler/)
    assert.ok(svg.split('<path').length > 500, `${name} has few faces`)
  }
  assert.notEqual(readFileSync(join(folder, 'usual.svg'), 'utf8'), readFileSync(join(folder, 'top.svg'), 'utf8'))
})

test('a scene of 3D: ask', () => {
  const way = ['--tick', '520', '--from=-20,6,16', '--to=22,3,-18']
  const table = keen('ask', SEA, 'ray', ...way, '--mode', 'all')
  assert.equal(table.code, 0, table.err)
  assert.match(table.out, /green pod\s+\d\s+\d+\.\d{3} m\s+-?\d+\.\d+, -?\d+\.\d+, -?\d+\.\d+/)
  const json = JSON.parse(keen('ask', SEA, 'shape', ...way, '--shape', 'sphere:1.2', '--json').out)
  assert.equal(json.hits.length, 1)
  assert.deepEqual(Object.keys(json.hits[0].point), ['x', 'y', 'z'])
  const picture = join(folder, 'ask.svg')
  const turned = keen(
    'ask',
    SEA,
    'overlap',
    '--at',
    '0,0,0',
    '--shape',
    'box:4,9,4',
    '--rotation',
    '0,1,0,1',
    '--out',
    picture,
  )
  assert.equal(turned.code, 0, turned.err)
  assert.match(turned.out, /sea floor/)
  assert.ok(existsSync(picture))
  assert.match(keen('ask', SEA, 'nearest', '--at', '0,40,0', '--reach', '5').out, /nothing/)
})

test('what belongs to the other dimension is refused by name', () => {
  const cases: [string[], RegExp][] = [
    [['draw', REEF, '--out', 'x.svg', '--view', 'top'], /--view is of 3d scenes, and this scene is 2d/],
    [['ask', SEA, 'ray', '--from', '1,2', '--to', '1,2,3'], /--from of a 3d scene takes three numbers/],
    [['ask', SEA, 'overlap', '--at', '1,1,1', '--shape', 'circle:1'], /expected sphere:RADIUS/],
    [['ask', SEA, 'overlap', '--at', '1,1,1', '--shape', 'sphere:1', '--angle', '1'], /--angle is of 2d scenes/],
    [
      ['ask', REEF, 'overlap', '--at', '1,1', '--shape', 'circle:1', '--rotation', '0,0,0,1'],
      /--rotation is of 3d scenes/,
    ],
    [['ask', SEA, 'overlap', '--at', '1,1,1', '--shape', '{"kind":"circle","radius":1}'], /that is of 2d scenes/],
    [['draw', SEA, '--out', 'x.svg', '--view', 'top', '--eye', '1,2,3'], /cannot be used with/],
  ]
  for (const [words, expected] of cases) {
    const { code, err } = keen(...words)
    assert.equal(code, 2, words.join(' '))
    assert.match(err, expected)
  }
})

test('every command has help with an example', () => {
  for (const words of [['--help'], ['run', '--help'], ['check', '--help'], ['draw', '--help'], ['ask', '--help']]) {
    const { code, out } = keen(...words)
    assert.equal(code, 0)
    assert.match(out, /Examples?:\n {2}\$ keen-sentry/)
  }
  assert.match(keen('--version').out, /^\d+\.\d+\.\d+\n$/)
})

test('bad arguments: one sentence and exit 2', () => {
  const cases: [string[], RegExp][] = [
    [['walk'], /unknown command 'walk'/],
    [['run'], /missing required argument 'scene'/],
    [['run', REEF, '--ticks', '1.5'], /'1\.5' is invalid\. Expected a whole number/],
    [['run', REEF, '--json', '--story'], /cannot be used with/],
    [['run', REEF, '--fast'], /unknown option '--fast'/],
    [['draw', REEF], /required option '-o, --out <file>' not specified/],
    [['draw', REEF, '--out', 'x.gif'], /must end in \.svg or \.png/],
    [['ask', REEF, 'beam', '--from', '1,2'], /Expected one of ray, shape, overlap, nearest/],
    [['ask', REEF, 'ray', '--from', '1,2'], /the question 'ray' needs --to/],
    [['ask', REEF, 'ray', '--from', '1', '--to', '1,2'], /takes two numbers/],
    [['ask', REEF, 'ray', '--from', '1,1', '--to', '1,2', '--angle', '1'], /does not take --angle/],
    [['ask', REEF, 'overlap', '--at', '1,1', '--shape', 'blob:1'], /expected circle:RADIUS/],
    [['ask', REEF, 'nearest', '--at', '1,1', '--except', 'nobody'], /no living body is called 'nobody'/],
  ]
  for (const [words, expected] of cases) {
    const { code, err } = keen(...words)
    assert.equal(code, 2, words.join(' '))
    assert.match(err, expected)
    assert.doesNotMatch(err, /\n\s+at /)
  }
})

test('files that cannot be read or written: one sentence, exit 1, no stack', () => {
  const cases: [string[], RegExp][] = [
    [['run', 'no-such.json'], /cannot read no-such\.json: there is no such file/],
    [['run', 'LICENSE'], /LICENSE is not JSON/],
    [['check', 'scenes'], /cannot read scenes: it is a folder/],
    [['run', REEF, '--log', 'package.json/x'], /cannot write package\.json\/x/],
    [['draw', REEF, '--out', 'package.json/x.svg'], /cannot write/],
  ]
  for (const [words, expected] of cases) {
    const { code, err } = keen(...words)
    assert.equal(code, 1, words.join(' '))
    assert.match(err, expected)
    assert.doesNotMatch(err, /\n\s+at /)
  }
  assert.ok(!existsSync(join(root, 'package.json', 'x')))
})

test('the files of a scene lie in its folder, and are files', () => {
  const inner = join(folder, 'scene')
  mkdirSync(inner)
  const secret = join(folder, 'secret.glb')
  writeFileSync(secret, 'the keys of the dock')
  symlinkSync(secret, join(inner, 'link.glb'))
  mkdirSync(join(inner, 'folder.glb'))
  copyFileSync(join(root, 'scenes/sea-rocks.glb'), join(inner, 'rocks.glb'))
  const scene = (file: string): string =>
    JSON.stringify({
      format: 'keen-sentry-scene',
      version: 1,
      name: 'Rocks',
      dimension: '3d',
      ticks: 1,
      layers: { names: ['rock'] },
      bodies: [
        { name: 'rocks', type: 'static', model: { file, nodes: [{ name: '*', shape: 'mesh', layer: 'rock' }] } },
      ],
    })
  const path = join(inner, 'scene.json')
  const cases: [string, RegExp][] = [
    ['../secret.glb', /must lie in the scene's own folder/],
    ['below/../../secret.glb', /must lie in the scene's own folder/],
    [secret, /must lie in the scene's own folder/],
    ['/dev/zero', /must lie in the scene's own folder/],
    ['file:rocks.glb', /must lie in the scene's own folder/],
    ['C:rocks.glb', /must lie in the scene's own folder/],
    ['..\\secret.glb', /must lie in the scene's own folder/],
    ['link.glb', /a link that leads out of the scene's folder/],
    ['folder.glb', /it is no file/],
    ['none.glb', /there is no such file/],
  ]
  if (process.platform !== 'win32' && spawnSync('mkfifo', [join(inner, 'pipe.glb')]).status === 0) {
    cases.push(['pipe.glb', /it is no file/])
  }
  for (const [file, expected] of cases) {
    writeFileSync(path, scene(file))
    const { code, out } = keen('check', path)
    assert.equal(code, 1, file)
    assert.match(out, expected, file)
    assert.doesNotMatch(out, /keys of the dock/, file)
  }
  // A byte order mark is passed over.
  writeFileSync(path, `\uFEFF${scene('./rocks.glb')}`)
  assert.equal(keen('check', path).code, 0)
  const piped = spawnSync(process.execPath, [...COMMAND, 'check', '-'], {
    cwd: root,
    encoding: 'utf8',
    env: PLAIN,
    input: scene('scenes/sea-rocks.glb'),
  })
  assert.equal(piped.status, 0, piped.stdout)
  assert.match(piped.stderr, /models are looked for in the working folder/)
})

test('a scene of 200,000 bodies is checked and run', () => {
  const path = join(folder, 'many.json')
  const bodies = Array.from({ length: 200_000 }, (_, i) => ({
    name: `lamp ${i}`,
    type: 'kinematic',
    at: [3 * (i % 400), 3 * Math.floor(i / 400)],
    colliders: [{ shape: { kind: 'circle', radius: 1 }, layer: 'lamp' }],
  }))
  const watches = [{ a: 'lamp', b: 'lamp' }]
  const layers = { names: ['lamp'] }
  writeFileSync(
    path,
    JSON.stringify({
      format: 'keen-sentry-scene',
      version: 1,
      name: 'Many',
      dimension: '2d',
      ticks: 1,
      layers,
      watches,
      bodies,
    }),
  )
  const { code, out, err } = keen('run', path)
  assert.equal(code, 0, err)
  assert.match(out, /Many: 1 ticks/)
  const checked = keen('check', path)
  assert.equal(checked.code, 0)
  assert.match(checked.out, /200000 problems, 199950 of them not shown/)
})

test('a reader that closes the pipe is no error', async () => {
  const child = spawn(process.execPath, [...COMMAND, 'run', REEF, '--json'], { cwd: root, env: PLAIN })
  let err = ''
  child.stderr.on('data', (data) => (err += data))
  child.stdout.once('data', () => child.stdout.destroy())
  const code = await new Promise((resolve) => child.on('close', resolve))
  assert.equal(code, 0, err)
  assert.equal(err, '')
})
