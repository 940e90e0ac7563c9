import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { box, capsule, circle, createWorld, defineLayers, type Shape2 } from '../../src/2d/index.ts'
import { aim, aimedAt, Tally } from '../helpers/aim.ts'
import { placedShape, point, runs } from '../helpers/arbitrary.ts'
import { throwsKeen } from '../helpers/throws.ts'
import { placed, pointGap } from '../oracle/round.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

function worldWith(...shapes: { shape: Shape2; at: { x: number; y: number }; angle?: number }[]) {
  const world = createWorld({ layers })
  for (const { shape, at, angle } of shapes) {
    world.add({ type: 'static', at, angle, colliders: [{ shape, layer: 'rock' }] })
  }
  return world
}

const along = (from: { x: number; y: number }, to: { x: number; y: number }, t: number): { x: number; y: number } => ({
  x: from.x + (to.x - from.x) * t,
  y: from.y + (to.y - from.y) * t,
})

test('a hit lies on the surface, nothing was entered before it, and a miss enters nothing', () => {
  const tally = new Tally()
  fc.assert(
    fc.property(placedShape(3), aim(2, 6), (one, aimed) => {
      tally.run()
      const { from, to } = aimedAt(one.at, aimed)
      const round = placed(one.shape, one.at, one.angle)
      const hit = worldWith(one).raycast.first({ from, to })
      const start = pointGap(round, from)
      if (hit?.startedInside) {
        assert.ok(start < 1e-9)
        assert.equal(hit.fraction, 0)
        tally.say('a start inside')
        return
      }
      const end = hit === null ? 1 : hit.fraction
      for (let i = 0; i <= 64; i++)
        assert.ok(pointGap(round, along(from, to, (end * i) / 64)) > -1e-9, 'passed through')
      if (hit === null) {
        tally.say('a miss')
        return
      }
      tally.say('the surface')
      assert.ok(Math.abs(pointGap(round, hit.point)) < 1e-9, 'the point is on the surface')
      // Stepping out along the normal leaves the shape, and the normal faces the asker.
      const out = { x: hit.point.x + 1e-4 * hit.normal.x, y: hit.point.y + 1e-4 * hit.normal.y }
      assert.ok(Math.abs(pointGap(round, out) - 1e-4) < 1e-7, 'the normal is the way out')
      assert.ok(hit.normal.x * (to.x - from.x) + hit.normal.y * (to.y - from.y) <= 1e-9)
      assert.ok(Math.abs(hit.distance - hit.fraction * Math.hypot(to.x - from.x, to.y - from.y)) < 1e-12)
    }),
    { numRuns: runs(3000) },
  )
  tally.expect({ 'the surface': 0.5, 'a miss': 0.05, 'a start inside': 0.05 })
})

test('among many shapes, first, all, any and each agree with asking every shape alone', () => {
  fc.assert(
    fc.property(fc.array(placedShape(6), { minLength: 0, maxLength: 24 }), point(8), point(8), (shapes, from, to) => {
      const world = worldWith(...shapes)
      const alone = shapes
        .flatMap((each, index) => {
          const hit = worldWith(each).raycast.first({ from, to })
          return hit === null ? [] : [{ index, hit }]
        })
        .sort((a, b) => a.hit.fraction - b.hit.fraction || a.index - b.index)
      const all = world.raycast.all({ from, to })
      const told = all.map((hit) => [hit.body.serial - 1, hit.fraction])
      // Between two that touch a ray is held, which passes each of them alone.
      const between = told.filter(([index]) => !alone.some((each) => each.index === index))
      assert.ok(
        between.every(([index, at]) => told.some(([other, there]) => other !== index && Math.abs(there - at) < 1e-9)),
      )
      if (between.length > 0) return
      assert.deepEqual(
        told,
        alone.map((each) => [each.index, each.hit.fraction]),
      )
      assert.deepEqual(world.raycast.first({ from, to }), all[0] ?? null)
      assert.equal(world.raycast.any({ from, to }), all.length > 0)
      const visited: number[] = []
      world.raycast.each({ from, to }, (hit) => {
        visited.push(hit.body.serial - 1)
        return true
      })
      assert.deepEqual(
        visited.sort((a, b) => a - b),
        alone.map((each) => each.index).sort((a, b) => a - b),
      )
    }),
    { numRuns: runs(600) },
  )
})

