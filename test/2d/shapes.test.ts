import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  box,
  capsule,
  circle,
  closestPoint,
  compound,
  distance,
  halfspace,
  overlaps,
  polygon,
  polyline,
  raycast,
  type Shape2,
  segment,
  shapecast,
} from '../../src/2d/index.ts'
import { atan2 } from '../../src/core/util/maths.ts'
import { outline, runs } from '../helpers/arbitrary.ts'
import { throwsKeen } from '../helpers/throws.ts'
import { piecesOf } from '../oracle/pieces.ts'
import { pointGap } from '../oracle/round.ts'

const near = (a: number, b: number, slack: number): void => assert.ok(Math.abs(a - b) <= slack, `${a} against ${b}`)
const ORIGIN = { at: { x: 0, y: 0 }, angle: 0 }

/** Area, centroid and polar moment by counting small squares whose middles lie inside. */
function counted(shape: Shape2): { area: number; x: number; y: number; inertia: number } {
  const { rounds } = piecesOf(shape, { x: 0, y: 0 }, 0)
  const { min, max } = shape.bounds
  const n = 160
  const [w, h] = [(max.x - min.x) / n, (max.y - min.y) / n]
  let [area, sx, sy, second] = [0, 0, 0, 0]
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < n; j++) {
      const p = { x: min.x + (i + 0.5) * w, y: min.y + (j + 0.5) * h }
      if (!rounds.some((round) => pointGap(round, p) <= 0)) continue
      area += w * h
      sx += p.x * w * h
      sy += p.y * w * h
      second += (p.x ** 2 + p.y ** 2) * w * h
    }
  }
  return { area, x: sx / area, y: sy / area, inertia: second - (sx * sx + sy * sy) / area }
}

test('area, centroid and inertia agree with counting small squares', () => {
  const shapes = [
    circle(1.3),
    box(2, 1),
    box(2, 1, { radius: 0.3 }),
    box(2, 2, { radius: 1 }),
    capsule({ x: -1, y: 0 }, { x: 1, y: 0.5 }, 0.4),
    polygon([
      { x: 0, y: 0 },
      { x: 3, y: 0 },
      { x: 0, y: 2 },
    ]),
    polygon(
      [
        { x: 0, y: 0 },
        { x: 3, y: 0 },
        { x: 0, y: 2 },
      ],
      { radius: 0.5 },
    ),
    polygon([
      { x: 0, y: 0 },
      { x: 3, y: 0 },
      { x: 3, y: 1 },
      { x: 1, y: 1 },
      { x: 1, y: 3 },
      { x: 0, y: 3 },
    ]),
    compound([
      { shape: box(1, 1), at: { x: -2, y: 0 } },
      { shape: circle(0.5), at: { x: 1, y: 1 } },
    ]),
  ]
  for (const shape of shapes) {
    const by = counted(shape)
    near(shape.area, by.area, 0.01 * by.area)
    near(shape.centroid.x, by.x, 0.02)
    near(shape.centroid.y, by.y, 0.02)
    near(shape.inertia, by.inertia, 0.02 * by.inertia)
  }
  assert.equal(box(2, 3).inertia, (2 * 3 * (4 + 9)) / 12)
  assert.deepEqual(
    [segment({ x: 0, y: 0 }, { x: 2, y: 0 }).area, segment({ x: 0, y: 0 }, { x: 2, y: 0 }).centroid.x],
    [0, 1],
  )
  assert.equal(halfspace({ x: 0, y: 1 }, 0).area, Infinity)
})

test('an outline cut into convex pieces has the same area and the same inside', () => {
  fc.assert(
    fc.property(
      outline,
      fc.array(fc.tuple(fc.double({ min: -2, max: 2, noNaN: true }), fc.double({ min: -2, max: 2, noNaN: true })), {
        minLength: 20,
        maxLength: 20,
      }),
      (points, probes) => {
        const shape = polygon(points)
        let twice = 0
        for (const [i, p] of points.entries()) {
          const q = points[(i + 1) % points.length]
          twice += p.x * q.y - p.y * q.x
        }
        near(shape.area, Math.abs(twice) / 2, 1e-9)
        const { rounds } = piecesOf(shape, { x: 0, y: 0 }, 0)
        for (const [x, y] of probes) {
          let inside = false
          for (const [i, p] of points.entries()) {
            const q = points[(i + points.length - 1) % points.length]
            if (p.y > y !== q.y > y && x < ((q.x - p.x) * (y - p.y)) / (q.y - p.y) + p.x) inside = !inside
          }
          const gap = Math.min(...rounds.map((round) => pointGap(round, { x, y })))
          if (Math.abs(gap) > 1e-9) assert.equal(gap < 0, inside, `at ${x}, ${y}`)
        }
      },
    ),
    { numRuns: runs(400) },
  )
})

