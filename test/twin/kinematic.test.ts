/**
 * Worlds without forces (`keen-sentry/2d/kinematic`, `/3d/kinematic`): bit for bit what the whole library says of static and kinematic
 * bodies, and a clear refusal of what needs forces or explanations.
 */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import * as flat from '../../src/2d/index.ts'
import * as flatKinematic from '../../src/2d/kinematic/index.ts'
import * as solid from '../../src/3d/index.ts'
import * as solidKinematic from '../../src/3d/kinematic/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { throwsKeen } from '../helpers/throws.ts'

// biome-ignore lint/suspicious/noExplicitAny: one test over both dimensions
type Any = any

const layers = flat.defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })
const part = fc.integer({ min: -60, max: 60 }).map((n) => n / 10)

const bodies = fc.array(
  fc.record({
    type: fc.constantFrom('static', 'kinematic'),
    layer: fc.constantFrom('rock', 'craft', 'zone'),
    at: fc.tuple(
      part,
      part,
      part.map((n) => n / 5),
    ),
    velocity: fc.tuple(part, part, part),
    round: fc.boolean(),
  }),
  { minLength: 2, maxLength: 12 },
)

type Plan = typeof bodies extends fc.Arbitrary<infer P> ? P : never

/** What the watches of a world told of a plan, and what a ray met. */
function told(lib: Any, dimension: 2 | 3, plan: Plan): string {
  const world = lib.createWorld({ layers })
  const vector = ([x, y, z]: readonly number[]) => (dimension === 2 ? { x, y } : { x, y, z })
  for (const [i, { type, layer, at, velocity, round }] of plan.entries()) {
    const box = dimension === 2 ? lib.box(1.5, 1) : lib.box(1.5, 1, 1)
    const shape = round ? (dimension === 2 ? lib.circle(0.8) : lib.sphere(0.8)) : box
    const moving = type === 'kinematic' ? { velocity: vector(velocity) } : {}
    world.add({ type, name: `body ${i}`, at: vector(at), ...moving, colliders: [{ shape, layer }] })
  }
  const lines: unknown[] = []
  const keep = (event: Any) => lines.push([event.toJSON(), event.normal, event.points, event.closingSpeed])
  world.watch('*', '*', { begin: keep, end: keep })
  for (let i = 0; i < 40; i++) {
    world.step()
    lines.push(
      world.raycast.all({ from: vector([-9, 0, 0]), to: vector([9, 0.5, 0.25]) }).map((hit: Any) => hit.fraction),
    )
  }
  lines.push(world.stats)
  return JSON.stringify(lines)
}

for (const [dimension, whole, kinematic] of [
  [2, flat, flatKinematic],
  [3, solid, solidKinematic],
] as const) {
  test(`${dimension}d: a world without forces tells to the bit what the whole library tells`, () => {
    let events = 0
    fc.assert(
      fc.property(bodies, (plan) => {
        const lines = told(whole, dimension, plan)
        assert.equal(told(kinematic, dimension, plan), lines)
        events += lines.split('"kind"').length - 1
      }),
      { numRuns: runs(150) },
    )
    assert.ok(events > 50, `only ${events} events`)
  })

  test(`${dimension}d: explain is a function there, and world.explain says so`, () => {
    const lib: Any = kinematic
    const explained = [whole, kinematic].map((each: Any) => {
      const world = each.createWorld({ layers })
      const [a, b] = ['rock', 'zone'].map((layer) =>
        world.add({
          type: 'static',
          colliders: [{ shape: dimension === 2 ? each.box(1, 1) : each.box(1, 1, 1), layer }],
        }),
      )
      if (each === whole) return String(world.explain(a, b))
      throwsKeen('bad-argument', /made without explanations.*import \{ explain \}/, () => world.explain(a, b))
      return String(each.explain(world, a, b))
    })
    assert.equal(explained[0], explained[1])
    const world = lib.createWorld({ layers })
    throwsKeen('bad-argument', /explain takes a world of/, () => lib.explain(null, null, null))
    throwsKeen('bad-argument', /explain takes two bodies or colliders/, () => lib.explain(world, null, 3))
  })

  test(`${dimension}d: the whole and the smaller entry point have the same names, but for three functions`, () => {
    const names = Object.keys(kinematic).filter((name) => !['explain', 'save', 'restore'].includes(name))
    assert.deepEqual(names.sort(), Object.keys(whole).sort())
  })
}

test('2d: what needs forces is refused with the name of the import that has them', () => {
  const other = /keen-sentry\/2d' instead of 'keen-sentry\/2d\/kinematic'/
  const world = flatKinematic.createWorld({ layers })
  throwsKeen('bad-argument', other, () => world.add({ type: 'dynamic' }))
  const body = world.add({ type: 'kinematic', colliders: [{ shape: flat.box(1, 1), layer: 'craft' }] })
  throwsKeen('bad-argument', other, () => {
    body.type = 'dynamic'
  })
  for (const option of [{ gravity: { x: 0, y: -1 } }, { pushOut: 3 }, { burst: true }]) {
    throwsKeen('bad-argument', other, () => flatKinematic.createWorld({ layers, ...option }))
  }
  throwsKeen('bad-argument', other, () => {
    world.gravity = { x: 0, y: 0 }
  })
  throwsKeen('bad-argument', /only a dynamic body has it/, () => body.applyForce({ x: 1, y: 0 }))
  assert.deepEqual(world.gravity, { x: 0, y: 0 })
  assert.deepEqual([world.pushOut, world.burst], [Infinity, false])
  assert.deepEqual(
    [body.mass, body.inertia, body.asleep, body.gravityScale, body.centre],
    [0, 0, false, 0, { x: 0, y: 0 }],
  )
  assert.deepEqual(body.locks, { x: false, y: false, turn: false })
  body.colliders[0].friction = 0.25
  body.colliders[0].oneWay = { x: 0, y: 1 }
  assert.deepEqual([body.colliders[0].friction, body.colliders[0].oneWay], [0.25, { x: 0, y: 1 }])
  assert.equal(flatKinematic.blast(world, { at: { x: 2, y: 0 }, reach: 5, strength: 4 })[0].body, body)
  world.step()
  body.remove()
  assert.deepEqual([body.mass, body.sleeps, body.sweep], [0, false, 'off'])
})
