/** Many boxes and points at once: what the questions for one give, and what is refused. */
import assert from 'node:assert/strict'
import { describe, test } from 'node:test'
import * as two from '../../src/2d/index.ts'
import * as three from '../../src/3d/index.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'

const NAMES = ['rock', 'craft', 'zone'] as const

/** A world of all kinds of shapes on whole and other coordinates, some of them sensors, some that move. */
function flat(seed: number) {
  const random = new Random(seed)
  const world = two.createWorld({ layers: two.defineLayers([...NAMES], { pairs: [['zone', '*', 'sense']] }) })
  const shapes = [
    two.box(2, 1),
    two.circle(0.8),
    two.capsule({ x: -1, y: 0 }, { x: 1, y: 0.5 }, 0.3),
    two.compound([
      { shape: two.circle(0.5), at: { x: -1, y: 0 } },
      { shape: two.box(1, 1), at: { x: 1, y: 0 } },
    ]),
  ]
  for (let i = 0; i < 60; i++) {
    const whole = i % 3 === 0
    const place = () => (whole ? Math.round(random.between(-10, 10)) : random.between(-10, 10))
    world.add({
      type: i % 2 === 0 ? 'static' : 'kinematic',
      at: { x: place(), y: place() },
      angle: whole ? 0 : random.between(-3, 3),
      colliders: [{ shape: shapes[i % shapes.length], layer: NAMES[i % 3], sensor: i % 5 === 0 }],
    })
  }
  return { world, random }
}