test('on the surface: moving in is a hit at 0, moving away or along is none', () => {
  for (const shape of [box(2, 2), circle(1), capsule({ x: -1, y: 0 }, { x: 1, y: 0 }, 1)]) {
    const world = worldWith({ shape, at: { x: 0, y: 0 } })
    const from = { x: 0, y: 1 }
    const into = world.raycast.first({ from, by: { x: 0, y: -4 } })
    assert.equal(into?.fraction, 0, shape.kind)
    assert.equal(into?.startedInside, false)
    assert.deepEqual(into?.normal, { x: 0, y: 1 })
    assert.equal(world.raycast.first({ from, by: { x: 0, y: 4 } }), null)
    assert.equal(world.raycast.first({ from, by: { x: 4, y: 0 } }), null)
  }
})

test('a start inside is a hit at 0 against the motion, or passed over', () => {
  const world = worldWith({ shape: box(2, 2), at: { x: 0, y: 0 } }, { shape: circle(1), at: { x: 5, y: 0 } })
  const ray = { from: { x: 0.5, y: 0 }, by: { x: 10, y: 0 } }
  const hit = world.raycast.first(ray)
  assert.equal(hit?.startedInside, true)
  assert.deepEqual(hit?.normal, { x: -1, y: 0 })
  assert.equal(world.raycast.first(ray, { inside: 'skip' })?.point.x, 4)
})

test('a ray of no length asks about its point', () => {
  const world = worldWith({ shape: box(2, 2), at: { x: 0, y: 0 } })
  const ask = (x: number) => world.raycast.first({ from: { x, y: 0 }, by: { x: 0, y: 0 } })
  assert.equal(ask(0.9)?.startedInside, true)
  assert.deepEqual(ask(0.9)?.normal, { x: 1, y: 0 })
  assert.equal(ask(1)?.startedInside, false)
  assert.equal(ask(1.001), null)
})

test('parallel to the axes, on the edge of bounds and from far away nothing is lost', () => {
  const world = worldWith({ shape: box(0.01, 2), at: { x: 0, y: 0 } }, { shape: box(1, 1), at: { x: 1e6, y: 0 } })
  assert.equal(world.raycast.first({ from: { x: -1e4, y: 0.5 }, to: { x: 1e4, y: 0.5 } })?.body.serial, 1)
  assert.equal(world.raycast.first({ from: { x: 0, y: 50 }, direction: { x: 0, y: -3 } })?.distance, 49)
  assert.equal(world.raycast.first({ from: { x: 1e6, y: 7 }, direction: { x: 0, y: -1 }, reach: 6.5 })?.fraction, 1)
  assert.equal(world.raycast.first({ from: { x: 1e6, y: 7 }, direction: { x: 0, y: -1 }, reach: 6.4999 }), null)
})

