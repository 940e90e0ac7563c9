/** Scenes of 3D: what only they have, and what must not be mixed with 2D. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { check, loadModels, modelFiles, playScene, readScene, readShape } from '../../scenes-package/src/scene/index.ts'
import { wildcard } from '../../scenes-package/src/scene/models.ts'
import { eventLine, type LogEvent } from '../../src/record/index.ts'
import { throwsKeen } from '../helpers/throws.ts'

const read = (path: string): Uint8Array => new Uint8Array(readFileSync(new URL(`../../${path}`, import.meta.url)))
const floor = (): Record<string, unknown> => JSON.parse(new TextDecoder().decode(read('scenes/sea-floor.json')))
const load = (file: string): Uint8Array => read(`scenes/${file}`)

const ball = (radius: number, layer: string, more: object = {}) => ({
  shape: { kind: 'sphere', radius },
  layer,
  ...more,
})

/** A small scene that runs, with some fields set otherwise. */
function small(changes: object = {}): object {
  return {
    format: 'keen-sentry-scene',
    version: 1,
    name: 'small',
    dimension: '3d',
    rate: 10,
    ticks: 60,
    layers: { names: ['rock', 'craft', 'zone'], pairs: [['zone', '*', 'sense']] },
    bodies: [
      { name: 'pool', type: 'static', colliders: [ball(2, 'zone')] },
      { name: 'sub', type: 'kinematic', at: [9, 0, 0], velocity: [1, 0, 0], colliders: [ball(0.5, 'craft')] },
    ],
    ...changes,
  }
}

const problemsOf = (changes: object): string[] => check(small(changes)).map((each) => `${each.place}: ${each.message}`)

test('the story of the sea floor: beacons are entered and left, the gate is crossed within a tick, everything has its end', async () => {
  const scene = readScene(floor(), '3d')
  const models = await loadModels(floor(), load)
  assert.deepEqual(check(floor(), models), [])
  const player = playScene(scene, models)
  const lines: LogEvent[] = []
  for (let tick = 0; tick < player.ticks; tick++) for (const event of player.step().events) lines.push(eventLine(event))
  const story = lines.map((line) => `${line.a} ${line.kind} ${line.b}: ${line.cause}`)
  for (const told of [
    'crawler begin first beacon: moved',
    'crawler end first beacon: moved',
    'crawler begin second beacon: moved',
    'crawler begin dock: moved',
    'courier begin gate: crossed',
    'courier end gate: crossed',
    'blue pod end second beacon: teleported',
  ]) {
    assert.ok(story.includes(told), `${told} is not in the story:\n${story.join('\n')}`)
  }
  const open = new Map<string, number>()
  for (const { watch, a, b, kind } of lines) {
    const key = `${watch} ${a} ${b}`
    open.set(key, (open.get(key) ?? 0) + (kind === 'begin' ? 1 : -1))
    assert.ok(open.get(key) === 0 || open.get(key) === 1, `${key}: begin and end are not in turn`)
  }
  // The six probes of the crawler stand on ground from the first tick to the last.
  const legs = player.rays.filter(({ ray }) => ray.name.startsWith('leg '))
  assert.equal(legs.length, 6)
  for (const { ray, hit } of legs) {
    assert.ok(hit !== null && hit.distance < 2, `${ray.name} stands on ${hit?.body ?? 'nothing'}`)
  }
})

test('every shape of the format makes its collider, rotations in both forms', () => {
  const points = [
    [0, 0, 0],
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ]
  const shapes = [
    { kind: 'sphere', radius: 1 },
    { kind: 'box', x: 1, y: 2, z: 3, radius: 0.1 },
    { kind: 'capsule', a: [0, 0, 0], b: [0, 1, 0], radius: 0.5 },
    { kind: 'cylinder', height: 1, radius: 2 },
    { kind: 'cone', height: 1, radius: 2 },
    { kind: 'hull', points },
    { kind: 'mesh', points, triangles: [[0, 1, 2]], sides: 'front' },
    { kind: 'heightfield', columns: 2, rows: 3, heights: [0, 0, 0, 1, 1, null], cell: [1, 2] },
    { kind: 'halfspace', normal: [0, 1, 0], offset: -3 },
    { kind: 'compound', parts: [{ shape: { kind: 'sphere', radius: 1 }, at: [1, 0, 0], rotation: [0, 0, 0, 1] }] },
  ]
  const half = Math.SQRT1_2
  const scene = readScene(
    small({
      bodies: shapes.map((shape, i) => ({
        name: shape.kind,
        type: 'static',
        rotation: i % 2 === 0 ? [0, half, 0, half] : { axis: [0, 2, 0], angle: Math.PI / 2 },
        colliders: [{ shape, layer: 'rock' }],
      })),
    }),
    '3d',
  )
  const { world } = playScene(scene)
  for (const body of world.bodies()) {
    assert.equal(body.colliders[0].shape.kind, body.name)
    assert.ok(Math.abs(body.rotation.y - half) < 1e-12 && Math.abs(body.rotation.w - half) < 1e-12, `${body} is turned`)
  }
  assert.equal(readShape({ kind: 'cone', height: 1, radius: 1 }, '3d').kind, 'cone')
})

