import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  check,
  loadModels,
  type Models,
  playScene,
  readScene,
  sceneJsonSchema,
} from '../../scenes-package/src/scene/index.ts'
import { KeenError } from '../../src/core/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { throwsKeen } from '../helpers/throws.ts'

const file = (path: string): string => readFileSync(new URL(`../../${path}`, import.meta.url), 'utf8')
const reef = (): Record<string, unknown> => JSON.parse(file('scenes/lantern-reef.json'))

/** A small scene that runs, with some fields set otherwise. */
function small(changes: object = {}): object {
  return {
    format: 'keen-sentry-scene',
    version: 1,
    name: 'small',
    dimension: '2d',
    ticks: 60,
    layers: { names: ['rock', 'craft', 'zone'], pairs: [['zone', '*', 'sense']] },
    tags: ['player'],
    bodies: [
      { name: 'pool', type: 'static', colliders: [{ shape: { kind: 'box', width: 4, height: 4 }, layer: 'zone' }] },
      {
        name: 'sub',
        type: 'kinematic',
        colliders: [
          { shape: { kind: 'circle', radius: 0.5 }, layer: 'craft', tags: ['player'] },
          { shape: { kind: 'capsule', a: [0, 0], b: [1, 0], radius: 0.2 }, layer: 'craft' },
        ],
      },
    ],
    ...changes,
  }
}

const problemsOf = (changes: object): string[] => check(small(changes)).map((each) => `${each.place}: ${each.message}`)

test('the demo scene and the small one have no problem', () => {
  assert.deepEqual(check(reef()), [])
  assert.deepEqual(check(small()), [])
})

test('a mistake of form: its place, what was found, what was expected', () => {
  const [pool, sub] = (small() as { bodies: object[] }).bodies
  const cases: [object, RegExp][] = [
    [{ format: 'other' }, /^format: found "other", expected "keen-sentry-scene"/],
    [{ version: 2 }, /^version: found 2, expected 1/],
    [{ name: undefined }, /^name: found nothing, expected a string/],
    [{ bodies: 3 }, /^bodies: found 3, expected a list/],
    [{ wind: [0, 1] }, /^wind: there is no such field here/],
    [{ ticks: 0 }, /^ticks: found 0, expected a number of at least 1/],
    [{ bodies: [{ ...pool, type: 'statik' }] }, /^bodies\[0\]\.type: found "statik", .* did you mean "static"\?/],
    [{ bodies: [{ ...pool, at: [1] }] }, /^bodies\[0\]\.at/],
    [{ bodies: [{ ...pool, at: ['1', 2] }] }, /^bodies\[0\]\.at\[0\]: found "1", expected a number/],
    [
      { bodies: [{ ...pool, colliders: [{ shape: { kind: 'circle', radius: -1 }, layer: 'zone' }] }] },
      /^bodies\[0\]\.colliders\[0\]\.shape\.radius: found -1, expected a number above 0/,
    ],
    [
      { bodies: [{ ...pool, colliders: [{ shape: { kind: 'circel', radius: 1 }, layer: 'zone' }] }] },
      /^bodies\[0\]\.colliders\[0\]\.shape\.kind: found "circel".*"circle"/,
    ],
    [{ bodies: [{ ...pool, colliders: [{ layer: 'zone' }] }] }, /^bodies\[0\]\.colliders\[0\]\.shape: found nothing/],
    [{ bodies: [sub], actions: [{ time: 1, do: 'explode', body: 'sub' }] }, /^actions\[0\]\.do: found "explode"/],
    [{ watches: [{ a: { bodi: 'sub' }, b: '*' }] }, /^watches\[0\]\.a/],
  ]
  for (const [changes, expected] of cases)
    assert.match(problemsOf(changes).join('\n'), expected, JSON.stringify(changes))
})

