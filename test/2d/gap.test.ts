import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { box, capsule, circle, type Shape2 } from '../../src/2d/index.ts'
import { gap, meet } from '../../src/2d/narrow/gap.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from '../../src/2d/narrow/records.ts'
import { CONVEX, HEAD } from '../../src/2d/shapes/layout.ts'
import { placedShape, runs } from '../helpers/arbitrary.ts'
import { gapOf, moved, placed, pointGap, type Round } from '../oracle/round.ts'

const flat = (round: Round): Float64Array =>
  Float64Array.from([CONVEX, round.points.length, round.radius, ...round.points.flatMap((p) => [p.x, p.y])])

function measure(
  a: Round,
  b: Round,
): { distance: number; normal: { x: number; y: number }; a: { x: number; y: number }; b: { x: number; y: number } } {
  const out = new Float64Array(GAP_SIZE)
  gap(flat(a), HEAD, flat(b), HEAD, out)
  return {
    distance: out[DISTANCE],
    normal: { x: out[NORMAL], y: out[NORMAL + 1] },
    a: { x: out[POINT_A], y: out[POINT_A + 1] },
    b: { x: out[POINT_B], y: out[POINT_B + 1] },
  }
}

const at = (shape: Shape2, x: number, y: number, angle = 0): Round => placed(shape, { x, y }, angle)

test('the gap of every pair of shapes agrees with trying all features', () => {
  fc.assert(
    fc.property(placedShape(4), placedShape(4), (one, two) => {
      const a = placed(one.shape, one.at, one.angle)
      const b = placed(two.shape, two.at, two.angle)
      const found = measure(a, b)
      assert.ok(Math.abs(found.distance - gapOf(a, b)) < 1e-9, `${found.distance} against ${gapOf(a, b)}`)
      assert.ok(Math.abs(Math.hypot(found.normal.x, found.normal.y) - 1) < 1e-12, 'the normal is unit')
    }),
    { numRuns: runs(4000) },
  )
})

test('moving the second along the normal by the gap makes them just touch', () => {
  fc.assert(
    fc.property(placedShape(4), placedShape(4), (one, two) => {
      const a = placed(one.shape, one.at, one.angle)
      const b = placed(two.shape, two.at, two.angle)
      const { distance, normal } = measure(a, b)
      const touching = moved(b, { x: -normal.x * distance, y: -normal.y * distance })
      assert.ok(Math.abs(gapOf(a, touching)) < 1e-9)
    }),
    { numRuns: runs(2000) },
  )
})

test('the nearest points lie on the two surfaces, one gap apart', () => {
  fc.assert(
    fc.property(placedShape(4), placedShape(4), (one, two) => {
      const a = placed(one.shape, one.at, one.angle)
      const b = placed(two.shape, two.at, two.angle)
      const found = measure(a, b)
      if (found.distance <= 0) return
      assert.ok(Math.abs(pointGap(a, found.a)) < 1e-9)
      assert.ok(Math.abs(pointGap(b, found.b)) < 1e-9)
      assert.ok(Math.abs(Math.hypot(found.a.x - found.b.x, found.a.y - found.b.y) - found.distance) < 1e-9)
    }),
    { numRuns: runs(2000) },
  )
})

test('exact touch is exactly 0', () => {
  const cases: [string, Round, Round][] = [
    ['two circles', at(circle(2), 0, 0), at(circle(3), 3, 4)],
    ['circle on box', at(circle(0.5), 0, 1), at(box(4, 1), 0, 0)],
    ['circle at a corner', at(circle(5), 5, 4.5), at(box(4, 1), 0, 0)],
    ['box beside box', at(box(1, 1), 0, 0), at(box(1, 3), 1, 0.25)],
    ['box corner to corner', at(box(1, 1), 0, 0), at(box(1, 1), 1, 1)],
    ['capsule end on box', at(capsule({ x: 0, y: 0 }, { x: 2, y: 0 }, 0.5), 0, 0), at(box(1, 1), 3, 0)],
    [
      'parallel capsules',
      at(capsule({ x: -1, y: 0 }, { x: 1, y: 0 }, 0.5), 0, 0),
      at(capsule({ x: -1, y: 0 }, { x: 1, y: 0 }, 0.5), 0.3, 1),
    ],
  ]
  for (const [name, a, b] of cases) {
    // The circle at a corner touches at (2, 0.5): 3, 4, 5.
    assert.equal(measure(a, b).distance, 0, name)
    assert.equal(measure(b, a).distance, 0, `${name}, the other way round`)
  }
})

test('shapes with the same centre part upwards, or along their thinnest side', () => {
  assert.deepEqual(measure(at(circle(1), 2, 2), at(circle(2), 2, 2)).normal, { x: 0, y: 1 })
  assert.equal(measure(at(circle(1), 2, 2), at(circle(2), 2, 2)).distance, -3)
  const boxes = measure(at(box(4, 1), 0, 0), at(box(4, 1), 0, 0))
  assert.equal(boxes.distance, -1)
  assert.equal(boxes.normal.x, 0)
  const crossed = measure(
    at(capsule({ x: -1, y: 0 }, { x: 1, y: 0 }, 0.25), 0, 0),
    at(capsule({ x: 0, y: -1 }, { x: 0, y: 1 }, 0.25), 0, 0),
  )
  assert.equal(crossed.distance, -1.5)
})

test('far from the origin and very small, the gap keeps its digits', () => {
  const far = 1e6
  const a = at(circle(0.0005), far, far)
  const b = at(box(0.001, 0.001), far + 0.0015, far)
  assert.ok(Math.abs(measure(a, b).distance - 0.0005) < 1e-9)
})

test('an edge as short as the least numbers is a point, not a meeting', () => {
  for (const tiny of [1e-153, 1e-200, 1e-310, 5e-324]) {
    const edge = Float64Array.of(CONVEX, 2, 0, 0, 0, 0, tiny)
    const point = Float64Array.of(CONVEX, 1, 0, 0.125, 0)
    const record = new Float64Array(GAP_SIZE)
    gap(edge, HEAD, point, HEAD, record)
    assert.equal(record[DISTANCE], 0.125)
    assert.equal(meet(edge, HEAD, point, HEAD), false)
    assert.equal(meet(edge, HEAD, Float64Array.of(CONVEX, 1, 0, 0, 0), HEAD), true)
  }
})
