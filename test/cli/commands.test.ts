/** The command: what a user types, what comes back, and with which exit code; where streams and terminals count as a process of its own. */
import assert from 'node:assert/strict'
import { spawn, spawnSync } from 'node:child_process'
import { once } from 'node:events'
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
import { after, before, test } from 'node:test'
import { COMMAND, close, keen, keenAt, keenIn, open, PLAIN, root } from '../helpers/command.ts'

const folder = mkdtempSync(join(tmpdir(), 'keen-'))
before(open)
after(async () => {
  rmSync(folder, { recursive: true, force: true })
  await close()
})
const REEF = 'scenes/lantern-reef.json'

test('run: a table of events and a summary', () => {
  const { code, out, err } = keenIn(120, '', 'run', REEF)
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
  assert.equal(keenIn(80, '', 'check', scene, '--strict').code, 1)
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
  for (const words of [
    ['--help'],
    ['run', '--help'],
    ['check', '--help'],
    ['draw', '--help'],
    ['ask', '--help'],
    ['level', '--help'],
    ['outline', '--help'],
  ]) {
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
  // As a process of its own it ends with the same code, and says the same.
  const [words] = cases[3]
  assert.deepEqual(keenIn(80, '', ...words), keen(...words))
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
  const piped = keenIn(80, scene('scenes/sea-rocks.glb'), 'check', '-')
  assert.equal(piped.code, 0, piped.out)
  assert.match(piped.err, /models are looked for in the working folder/)
})

test('a scene of more bodies than a call takes arguments is checked and run', () => {
  // With an eighth of the usual stack a call takes 16,000 arguments instead of 130,000.
  const keenOnLittle = (...words: string[]) =>
    spawnSync(process.execPath, ['--stack-size=125', COMMAND, ...words], { cwd: root, encoding: 'utf8', env: PLAIN })
  const path = join(folder, 'many.json')
  const bodies = Array.from({ length: 20_000 }, (_, i) => ({
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
  const played = keenOnLittle('run', path)
  assert.equal(played.status, 0, played.stderr)
  assert.match(played.stdout, /Many: 1 tick /)
  const checked = keenOnLittle('check', path)
  assert.equal(checked.status, 0, checked.stderr)
  assert.match(checked.stdout, /20000 problems, 19950 of them not shown/)
})

test('a reader that closes the pipe is no error', async () => {
  const child = spawn(process.execPath, [COMMAND, 'run', REEF, '--json'], { cwd: root, env: PLAIN })
  let err = ''
  child.stderr.on('data', (data) => (err += data))
  child.stdout.once('data', () => child.stdout.destroy())
  const code = await new Promise((resolve) => child.on('close', resolve))
  assert.equal(code, 0, err)
  assert.equal(err, '')
})

const SALVAGE = 'scenes/salvage.json'
const SEA_FLOOR = 'scenes/sea-floor.json'

test('run --kinds: impacts where a watch says how strong, and other kinds of the same watches', () => {
  const impacts = keen('run', SALVAGE, '--kinds', 'impact', '--ticks', '120')
  assert.equal(impacts.code, 0, impacts.err)
  assert.match(impacts.out, /time\s+what\s+a\s+b\s+response\s+cause\s+dwell\s+impulse\s+speed/)
  assert.match(impacts.out, /impact\s+crate 2\s+chute\s+solid\s+moved\s+13\.4 Ns\s+4\.3 m\/s/)
  assert.match(impacts.out, /0 begins, 0 ends, 6 impacts/)
  const begins = keen('run', SALVAGE, '--kinds', 'begin', '-q')
  assert.equal(begins.code, 0, begins.err)
  assert.match(begins.out, /\d+ begins, 0 ends, 3 actions/)
  const none = keen('run', REEF, '--kinds', 'impact')
  assert.equal(none.code, 2)
  assert.match(none.err, /no watch says what counts as an impact; --over 5Ns or --over 3m\/s does/)
  const over = keen('run', REEF, '--kinds', 'impact', '--over', '3m/s', '-q')
  assert.match(over.out, /1 impact,/)
  const idle = {
    ...JSON.parse(readFileSync(join(root, REEF), 'utf8')),
    watches: [{ a: 'craft', b: '*', response: 'sense' }],
  }
  const { code: refused, err: reason } = keenIn(80, JSON.stringify(idle), 'run', '-', '--over', '5Ns')
  assert.equal(refused, 2)
  assert.match(reason, /--over has no effect: every watch/)
  for (const wrong of ['3', '0Ns', '-3Ns', '3kg', 'Ns']) {
    const { code, err } = keen('run', REEF, `--over=${wrong}`)
    assert.equal(code, 2)
    assert.match(err, /Expected a strength above 0 with its unit/)
  }
})

test('run --csv: one row an event, quoted where it must be', () => {
  const { code, out, err } = keen('run', SALVAGE, '--csv', '--ticks', '100')
  assert.equal(code, 0, err)
  const [head, ...rows] = out.trimEnd().split('\n')
  assert.equal(
    head,
    'tick,time,kind,watch,a,b,aCollider,bCollider,response,cause,when,dwell,impulse,friction,closingSpeed',
  )
  const { lines } = JSON.parse(keen('run', SALVAGE, '--json', '--ticks', '100').out)
  assert.equal(rows.length, lines.filter(({ kind }: { kind?: string }) => kind === 'impact').length)
  assert.match(rows[0], /^83,1\.383333333,impact,thud,crate 2,chute,0,0,solid,moved,1,/)
  const scene = JSON.parse(
    readFileSync(join(root, SALVAGE), 'utf8').replaceAll('"crate 2"', '"crate, the \\"second\\""'),
  )
  const quoted = keenIn(80, JSON.stringify(scene), 'run', '-', '--csv', '--ticks', '84')
  assert.match(quoted.out, /,impact,thud,"crate, the ""second""",chute,/)
  assert.equal(keen('run', SALVAGE, '--csv', '--json').code, 2)
})

test('tables leave columns out and cut names where the terminal is narrow', () => {
  for (const width of [100, 80, 60, 40, 30]) {
    for (const words of [
      ['run', SALVAGE, '--ticks', '200'],
      ['ask', REEF, 'nearest', '--at', '14,8', '--reach', '6', '--mode', 'all'],
    ]) {
      const { code, out, err } = keenAt(width, ...words)
      assert.equal(code, 0, err)
      const rows = out.split('\n\n')[0].split('\n')
      const longest = Math.max(...rows.map((line) => line.length))
      assert.ok(longest <= width, `${longest} characters in ${width}: ${words.join(' ')}`)
      assert.ok(rows.length > 5)
    }
  }
  assert.match(keenIn(60, '', 'run', SALVAGE, '--ticks', '100').out, /^time\s+what\s+a\s+b\s+dwell\n/)
})

test('a tick beyond the end of the scene is refused with its number', () => {
  for (const words of [
    ['draw', REEF, '--out', join(folder, 'beyond.svg')],
    ['ask', REEF, 'ray', '--from', '0,0', '--to', '1,1'],
    ['explain', REEF, 'lantern', 'beacon'],
  ]) {
    const { code, err } = keen(...words, '--tick', '1201')
    assert.equal(code, 2)
    assert.match(err, /--tick 1201 is beyond the end of the scene, which has 1200 ticks/)
  }
  assert.equal(keen('explain', REEF, 'lantern', 'beacon', '--tick', '1200').code, 0)
})

test('errors come as JSON too where JSON was asked for, with the exit code', () => {
  for (const [code, word, ...words] of [
    [1, 'failed', 'run', 'nofile.json'],
    [1, 'failed', 'check', 'nofile.json'],
    [2, 'usage', 'ask', REEF, 'rya'],
    [2, 'unknown-layer', 'ask', REEF, 'ray', '--from', '0,0', '--to', '5,5', '--layers', 'carft'],
    [2, 'usage', 'explain', REEF, 'lantern', 'beacn'],
    [2, 'usage', 'run', REEF, '--nonsense'],
  ] as const) {
    const got = keen(...words, '--json')
    const { error } = JSON.parse(got.out)
    assert.equal(got.code, code)
    assert.deepEqual([error.code, error.exitCode], [word, code])
    assert.ok(error.message.length > 10)
    assert.match(got.err, /error: /)
  }
})

test('a scene from standard input, with its models elsewhere, and slowly', async () => {
  const scene = readFileSync(join(root, SEA_FLOOR), 'utf8')
  const lost = keenIn(80, scene, 'run', '-', '-q')
  assert.equal(lost.code, 1)
  assert.match(lost.err, /looked for in the working folder \(--models names another\)/)
  for (const words of [
    ['run', '-', '-q', '--ticks', '60'],
    ['check', '-'],
    ['ask', '-', 'ray', '--from', '0,9,0', '--to', '0,-9,0'],
    ['draw', '-', '--out', join(folder, 'piped.svg')],
  ]) {
    const { code, err } = keenIn(80, scene, ...words, '--models', 'scenes')
    assert.equal(code, 0, err)
    assert.equal(err, '')
  }
  const empty = keenIn(80, ' ', 'check', '-')
  assert.equal(empty.code, 1)
  assert.match(empty.err, /standard input is empty/)
  const slow = spawn(process.execPath, [COMMAND, 'check', '-'], { cwd: root, env: PLAIN })
  const text = readFileSync(join(root, REEF), 'utf8')
  slow.stdin.write(text.slice(0, 100))
  setTimeout(() => slow.stdin.end(text.slice(100)), 300)
  const [code] = await once(slow, 'exit')
  assert.equal(code, 0)
})

test('one tick is one tick, and the help says what exit codes mean', () => {
  assert.match(keen('run', REEF, '-q', '--ticks', '1').out, /Lantern Reef: 1 tick \(0\.0 s\)/)
  assert.match(keen('--help').out, /Exit codes:\n\s+0 {2}done\n\s+1 .*\n\s+2 {2}the arguments are wrong/)
})

test('level: a picture, a table, a text, a drawing and a map become scenes that run', () => {
  const text = join(folder, 'shaft.txt')
  writeFileSync(text, '##..##\r\n#\r\n######\n')
  for (const [file, options, told] of [
    [
      'scenes/levels/gallery.png',
      ['--key', '#5b6470=#', '--key', '#2f6fb0=~', '--cell', '2'],
      /133 tiles, of 2 kinds: # ~/,
    ],
    ['scenes/levels/cellar.csv', [], /59 tiles, of 3 kinds: 1 2 3/],
    [text, ['--layer', 'rock'], /11 tiles, of one kind: #/],
    ['scenes/levels/cove.svg', ['--scale', '0.5'], /4 lines with \d+ points, 3 of them closed/],
    ['scenes/levels/reef.geojson', ['--about', '8.3,54.1', '--lines'], /2 lines with 11 points/],
  ] as const) {
    const out = join(folder, 'level.json')
    const { code, out: said, err } = keen('level', file, ...options, '--out', out)
    assert.equal(code, 0, err)
    assert.match(said, told)
    assert.equal(keen('check', out).code, 0, file)
    assert.equal(keen('run', out, '--ticks', '2').code, 0, file)
  }
})

test('outline: the tiles of a tick in every form, which come back as they went out', () => {
  const to = (name: string) => join(folder, name)
  const key = ['--key', '#5b6470=#', '--key', '#2f6fb0=~']
  assert.equal(keen('level', 'scenes/levels/gallery.png', ...key, '--out', to('a.json')).code, 0)
  for (const ending of ['svg', 'geojson', 'txt', 'csv', 'png']) {
    const { code, out, err } = keen(
      'outline',
      to('a.json'),
      ...(ending === 'png' ? key : []),
      '--out',
      to(`a.${ending}`),
    )
    assert.equal(code, 0, err)
    assert.match(out, /"gallery" after tick 0, 133 tiles in 32 edges/)
  }
  const rows = (file: string) => JSON.parse(readFileSync(file, 'utf8')).bodies[0].colliders[0].shape.rows
  for (const ending of ['txt', 'png']) {
    assert.equal(keen('level', to(`a.${ending}`), ...(ending === 'png' ? key : []), '--out', to('b.json')).code, 0)
    assert.deepEqual(rows(to('b.json')), rows(to('a.json')))
  }
  const later = keen('outline', 'scenes/mine.json', '--tick', '120', '--out', to('mine.svg'))
  assert.match(later.out, /"mine" after tick 120, 18,\d{3} tiles in 6\d\d edges/)
})

test('level and outline say what is wrong with what they were given', () => {
  const out = join(folder, 'none.json')
  for (const [words, exit, text] of [
    [['level', 'scenes/levels/gallery.png', '--out', out], 2, /needs --key/],
    [['level', 'scenes/levels/gallery.png', '--key', '#5b6470=#', '--out', out], 1, /pixel 6, 7 is #2f6fb0/],
    [['level', 'scenes/levels/gallery.png', '--key', 'grey', '--out', out], 2, /a colour and a sign/],
    [['level', 'level.doc', '--out', out], 2, /a level ends in \.png/],
    [['level', 'nowhere.csv', '--out', out], 1, /cannot read nowhere\.csv/],
    [['level', 'scenes/levels/cove.svg', '--cell', '2', '--out', out], 2, /--cell belongs to \.png, \.csv, \.txt/],
    [['level', 'scenes/levels/cellar.csv', '--key', '#000=x', '--out', out], 2, /--key belongs to \.png/],
    [['level', 'scenes/levels/cove.svg', '--about', '8,54', '--out', out], 2, /--about belongs to \.geojson/],
    [['outline', 'scenes/mine.json', '--key', '#000=x', '--out', 'x.svg'], 2, /--key belongs to \.png/],
    [['level', 'scenes/levels/cellar.csv', '--cell', '-1', '--out', out], 1, /cell/],
    [['outline', REEF, '--out', 'x.svg'], 1, /has no tiles/],
    [['outline', 'scenes/mine.json', '--body', 'reef', '--out', 'x.svg'], 2, /there are "mine"/],
    [['outline', 'scenes/mine.json', '--out', 'x.gif'], 2, /--out ends in \.svg/],
    [['outline', 'scenes/sea-floor.json', '--out', 'x.svg'], 1, /3d scene has no tiles/],
  ] as const) {
    const { code, out: said, err } = keen(...words)
    assert.equal(code, exit, `${words.join(' ')}: ${err}`)
    assert.match(said + err, text)
    assert.doesNotMatch(err, /at .*\.js:/)
  }
})

test('run --advise: what is worth a look, or that nothing is', () => {
  assert.match(keen('run', REEF, '--quiet', '--advise').out, /\nok {2}nothing is worth a look\n$/)
  const path = join(folder, 'silent.json')
  const scene = JSON.parse(readFileSync(join(root, REEF), 'utf8'))
  scene.layers.pairs.push(['fauna', 'zone', 'pass'])
  scene.watches = [{ name: 'lobby', a: 'fauna', b: 'zone' }]
  writeFileSync(path, JSON.stringify(scene))
  assert.match(
    keen('run', path, '--ticks', '300', '--quiet', '--advise').out,
    /look {2}watch lobby has told nothing .*\n.*=> /,
  )
  const { advice } = JSON.parse(keen('run', path, '--ticks', '300', '--json', '--advise').out)
  assert.deepEqual(
    advice.map(({ code }: { code: string }) => code),
    ['silent-watch'],
  )
})

/** A scene that is played in no time: three crates on a floor. */
function crates(): string {
  const solid = (layer: string, width: number, height: number) => [{ layer, shape: { kind: 'box', width, height } }]
  const path = join(folder, 'crates.json')
  const crate = (i: number) => ({
    name: `crate ${i}`,
    type: 'dynamic',
    at: [0.3 * i, 1 + 1.2 * i],
    colliders: solid('crate', 1, 1),
  })
  const scene = {
    format: 'keen-sentry-scene',
    version: 1,
    name: 'Crates',
    dimension: '2d',
    ticks: 150,
    layers: { names: ['rock', 'crate'] },
    bodies: [
      { name: 'floor', type: 'static', at: [0, -0.5], colliders: solid('rock', 20, 1) },
      ...[0, 1, 2].map(crate),
    ],
    watches: [{ name: 'lands', a: 'crate', b: '*' }],
    actions: [{ time: 1.5, do: 'remove', body: 'crate 1' }],
  }
  writeFileSync(path, JSON.stringify(scene))
  return path
}

test('run --save and --from: a run that stops in the middle goes on to the same end', () => {
  const file = (name: string) => join(folder, name)
  const scene = crates()
  assert.equal(keen('run', scene, '-q', '--ticks', '60', '--save', file('half.json')).code, 0)
  const rest = keen('run', scene, '-q', '--from', file('half.json'), '--save', file('end.json'))
  assert.match(rest.out, /90 ticks .*\nSaved run: /)
  const same = keen('compare', scene, file('end.json'))
  assert.deepEqual([same.code, same.out], [0, 'equal  the world at tick 150\n'], same.err)
  const other = keen('compare', file('half.json'), file('end.json'))
  assert.equal(other.code, 1)
  assert.match(
    other.out,
    /^parted {2}at tick 60 \(1\.000 s\)\n {2}the world: tick is 60 in the first, 150 in the second\n$/,
  )
  const wrong = keen('run', REEF, '--from', file('half.json'))
  assert.equal(wrong.code, 1)
  assert.match(wrong.err, /half\.json is of another scene \(Crates, [0-9a-f]{12}…\) than the one given/)
  writeFileSync(file('spoilt.json'), readFileSync(file('half.json'), 'utf8').replace('"tick": 60', '"tick": -1'))
  assert.match(keen('run', scene, '--from', file('spoilt.json')).err, /is no run that was saved: tick: /)
  // Other watches than the saved run had: they hear of what they find.
  const watched = keen('run', scene, '--from', file('half.json'), '--watch', 'crate:rock', '--json')
  assert.equal(JSON.parse(watched.out).lines[1].cause, 'watched', watched.err)
  const silent = keen('run', scene, '--hashes')
  assert.deepEqual([silent.code, /--hashes has no effect/.test(silent.err)], [2, true])
  const piped = keenIn(80, readFileSync(scene, 'utf8'), 'compare', '-', scene)
  assert.match(piped.out, /^equal {2}150 ticks/)
  assert.match(keen('compare', '-', '-').err, /one of the two only/)
  const late = keen('run', scene, '--from', file('end.json'), '-q', '--ticks', '5')
  assert.match(late.out, /: 5 ticks/)
})

test('compare: a scene with its log, and with one that was changed by a little', () => {
  const file = (name: string) => join(folder, name)
  const path = crates()
  assert.equal(keen('run', path, '-q', '--hashes', '--log', file('crates.jsonl')).code, 0)
  const same = keen('compare', path, file('crates.jsonl'))
  assert.equal(same.code, 0, same.err)
  assert.match(same.out, /^equal {2}\d+ ticks, \d+ lines\n$/)
  const scene = JSON.parse(readFileSync(path, 'utf8'))
  const body = scene.bodies.find((each: { type: string }) => each.type === 'dynamic')
  body.at[1] += 1e-12
  writeFileSync(file('nudged.json'), JSON.stringify(scene))
  const both = keen('compare', path, file('nudged.json'))
  assert.equal(both.code, 1, both.err)
  assert.match(both.out, new RegExp(`^parted {2}at tick 1 .*[^]*body ${body.name}: at\\.[xy] is `))
  const json = JSON.parse(keen('compare', file('crates.jsonl'), file('nudged.json'), '--json').out)
  assert.deepEqual([json.equal, json.tick, json.fields], [false, 1, ['hash']])
  assert.match(json.notes[0], /two different scene files/)
  const log = readFileSync(file('crates.jsonl'), 'utf8')
  writeFileSync(file('cut.jsonl'), log.slice(0, log.lastIndexOf('{"kind":"done"')))
  assert.match(keen('compare', file('cut.jsonl'), path).out, /^note: .* was cut short after tick \d+\nequal/)
  const mixed = keen('compare', file('crates.jsonl'), file('end.json'))
  assert.equal(mixed.code, 2)
  assert.match(mixed.err, /a log holds events, and a save a world/)
  assert.match(keen('compare', REEF, file('nowhere')).err, /cannot read .*nowhere: there is no such file/)
  writeFileSync(file('bad.save'), 'KEENSAVE and then nothing of use')
  assert.match(keen('compare', REEF, file('bad.save')).err, /bad\.save: what is restored is of version/)
})

test('timeline: bars from begin to end with their causes, impacts, rays, actions, joints; of a scene and of a log', () => {
  const file = (name: string) => join(folder, name)
  const reef = keen('timeline', REEF, '--out', file('reef.svg'))
  assert.deepEqual([reef.code, reef.out], [0, `${file('reef.svg')}: 1200 ticks, 11 rows\n`], reef.err)
  const svg = readFileSync(file('reef.svg'), 'utf8')
  for (const word of ['lantern · air pocket', 'teleported', 'refiltered', 'ray sonar', 'remove crate', '>20 s<']) {
    assert.ok(svg.includes(word), word)
  }
  // Bars in pixels: from the begin to the end of what the log has.
  keen('run', REEF, '-q', '--log', file('reef.jsonl'))
  assert.equal(keen('timeline', file('reef.jsonl'), '--out', file('log.svg')).code, 0)
  assert.equal(readFileSync(file('log.svg'), 'utf8'), svg)
  const sluice = keen('timeline', 'scenes/sluice.json', '--ticks', '300', '--width', '900', '--out', file('sluice.png'))
  assert.match(sluice.out, /sluice\.png: 300 ticks, \d+ rows/)
  assert.deepEqual([...readFileSync(file('sluice.png')).subarray(1, 4)], [...Buffer.from('PNG')])
  const event = (kind: string, tick: number, a: string, more = {}) => ({
    ...{ tick, time: tick / 60, kind, watch: 'w', a, b: 'zone', aCollider: 0, bCollider: 0, response: 'sense' },
    ...{ cause: 'moved', when: 1, dwell: 0 },
    ...more,
  })
  const head = {
    format: 'keen-sentry-events',
    version: 1,
    scene: 'A < B',
    hash: '0'.repeat(64),
    dimension: '2d',
    rate: 60,
  }
  const log = (...events: object[]) => {
    const lines = [{ ...head, tick: 0 }, ...events, { kind: 'done', ticks: 600, counts: {} }]
    writeFileSync(file('made.jsonl'), lines.map((line) => `${JSON.stringify(line)}\n`).join(''))
    const { out, err } = keen('timeline', file('made.jsonl'), '--out', file('made.svg'))
    assert.equal(err, '')
    return { out, svg: readFileSync(file('made.svg'), 'utf8') }
  }
  // One that began before the log; one that goes on; one whose ends nobody tells.
  const early = log(event('end', 120, 'early', { dwell: 99 }), event('begin', 300, 'late'))
  assert.match(early.out, /600 ticks, 2 rows/)
  const bars = [...early.svg.matchAll(/<rect x="([\d.]+)" y="[\d.]+" width="([\d.]+)" height="\d+" rx="2" fill="url/g)]
  const [from, wide] = bars[0].slice(1).map(Number)
  assert.ok(Math.abs(Number(bars[1][1]) - (from + 2.5 * wide)) < 0.5 && Math.abs(Number(bars[1][2]) - 2.5 * wide) < 0.5)
  assert.equal(early.svg.match(/l6 [\d.]+l-6/g)!.length, 1)
  const twice = log(event('begin', 60, 'fish'), event('begin', 90, 'fish'))
  assert.ok(!twice.svg.includes('fill="url(#sense)"'))
  assert.match(log().svg, /nothing was told/)
  assert.match(log().svg, /A &lt; B/)
  for (const [words, code, text] of [
    [['timeline', REEF, '--out', file('x.txt')], 2, /--out must end in \.svg or \.png/],
    [['timeline', REEF, '--out', file('x.svg'), '--width', '90'], 2, /--width must be 480 at least/],
    [['timeline', file('made.jsonl'), '--out', file('x.svg'), '--ticks', '9'], 2, /--ticks belongs to a scene/],
    [['timeline', file('end.json'), '--out', file('x.svg')], 2, /holds a world, and no events/],
  ] as const) {
    const told = keen(...words)
    assert.equal(told.code, code)
    assert.match(told.err, text)
  }
})

test('run --coverage: what told nothing, what came near and met, which rows decided', () => {
  const { code, out, err } = keen('run', 'scenes/sea-floor.json', '-q', '--coverage')
  assert.equal(code, 0, err)
  assert.match(out, /^crawler {2}pod {6}solid +3 +2$/m)
  assert.match(out, /^zone, zone, pass +never$/m)
  assert.match(out, /^crawler, floor, pass +3$/m)
  const scene = JSON.parse(readFileSync(join(root, REEF), 'utf8'))
  scene.watches.push({ name: 'asleep', a: 'wreck', b: 'fauna' })
  scene.layers.pairs.unshift(['wreck', 'craft', 'sense'])
  writeFileSync(join(folder, 'more.json'), JSON.stringify(scene))
  const told = keen('run', join(folder, 'more.json'), '--json', '--coverage')
  const { coverage, counts } = JSON.parse(told.out)
  assert.deepEqual(coverage.watches.at(-1), { key: 'asleep', told: 0 })
  assert.deepEqual(coverage.rows[0], { row: ['wreck', 'craft', 'sense'], decided: 0, overridden: true })
  const zone = coverage.pairs.find((pair: { a: string; b: string }) => pair.a === 'craft' && pair.b === 'zone')
  assert.ok(zone.near >= zone.met && zone.met > 5)
  // The events of the scene are what they are without it.
  assert.deepEqual(JSON.parse(keen('run', join(folder, 'more.json'), '--json').out).counts, counts)
  assert.equal(keen('run', REEF, '--coverage', '--csv').code, 2)
})