test('dimensions are not mixed: what belongs to the other is told as that', () => {
  const sub = (more: object) => ({
    bodies: [{ name: 'sub', type: 'kinematic', colliders: [ball(1, 'craft')], ...more }],
  })
  const cases: [object, RegExp][] = [
    [
      sub({ colliders: [{ shape: { kind: 'circle', radius: 1 }, layer: 'craft' }] }),
      /shape\.kind: found "circle": that is of 2d scenes; there are "sphere"/,
    ],
    [sub({ angle: 1 }), /bodies\[0\]\.angle: is of 2d scenes; here it is rotation/],
    [sub({ at: [1, 2] }), /bodies\[0\]\.at: found an array of 2, expected \[x, y, z\]/],
    [sub({ mass: 3 }), /bodies\[0\]\.mass: a kinematic body takes no mass/],
    [
      sub({ colliders: [{ shape: { kind: 'sphere', radius: 1 }, layer: 'craft', surfaceSpeed: 1 }] }),
      /surfaceSpeed: is of 2d scenes; here it is surfaceVelocity/,
    ],
    [{ gravity: [0, -9] }, /^gravity: found an array of 2, expected \[x, y, z\]/],
    [{ view: { min: [0, 0], max: [1, 1] } }, /view\.min: is of 2d scenes; here it is view\.eye/],
    [{ actions: [{ time: 1, do: 'push', body: 'sub', impulse: [1, 0] }] }, /impulse: found an array of 2/],
    [
      sub({
        type: 'dynamic',
        colliders: [
          { shape: { kind: 'heightfield', columns: 2, rows: 2, heights: [0, 0, 0, 0], cell: 1 }, layer: 'craft' },
        ],
      }),
      /bodies\[0\]\.type: triangles belong on static and kinematic bodies/,
    ],
    [{ dimension: '4d' }, /^dimension: found "4d"/],
    [{ dimension: '2d' }, /at: found an array of 3, expected \[x, y\]|is of 3d scenes|that is of 3d scenes/],
  ]
  for (const [changes, expected] of cases) {
    const problems = problemsOf(changes)
    assert.ok(
      problems.some((problem) => expected.test(problem)),
      `${expected} is not among\n${problems.join('\n')}`,
    )
  }
  throwsKeen('bad-scene', /the scene is 3d, and a 2d scene is wanted/, () => readScene(small(), '2d'))
})

test('numbers that make nothing are told with their place', () => {
  const shaped = (shape: object) => ({
    bodies: [{ name: 'sub', type: 'static', colliders: [{ shape, layer: 'craft' }] }],
  })
  const cases: [object, RegExp][] = [
    [
      shaped({
        kind: 'hull',
        points: [
          [0, 0, 0],
          [1, 0, 0],
          [0, 1, 0],
          [1, 1, 0],
        ],
      }),
      /colliders\[0\]\.shape: /,
    ],
    [
      shaped({
        kind: 'mesh',
        points: [
          [0, 0, 0],
          [1, 0, 0],
          [0, 1, 0],
        ],
        triangles: [[0, 1, 9]],
      }),
      /indices\[2\] of a mesh/,
    ],
    [shaped({ kind: 'heightfield', columns: 3, rows: 2, heights: [0], cell: 1 }), /must be 3 x 2 = 6 numbers, got 1/],
    [
      { bodies: [{ name: 'sub', type: 'static', rotation: [0, 0, 0, 0] }] },
      /bodies\[0\]\.rotation: a rotation needs an axis, or a quaternion, that is not zero/,
    ],
  ]
  for (const [changes, expected] of cases) assert.match(problemsOf(changes).join('\n'), expected)
})