test('a polygon is turned, and its repeated and collinear points are dropped', () => {
  const shape = polygon([
    { x: 0, y: 0 },
    { x: 0, y: 0 },
    { x: 0, y: 2 },
    { x: 1, y: 2 },
    { x: 2, y: 2 },
    { x: 2, y: 0 },
    { x: 1, y: 0 },
  ])
  assert.equal(shape.points.length, 4)
  assert.equal(shape.area, 4)
  assert.equal(shape.pieces.length, 1)
  const [a, b, c] = shape.points
  assert.ok((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x) > 0, 'counter-clockwise')
})

test('wrong shapes are refused with the reason', () => {
  const p = (x: number, y: number) => ({ x, y })
  throwsKeen(
    'bad-shape',
    /crosses itself: the edge points\[0\] to points\[1\] meets the edge points\[2\] to points\[3\]/,
    () => polygon([p(0, 0), p(2, 2), p(2, 0), p(0, 2)]),
  )
  throwsKeen('bad-shape', /at least three points that are not in line/, () => polygon([p(0, 0), p(1, 1), p(2, 2)]))
  throwsKeen('bad-number', /'y' of points\[1\] of a polygon/, () => polygon([p(0, 0), p(1, Number.NaN), p(2, 2)]))
  throwsKeen('bad-shape', /two different points, got \(1, 1\) and/, () => segment(p(1, 1), p(1, 1)))
  throwsKeen('bad-shape', /at least two different points/, () => polyline([p(1, 1), p(1, 1)]))
  throwsKeen('bad-argument', /'normal' of a halfspace must not be zero/, () => halfspace(p(0, 0), 1))
  throwsKeen('bad-shape', /at most half of its smaller side, 0\.5/, () => box(2, 1, { radius: 0.6 }))
  throwsKeen('bad-shape', /must not be a halfspace/, () => compound([{ shape: halfspace(p(0, 1), 0) }]))
  throwsKeen('bad-shape', /at least one part/, () => compound([]))
  throwsKeen('bad-argument', /no field "round"/, () => box(1, 1, { round: 1 } as never))
})

test('the plain functions on shapes and poses', () => {
  const high = { at: { x: 0, y: 3 }, angle: 0 }
  const apart = distance(box(2, 2), ORIGIN, circle(1), high)
  assert.deepEqual(
    [apart.distance, apart.normal, apart.pointA, apart.pointB],
    [1, { x: 0, y: 1 }, { x: 0, y: 1 }, { x: 0, y: 2 }],
  )
  assert.equal(overlaps(box(2, 2), ORIGIN, circle(2), high), true)
  assert.equal(overlaps(box(2, 2), ORIGIN, circle(1.999), high), false)
  assert.equal(distance(halfspace({ x: 0, y: 1 }, 0), ORIGIN, circle(1), high).distance, 2)
  assert.deepEqual(raycast(box(2, 2), ORIGIN, { from: { x: 0, y: 5 }, by: { x: 0, y: -8 } })?.fraction, 0.5)
  const cast = shapecast({ shape: circle(1), from: { x: -5, y: 0 }, to: { x: 5, y: 0 } }, box(2, 2), ORIGIN)
  assert.deepEqual([cast?.distance, cast?.point, cast?.normal], [3, { x: -1, y: 0 }, { x: -1, y: 0 }])
  const closest = closestPoint(circle(1), ORIGIN, { x: 0, y: 3 })
  assert.deepEqual(closest, { point: { x: 0, y: 1 }, distance: 2, normal: { x: 0, y: 1 } })
  assert.equal(closestPoint(box(2, 4), ORIGIN, { x: 0.5, y: 0 }).distance, -0.5)
})

test('a point that lies on an edge to rounding is at distance 0, however the search comes to it', () => {
  const points = [
    { x: 0.30308589941587205, y: 0 },
    { x: 0.2872398502162945, y: 0.3601873795674091 },
    { x: -0.3277350911647318, y: 1.4359012543093133 },
    { x: -0.2702906603707257, y: 0.13016512173526745 },
    { x: 0.18704694055762, y: -0.23454944474040895 },
  ]
  near(closestPoint(polygon(points), ORIGIN, { x: 0, y: 0.8626271888425183 }).distance, 0, 1e-15)
})

test('the arc tangent is within two units of the last place of the engine', () => {
  fc.assert(
    fc.property(
      fc.double({ min: -10, max: 10, noNaN: true }),
      fc.double({ min: -10, max: 10, noNaN: true }),
      (y, x) => {
        near(atan2(y, x), y === 0 && x === 0 ? 0 : Math.atan2(y === 0 ? 0 : y, x), 1e-15)
      },
    ),
    { numRuns: runs(3000) },
  )
})