test('a name that does not exist: its place, and the nearest real one', () => {
  const [pool, sub] = (small() as { bodies: object[] }).bodies
  const one = { kind: 'circle', radius: 1 }
  const cases: [object, RegExp][] = [
    [
      { bodies: [{ ...pool, colliders: [{ shape: one, layer: 'zome' }] }] },
      /^bodies\[0\]\.colliders\[0\]\.layer: no layer is called "zome"; did you mean "zone"\?/,
    ],
    [{ bodies: [{ ...pool, colliders: [{ shape: one, layer: ['zone', 'rok'] }] }] }, /layer\[1\]: .*"rock"/],
    [
      { bodies: [{ ...pool, colliders: [{ shape: one, layer: 'zone', tags: ['playr'] }] }] },
      /tags\[0\]: no tag is called "playr"; did you mean "player"\?/,
    ],
    [
      { layers: { names: ['rock', 'craft', 'zone'], pairs: [['zone', 'crafd', 'pass']] } },
      /^layers\.pairs\[0\]\[1\]: .*"craft"/,
    ],
    [
      { layers: { names: ['rock', 'craft', 'zone', 'rock'] } },
      /^layers\.names\[3\]: a layer is already called "rock", at layers\.names\[0\]/,
    ],
    [{ bodies: [pool, sub, sub] }, /^bodies\[2\]\.name: a body is already called "sub", at bodies\[1\]\.name/],
    [
      { actions: [{ time: 1, do: 'remove', body: 'subb' }] },
      /^actions\[0\]\.body: no body is called "subb"; did you mean "sub"\?/,
    ],
    [
      { actions: [{ time: 1, do: 'remove', body: 'sub', collider: 2 }] },
      /^actions\[0\]\.collider: found 2, but "sub" has 2 colliders/,
    ],
    [
      { actions: [{ time: 1, do: 'layer', body: 'sub', layer: 'x' }] },
      /^actions\[0\]\.layer: no layer is called "x"; there are "rock"/,
    ],
    [{ rays: [{ name: 'r', from: [0, 0], to: [1, 0], body: 'sob' }] }, /^rays\[0\]\.body/],
    [
      { rays: [{ name: 'r', from: [0, 0], to: [1, 0], filter: { except: ['sob'] } }] },
      /^rays\[0\]\.filter\.except\[0\]/,
    ],
    [{ watches: [{ a: 'craf', b: '*' }] }, /^watches\[0\]\.a: .*"craft"/],
    [{ watches: [{ a: '*', b: { tag: 'pleyer' } }] }, /^watches\[0\]\.b\.tag: .*"player"/],
    [{ watches: [{ a: '*', b: { body: 'pol' } }] }, /^watches\[0\]\.b\.body: .*"pool"/],
    [{ bodies: [{ ...pool, velocity: [1, 0] }] }, /^bodies\[0\]\.velocity: a static body takes no velocity/],
    [
      {
        bodies: [
          {
            ...sub,
            spin: 1,
            path: {
              points: [
                { time: 0, at: [0, 0] },
                { time: 1, at: [1, 0] },
              ],
            },
          },
        ],
      },
      /^bodies\[0\]\.spin: a body with a path/,
    ],
    [
      {
        bodies: [
          {
            ...sub,
            path: {
              points: [
                { time: 1, at: [0, 0] },
                { time: 1, at: [1, 0] },
              ],
            },
          },
        ],
      },
      /points\[1\]\.time: found 1, expected more than 1/,
    ],
    [
      {
        bodies: [
          {
            ...sub,
            path: {
              loop: true,
              points: [
                { time: 0, at: [0, 0] },
                { time: 1, at: [1, 0] },
              ],
            },
          },
        ],
      },
      /a loop must end where it begins/,
    ],
  ]
  for (const [changes, expected] of cases)
    assert.match(problemsOf(changes).join('\n'), expected, JSON.stringify(changes))
})

test('reading refuses with every error at once', () => {
  const error = throwsKeen('bad-scene', /2 errors/, () => readScene(small({ name: 3, rate: -1 })))
  assert.match(error.message, /name: found 3/)
  assert.match(error.message, /rate: found -1/)
})

test('the published schema is the one of the definition', () => {
  assert.deepEqual(
    JSON.parse(file('schema/scene.schema.json')),
    JSON.parse(JSON.stringify(sceneJsonSchema())),
    'run `npm run schema`',
  )
})