test('a path turns at an even pace, the short way', () => {
  const scene = readScene(
    small({
      bodies: [
        {
          name: 'sub',
          type: 'kinematic',
          colliders: [ball(0.5, 'craft')],
          path: {
            points: [
              { time: 0, at: [0, 0, 0], rotation: { axis: [0, 1, 0], angle: -0.5 } },
              { time: 4, at: [4, 8, 0], rotation: { axis: [0, 1, 0], angle: 2.5 } },
            ],
          },
        },
      ],
    }),
    '3d',
  )
  const player = playScene(scene)
  const sub = player.world.find('sub')!
  for (let tick = 1; tick <= 40; tick++) {
    player.step()
    const angle = 2 * Math.atan2(sub.rotation.y, sub.rotation.w)
    assert.ok(Math.abs(angle - (-0.5 + (3 * tick) / 40)) < 1e-9, `tick ${tick}: ${angle}`)
    assert.ok(Math.abs(sub.at.y - tick / 5) < 1e-12)
  }
})

const rocks = (nodes: object[]) => ({
  bodies: [{ name: 'rocks', type: 'static', model: { file: 'sea-rocks.glb', nodes } }],
})
const rule = (name: string, more: object = {}) => ({ name, shape: 'mesh', layer: 'rock', ...more })

test('nodes of a model become colliders by the first rule that fits their name', async () => {
  const json = small(
    rocks([rule('arch w*'), rule('boulder ????', { shape: 'hull', layer: 'zone' }), rule('*', { sensor: true })]),
  )
  assert.deepEqual(modelFiles(json), ['sea-rocks.glb'])
  const models = await loadModels(json, load)
  assert.deepEqual(
    check(json, models).filter(({ level }) => level === 'error'),
    [],
  )
  const [body] = playScene(readScene(json, '3d'), models).world.bodies()
  assert.deepEqual(
    body.colliders.map(({ shape, layer, sensor }) => [shape.kind, layer, sensor]),
    [
      ['mesh', 'rock', false],
      ['mesh', 'rock', true],
      ['hull', 'zone', false],
      ['mesh', 'rock', true],
      ['mesh', 'rock', true],
      ['mesh', 'rock', true],
    ],
  )
  // Each is where the file has it: under the middle of an arch there is room, and over it is rock.
  const { world } = playScene(readScene(json, '3d'), models)
  const up = { from: { x: -6, y: 0.5, z: 4 }, direction: { x: 0, y: 1, z: 0 }, reach: 20 }
  const hit = world.raycast.first(up)
  assert.equal(hit?.collider.index, 0)
  assert.ok(hit.distance > 1 && hit.distance < 6, `the arch begins ${hit.distance} m up`)
})

test('a model that is not there, a rule that fits nothing, an unknown layer: each with its place', async () => {
  const codes = async (changes: object): Promise<string[]> => {
    const json = small(changes)
    const models = await loadModels(json, (file) => {
      if (file !== 'sea-rocks.glb') throw new Error('there is no such file')
      return load(file)
    })
    return check(json, models).map(({ level, code, place, message }) => `${level} ${code} ${place}: ${message}`)
  }
  const absent = { bodies: [{ name: 'rocks', type: 'static', model: { file: 'no.glb', nodes: [rule('*')] } }] }
  assert.deepEqual(await codes(absent), ['error bad-model bodies[0].model.file: no.glb: there is no such file'])
  const [first] = await codes(rocks([rule('arch west'), rule('arhc east')]))
  assert.match(first, /^warning no-node bodies\[0\]\.model\.nodes\[1\]\.name: .*did you mean "arch east"\?/)
  assert.match(
    (await codes(rocks([rule('*', { layer: 'rokc' })])))[0],
    /^error unknown-layer bodies\[0\]\.model\.nodes\[0\]\.layer/,
  )
  const scene = readScene(small(rocks([rule('*')])), '3d')
  throwsKeen('bad-model', /sea-rocks\.glb was not read/, () => playScene(scene))
})

test('a wildcard fits the whole name, and takes no time over any', () => {
  const fits = (pattern: string, name: string): boolean => wildcard(pattern).test(name)
  assert.ok(fits('arch *', 'arch west') && fits('*', '') && fits('a?c', 'abc') && fits('a.c', 'a.c'))
  assert.ok(!fits('arch', 'arch west') && !fits('a.c', 'abc') && !fits('a?c', 'ac') && !fits('Arch', 'arch'))
  assert.ok(fits('pod (left) [1]', 'pod (left) [1]'))
  const begin = performance.now()
  assert.ok(!fits(`${'*'.repeat(30)}b`, 'a'.repeat(1000)))
  assert.ok(performance.now() - begin < 500, 'a pattern of many stars is slow')
})