test('the filter: layers, sensors, except, where, as', () => {
  const world = createWorld({ layers, tags: ['near'] })
  const add = (x: number, layer: 'rock' | 'craft' | 'zone', sensor = false) =>
    world.add({
      type: 'static',
      name: `${layer} ${x}`,
      at: { x, y: 0 },
      colliders: [{ shape: circle(0.4), layer, sensor }],
    })
  const rock = add(1, 'rock')
  const zone = add(2, 'zone', true)
  add(3, 'craft')
  const ray = { from: { x: 0, y: 0 }, to: { x: 9, y: 0 } }
  const names = (filter?: Parameters<typeof world.raycast.all>[1]): string[] =>
    world.raycast.all(ray, filter).map((hit) => hit.body.name ?? '')
  assert.deepEqual(names(), ['rock 1', 'craft 3'])
  assert.deepEqual(names({ layers: 'craft' }), ['craft 3'])
  assert.deepEqual(names({ layers: ['craft', 'rock'] }), ['rock 1', 'craft 3'])
  assert.deepEqual(names({ layers: layers.bit('rock') }), ['rock 1'])
  assert.deepEqual(names({ layers: [] }), [])
  assert.deepEqual(names({ layers: 0 }), [])
  assert.deepEqual(names({ sensors: true }), ['rock 1', 'zone 2', 'craft 3'])
  assert.deepEqual(names({ sensors: 'only' }), ['zone 2'])
  assert.deepEqual(names({ except: rock }), ['craft 3'])
  assert.deepEqual(names({ except: [rock, zone.colliders[0]], sensors: true }), ['craft 3'])
  assert.deepEqual(names({ where: (collider) => collider.body !== rock }), ['craft 3'])
  assert.deepEqual(names({ as: 'craft' }), ['rock 1', 'craft 3'])
  assert.deepEqual(names({ as: 'craft', response: 'sense' }), ['zone 2'])
  assert.deepEqual(names({ as: 'craft', response: 'any' }), ['rock 1', 'zone 2', 'craft 3'])
  assert.deepEqual(names({ as: rock.colliders[0], response: 'any' }), ['zone 2', 'craft 3'])
  // A question inside a question does not disturb the one outside.
  assert.deepEqual(names({ where: () => world.raycast.first(ray) !== null }), ['rock 1', 'craft 3'])
})

test('queries see every change at once', () => {
  const world = worldWith({ shape: box(1, 1), at: { x: 5, y: 0 } })
  const [body] = world.bodies()
  const ray = { from: { x: 0, y: 0 }, to: { x: 20, y: 0 } }
  const seen = (): number | undefined => world.raycast.first(ray)?.distance
  assert.equal(seen(), 4.5)
  body.teleport({ x: 9, y: 0 })
  assert.equal(seen(), 8.5)
  body.colliders[0].enabled = false
  assert.equal(seen(), undefined)
  body.colliders[0].enabled = true
  assert.equal(seen(), 8.5)
  body.enabled = false
  assert.equal(seen(), undefined)
  body.enabled = true
  body.colliders[0].sensor = true
  assert.equal(seen(), undefined)
  assert.equal(world.raycast.first(ray, { sensors: true })?.distance, 8.5)
  body.remove()
  assert.equal(world.raycast.any(ray, { sensors: true }), false)
})

test('wrong arguments are named, never a silent miss', () => {
  const world = worldWith({ shape: box(1, 1), at: { x: 5, y: 0 } })
  const from = { x: 0, y: 0 }
  throwsKeen('bad-number', /'x' of 'to' of a ray/, () => world.raycast.first({ from, to: { x: Number.NaN, y: 0 } }))
  throwsKeen('bad-argument', /must not be zero/, () => world.raycast.first({ from, direction: { x: 0, y: 0 } }))
  throwsKeen('bad-argument', /'from' of a ray/, () => world.raycast.first({ from: 3 as never, to: from }))
  throwsKeen('bad-argument', /no field "too"/, () => world.raycast.first({ from, to: from, too: 1 } as never))
  throwsKeen('unknown-layer', /did you mean "rock"/, () =>
    world.raycast.first({ from, to: from }, { layers: 'rok' as never }),
  )
  throwsKeen('bad-argument', /no field "layer"/, () =>
    world.raycast.first({ from, to: from }, { layer: 'rock' } as never),
  )
  throwsKeen('bad-number', /4294967295/, () => world.raycast.first({ from, to: from }, { layers: -1 }))
  throwsKeen('bad-argument', /either 'as'/, () =>
    world.raycast.first({ from, to: from }, { as: 'rock', sensors: true }),
  )
  const [body] = world.bodies()
  body.remove()
  throwsKeen('dead-handle', /was removed/, () => world.raycast.first({ from, to: from }, { except: body }))
})