test('paths, actions and rays are carried out at their times', () => {
  const scene = readScene(
    small({
      rate: 10,
      bodies: [
        ...(small() as { bodies: object[] }).bodies.slice(0, 1),
        {
          name: 'sub',
          type: 'kinematic',
          colliders: [{ shape: { kind: 'circle', radius: 0.5 }, layer: 'craft' }],
          path: {
            points: [
              { time: 0, at: [-4, 0] },
              { time: 1, at: [0, 0] },
              { time: 2, at: [0, 6], angle: 1 },
            ],
          },
        },
        {
          name: 'buoy',
          type: 'static',
          at: [20, 0],
          colliders: [{ shape: { kind: 'circle', radius: 1 }, layer: 'rock' }],
        },
      ],
      actions: [
        { time: 2.5, do: 'teleport', body: 'sub', at: [0, 0], angle: 0 },
        { time: 3, do: 'disable', body: 'sub' },
        { time: 3.5, do: 'enable', body: 'sub' },
        { time: 4, do: 'layer', body: 'sub', layer: 'rock' },
        { time: 4.5, do: 'remove', body: 'sub', collider: 0 },
        { time: 4.6, do: 'layer', body: 'sub', collider: 0, layer: 'craft' },
        { time: 5, do: 'remove', body: 'buoy' },
      ],
      rays: [{ name: 'sonar', from: [2, 0], to: [30, 0], filter: { layers: ['rock'] } }],
      watches: [
        { name: 'in', a: ['craft', 'rock'], b: 'zone' },
        { name: 'craft in', a: 'craft', b: 'zone' },
      ],
    }),
    '2d',
  )
  const player = playScene(scene)
  const sub = player.world.find('sub')!
  const told: string[] = []
  for (let tick = 1; tick <= 60; tick++) {
    const report = player.step()
    for (const action of report.actions) told.push(`${tick} do ${action.do}`)
    for (const event of report.events) told.push(`${tick} ${event.watch.key} ${event.kind} ${event.cause}`)
    for (const ray of report.rays) told.push(`${tick} ${ray.ray.name} ${ray.hit === null ? 'nothing' : ray.hit.body}`)
    if (tick === 5) assert.ok(Math.abs(sub.at.x + 2) < 1e-9, 'half way')
    if (tick === 15) assert.ok(Math.abs(sub.at.y - 3) < 1e-9 && Math.abs(sub.angle - 0.5) < 1e-9)
    if (tick === 26) assert.deepEqual(sub.at, { x: 0, y: 0 }, 'a teleport ends the path')
  }
  assert.deepEqual(told, [
    '4 in begin moved',
    '4 craft in begin moved',
    '15 in end moved',
    '15 craft in end moved',
    '26 do teleport',
    '26 in begin teleported',
    '26 craft in begin teleported',
    '31 do disable',
    '31 in end disabled',
    '31 craft in end disabled',
    '36 do enable',
    '36 in begin enabled',
    '36 craft in begin enabled',
    '41 do layer',
    '41 craft in end refiltered',
    '46 do remove',
    '46 in end removed',
    '51 do remove',
    '51 sonar nothing',
  ])
})

test('the same scene gives the same events and the same poses to the bit', () => {
  const play = (): string => {
    const player = playScene(readScene(reef(), '2d'))
    const lines: unknown[] = []
    for (let tick = 0; tick < player.ticks; tick++) {
      for (const event of player.step().events)
        lines.push([event.tick, event.kind, String(event.a), String(event.b), event.cause, event.when])
      lines.push(player.world.bodies().map((body) => [body.at.x, body.at.y, body.angle]))
    }
    return JSON.stringify(lines)
  }
  assert.equal(play(), play())
})

/** The scene of 3D with its model, its floor a small one. */
function seaFloor(): Record<string, unknown> {
  const scene = JSON.parse(file('scenes/sea-floor.json'))
  const [floor] = scene.bodies[0].colliders
  floor.shape = { kind: 'heightfield', columns: 2, rows: 2, heights: [0, 0, 0, 0], cell: 64 }
  const crawler = scene.bodies.find((body: { name: string }) => body.name === 'crawler')
  crawler.path.points = crawler.path.points.slice(0, 4)
  return scene
}
const rocks = (path: string): Uint8Array => readFileSync(new URL(`../../scenes/${path}`, import.meta.url))