describe('2D', () => {
  test('boxes: the same colliders as overlap.all with a box, flat ones too, with filters', () => {
    for (let seed = 0; seed < 20; seed++) {
      const { world, random } = flat(seed)
      const count = 40
      const boxes = new Float64Array(4 * count)
      for (let i = 0; i < count; i++) {
        const x = i % 2 === 0 ? Math.round(random.between(-10, 10)) : random.between(-10, 10)
        const y = i % 2 === 0 ? Math.round(random.between(-10, 10)) : random.between(-10, 10)
        boxes.set([x, y, x + (i % 4), y + (i % 5)], 4 * i)
      }
      for (const filter of [undefined, { sensors: true }, { layers: ['rock'] as const }]) {
        const out = two.overlapResults(count, 4000)
        const hits = world.overlap.batch(boxes, out, filter)
        assert.equal(hits, out.first[count])
        for (let i = 0; i < count; i++) {
          const [x0, y0, x1, y1] = boxes.subarray(4 * i, 4 * i + 4)
          const got = [...out.collider.subarray(out.first[i], out.first[i + 1])].map(
            (id) => world.colliderAt(id)!.serial,
          )
          if (x0 === x1 || y0 === y1) {
            const shape = x0 === x1 && y0 === y1 ? null : two.segment({ x: x0, y: y0 }, { x: x1, y: y1 })
            const place = { x: x0, y: y0 }
            const wanted =
              shape === null
                ? world.nearest.all({ point: place, reach: 0 }, filter).map((hit) => hit.collider.serial)
                : world.overlap.all({ shape, at: { x: 0, y: 0 } }, filter).map((hit) => hit.collider.serial)
            assert.deepEqual(got.sort(), wanted.sort())
            continue
          }
          const shape = two.box(x1 - x0, y1 - y0)
          const wanted = world.overlap.all({ shape, at: { x: (x0 + x1) / 2, y: (y0 + y1) / 2 } }, filter)
          assert.deepEqual(got.sort(), wanted.map((hit) => hit.collider.serial).sort())
        }
      }
    }
  })

  test('points: the same as nearest.first', () => {
    for (let seed = 0; seed < 20; seed++) {
      const { world, random } = flat(seed)
      const count = 60
      const points = new Float64Array(3 * count)
      for (let i = 0; i < count; i++)
        points.set(
          [random.between(-14, 14), random.between(-14, 14), i % 4 === 0 ? Infinity : random.between(0, 2)],
          3 * i,
        )
      const out = two.nearestResults(count)
      const hits = world.nearest.batch(points, out)
      let found = 0
      for (let i = 0; i < count; i++) {
        const [x, y, reach] = points.subarray(3 * i, 3 * i + 3)
        const hit = world.nearest.first({ point: { x, y }, reach })
        if (hit === null) {
          assert.equal(out.collider[i], -1)
          assert.equal(out.distance[i], Infinity)
          continue
        }
        found++
        assert.equal(world.colliderAt(out.collider[i]), hit.collider)
        assert.equal(out.distance[i], hit.distance)
        assert.deepEqual([...out.point.subarray(2 * i, 2 * i + 2)], [hit.point.x, hit.point.y])
        assert.deepEqual([...out.normal.subarray(2 * i, 2 * i + 2)], [hit.normal.x, hit.normal.y])
      }
      assert.equal(hits, found)
    }
  })

  test('what does not fit is counted, and the arrays are never left half written', () => {
    const { world } = flat(3)
    const boxes = Float64Array.of(-20, -20, 20, 20, -20, -20, 20, 20)
    const roomy = two.overlapResults(2, 1000)
    const all = world.overlap.batch(boxes, roomy)
    const tight = two.overlapResults(2, 5)
    assert.equal(world.overlap.batch(boxes, tight), all)
    assert.deepEqual([...tight.first], [0, 5, 5])
    assert.deepEqual(tight.collider, roomy.collider.subarray(0, 5))
    assert.equal(world.overlap.batch(new Float64Array(0), two.overlapResults(0, 0)), 0)
  })

  test('what is wrong is refused before anything is written', () => {
    const { world } = flat(1)
    const out = two.overlapResults(1, 10)
    throwsKeen('bad-number', /box 0 of a batch .* got 1, 0, 0, 1/, () =>
      world.overlap.batch(Float64Array.of(1, 0, 0, 1), out),
    )
    throwsKeen('bad-number', /box 0/, () => world.overlap.batch(Float64Array.of(0, 0, Number.NaN, 1), out))
    throwsKeen('bad-argument', /Float64Array of 4 numbers each/, () => world.overlap.batch(new Float64Array(3), out))
    throwsKeen('bad-argument', /got an array|got \[/, () => world.overlap.batch([0, 0, 1, 1] as never, out))
    throwsKeen('bad-argument', /'first' .* make it with overlapResults\(2/, () =>
      world.overlap.batch(new Float64Array(8), out),
    )
    throwsKeen('bad-number', /point 0 .* reach of at least 0/, () =>
      world.nearest.batch(Float64Array.of(0, 0, -1), two.nearestResults(1)),
    )
    throwsKeen('bad-argument', /nearestResults\(2\)/, () =>
      world.nearest.batch(Float64Array.of(0, 0, 1, 0, 0, 1), two.nearestResults(1)),
    )
    throwsKeen('bad-number', /overlapResults takes/, () => two.overlapResults(-1, 5))
  })
})

test('addAll adds all in their order, or none at all and says which is wrong', () => {
  for (const lib of [two, three]) {
    const world = (lib as typeof two).createWorld({ layers: lib.defineLayers(['rock']) as never }) as two.World2
    const shape = (lib as typeof two).box(1, 1, ...((lib === three ? [1] : []) as [])) as two.Shape2
    const rock = (x: number, name?: string) => ({
      type: 'static' as const,
      at: { x, y: 0, ...(lib === three ? { z: 0 } : {}) },
      ...(name === undefined ? {} : { name }),
      colliders: [{ shape, layer: 'rock' }],
    })
    const bodies = world.addAll([rock(0, 'one'), rock(3), rock(6, 'two')])
    assert.deepEqual(
      bodies.map((body) => body.at.x),
      [0, 3, 6],
    )
    assert.equal(world.bodies().length, 3)
    assert.deepEqual(world.addAll([]), [])
    throwsKeen('duplicate-name', /body 1 of addAll: a body before it is called "three"/, () =>
      world.addAll([rock(1, 'three'), rock(2, 'three')]),
    )
    throwsKeen('duplicate-name', /"two" is already/, () => world.addAll([rock(1, 'four'), rock(2, 'two')]))
    throwsKeen('unknown-layer', /body 1 of addAll: .*rokc/, () =>
      world.addAll([rock(1), { ...rock(2), colliders: [{ shape, layer: 'rokc' }] }]),
    )
    throwsKeen('bad-argument', /body 1 of addAll: a body has no field "tpye"/, () =>
      world.addAll([rock(1), { ...rock(2), tpye: 1 } as never]),
    )
    throwsKeen('bad-argument', /the bodies of addAll/, () => world.addAll(rock(1) as never))
    assert.equal(world.bodies().length, 3)
  }
})

describe('3D', () => {
  test('boxes and points: the same as the questions for one', () => {
    for (let seed = 0; seed < 12; seed++) {
      const random = new Random(seed)
      const world = three.createWorld({ layers: three.defineLayers([...NAMES], { pairs: [['zone', '*', 'sense']] }) })
      const shapes = [three.box(2, 1, 1), three.sphere(0.8), three.cylinder(0.6, 2), three.cone(0.7, 1.5)]
      const place = (whole: boolean) => {
        const one = () => (whole ? Math.round(random.between(-5, 5)) : random.between(-5, 5))
        return { x: one(), y: one(), z: one() }
      }
      for (let i = 0; i < 60; i++)
        world.add({
          type: i % 2 === 0 ? 'static' : 'kinematic',
          at: place(i % 3 === 0),
          colliders: [{ shape: shapes[i % 4], layer: NAMES[i % 3] }],
        })
      const count = 30
      const boxes = new Float64Array(6 * count)
      const points = new Float64Array(4 * count)
      for (let i = 0; i < count; i++) {
        const { x, y, z } = place(i % 2 === 0)
        boxes.set([x, y, z, x + 1 + (i % 3), y + 1 + (i % 2), z + 2], 6 * i)
        points.set([x, y, z, i % 3 === 0 ? Infinity : 1], 4 * i)
      }
      const out = three.overlapResults(count, 4000)
      world.overlap.batch(boxes, out, { sensors: true })
      const nearest = three.nearestResults(count)
      world.nearest.batch(points, nearest)
      for (let i = 0; i < count; i++) {
        const [x0, y0, z0, x1, y1, z1] = boxes.subarray(6 * i, 6 * i + 6)
        const at = { x: (x0 + x1) / 2, y: (y0 + y1) / 2, z: (z0 + z1) / 2 }
        const wanted = world.overlap.all({ shape: three.box(x1 - x0, y1 - y0, z1 - z0), at }, { sensors: true })
        const got = [...out.collider.subarray(out.first[i], out.first[i + 1])].map((id) => world.colliderAt(id)!.serial)
        assert.deepEqual(got.sort(), wanted.map((hit) => hit.collider.serial).sort())
        const [x, y, z, reach] = points.subarray(4 * i, 4 * i + 4)
        const hit = world.nearest.first({ point: { x, y, z }, reach })
        assert.equal(nearest.distance[i], hit?.distance ?? Infinity)
        assert.equal(nearest.collider[i] < 0 ? null : world.colliderAt(nearest.collider[i]), hit?.collider ?? null)
      }
    }
  })

  test('a box without any depth finds what it touches', () => {
    const world = three.createWorld({ layers: three.defineLayers(['rock']) })
    world.add({ type: 'static', colliders: [{ shape: three.box(2, 2, 2), layer: 'rock' }] })
    const out = three.overlapResults(3, 9)
    const boxes = Float64Array.of(-3, 1, -3, 3, 1, 3, -3, 1.001, -3, 3, 1.001, 3, 0.5, 0.5, 0.5, 0.5, 0.5, 0.5)
    assert.equal(world.overlap.batch(boxes, out), 2)
    assert.deepEqual([...out.first], [0, 1, 1, 2])
  })
})