test('a number that no world takes is a problem with its place, whatever the unit', () => {
  const body = (more: object, collider: object = {}): object => ({
    name: 'craft-1',
    type: 'dynamic',
    colliders: [{ shape: { kind: 'circle', radius: 1 }, layer: 'craft', ...collider }],
    ...more,
  })
  const of2 = (more: object, ...bodies: object[]): object => ({
    format: 'keen-sentry-scene',
    version: 1,
    name: 'limits',
    dimension: '2d',
    layers: { names: ['craft'] },
    bodies,
    ...more,
  })
  const of3 = (more: object): object => {
    const sphere = { shape: { kind: 'sphere', radius: 1 }, layer: 'craft' }
    const drone = { name: 'drone-1', type: 'kinematic', colliders: [sphere], ...more }
    return { ...of2({}, drone), dimension: '3d' }
  }
  const cases: [place: string, scene: object][] = [
    ['bodies[0].velocity[0]', of2({}, body({ velocity: [-1.1e8, 0] }))],
    ['bodies[0].velocity[1]', of2({ unit: 0.01 }, body({ velocity: [0, 1.1e6] }))],
    ['bodies[0].spin', of2({}, body({ spin: -1_000_001 }))],
    ['bodies[0].mass', of2({}, body({ mass: 1e-10 }))],
    ['bodies[0].inertia', of2({}, body({ inertia: 1e-30 }))],
    ['bodies[0].gravityScale', of2({}, body({ gravityScale: 2e6 }))],
    ['bodies[0].damping', of2({}, body({ damping: 2e6 }))],
    ['bodies[0].spinDamping', of2({}, body({ spinDamping: 2e6 }))],
    ['bodies[0].colliders[0].friction', of2({}, body({}, { friction: 2e6 }))],
    ['bodies[0].colliders[0].restitution', of2({}, body({}, { restitution: 2e3 }))],
    ['bodies[0].colliders[0].surfaceSpeed', of2({}, body({}, { surfaceSpeed: 2e8 }))],
    ['bodies[0].colliders[0].surfaceSpeed', of2({ unit: 0.5 }, body({}, { surfaceSpeed: 0.9e8 }))],
    ['gravity[1]', of2({ unit: 0.001, gravity: [0, 2e6] }, body({}))],
    ['pushOut', of2({ pushOut: 2e8 }, body({}))],
    ['pushOut', of2({ unit: 0.1, pushOut: 2e7 }, body({}))],
    ['rate', of2({ rate: 1e-4 }, body({}))],
    ['unit', of2({ unit: 1e-10 }, body({}))],
    ['bodies[0].velocity[2]', of3({ velocity: [0, 0, 2e8] })],
    ['bodies[0].spin[1]', of3({ spin: [0, 2e6, 0] })],
  ]
  for (const [place, scene] of cases) {
    const problems = check(scene).filter((problem) => problem.level === 'error')
    assert.deepEqual(
      problems.map((problem) => problem.place),
      [place],
      JSON.stringify(problems),
    )
  }
  assert.deepEqual(
    check(of2({}, body({ velocity: [1e8, -1e8], spin: 1e6 }))).filter((each) => each.level === 'error'),
    [],
  )
})

test('a mangled scene is accepted or refused with a reason, never a crash', () => mangle(reef, new Map()))
test('a mangled scene of 3D is, too', async () => mangle(seaFloor, await loadModels(seaFloor(), rocks)))

function mangle(make: () => Record<string, unknown>, models: Models): void {
  const strange = fc.oneof(
    fc.constant(null),
    fc.integer(),
    fc.string(),
    fc.constant([]),
    fc.constant({}),
    fc.constant('__proto__'),
    fc.constant(-1),
    fc.constant(1e308),
    // From small to the limits of a world and beyond.
    fc
      .tuple(fc.double({ min: -12, max: 10, noNaN: true }), fc.boolean())
      .map(([log, minus]) => (minus ? -1 : 1) * 10 ** log),
    fc.boolean(),
  )
  const paths: PropertyKey[][] = []
  const walk = (value: unknown, path: PropertyKey[]): void => {
    if (path.length > 0) paths.push(path)
    if (typeof value !== 'object' || value === null) return
    for (const key of Object.keys(value)) walk((value as Record<string, unknown>)[key], [...path, key])
  }
  walk(make(), [])
  fc.assert(
    fc.property(fc.constantFrom(...paths), strange, fc.boolean(), (path, value, drop) => {
      const scene = make()
      let at: Record<PropertyKey, unknown> = scene
      for (const step of path.slice(0, -1)) at = at[step] as Record<PropertyKey, unknown>
      const last = path[path.length - 1]
      if (drop) delete at[last]
      else at[last] = value
      const problems = check(scene, models)
      for (const problem of problems) assert.ok(problem.place !== '' && problem.message !== '', JSON.stringify(problem))
      try {
        const player = playScene(readScene(scene), models)
        for (let tick = 0; tick < 3; tick++) player.step()
        assert.deepEqual(
          problems.filter((problem) => problem.level === 'error'),
          [],
        )
      } catch (error) {
        assert.ok(error instanceof KeenError, String(error))
      }
      assert.equal(({} as Record<string, unknown>)['polluted'], undefined)
    }),
    { numRuns: runs(400) },
  )
}
