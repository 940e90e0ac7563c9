import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { box, capsule, circle, distance, halfspace, manifold, type Shape2 } from '../../src/2d/index.ts'
import { placedShape, runs } from '../helpers/arbitrary.ts'
import { placed, pointGap } from '../oracle/round.ts'

const at = (x: number, y: number, angle = 0) => ({ at: { x, y }, angle })

test('a manifold lies between the two surfaces, its deepest point is as deep as the gap, and it is the same from both sides', () => {
  fc.assert(
    fc.property(placedShape(3), placedShape(3), (one, two) => {
      const poseA = { at: one.at, angle: one.angle }
      const poseB = { at: two.at, angle: two.angle }
      const gap = distance(one.shape, poseA, two.shape, poseB)
      const [found] = manifold(one.shape, poseA, two.shape, poseB, 0.5)
      assert.equal(found !== undefined, gap.distance <= 0.5)
      if (found === undefined) return
      assert.ok(found.points.length === 1 || found.points.length === 2)
      const deepest = Math.max(...found.points.map((point) => point.depth))
      const turned = found.normal.x * gap.normal.x + found.normal.y * gap.normal.y
      // An edge that faces along the normal to within 2.6 degrees gives it.
      assert.ok(turned > 0.9989, `the normals agree: ${turned}`)
      const slack = turned > 1 - 1e-12 ? 1e-5 : 0.06 * (Math.abs(gap.distance) + 3)
      assert.ok(Math.abs(deepest + gap.distance) < slack, `${deepest} against ${gap.distance}`)
      const a = placed(one.shape, one.at, one.angle)
      const b = placed(two.shape, two.at, two.angle)
      for (const point of found.points) {
        if (gap.distance <= 0) continue
        assert.ok(pointGap(a, point) < -point.depth / 2 + slack)
        assert.ok(pointGap(b, point) < -point.depth / 2 + slack)
      }
      const [back] = manifold(two.shape, poseB, one.shape, poseA, 0.5)
      if (gap.distance > 1e-9) {
        assert.ok(Math.abs(back.normal.x + found.normal.x) < 0.06 && Math.abs(back.normal.y + found.normal.y) < 0.06)
      }
    }),
    { numRuns: runs(3000) },
  )
})

test('what lies flat touches at the two ends of the common stretch', () => {
  const cases: [string, Shape2, ReturnType<typeof at>, number[][]][] = [
    [
      'a smaller box on a larger',
      box(1, 1),
      at(0.25, 1),
      [
        [-0.25, 0.5],
        [0.75, 0.5],
      ],
    ],
    [
      'a box that stands over',
      box(2, 1),
      at(1, 1),
      [
        [0, 0.5],
        [1, 0.5],
      ],
    ],
    [
      'an equal box',
      box(2, 1),
      at(0, 1),
      [
        [-1, 0.5],
        [1, 0.5],
      ],
    ],
    [
      'a capsule lying',
      capsule({ x: -0.5, y: 0 }, { x: 0.5, y: 0 }, 0.5),
      at(0, 1),
      [
        [-0.5, 0.5],
        [0.5, 0.5],
      ],
    ],
    ['a circle', circle(0.5), at(0.5, 1), [[0.5, 0.5]]],
    ['a box on its corner', box(1, 1), at(0, 0.5 + Math.SQRT1_2, Math.PI / 4), [[0, 0.5]]],
  ]
  for (const [what, shape, pose, expected] of cases) {
    const [found] = manifold(box(2, 1), at(0, 0), shape, pose, 1e-6)
    const points = found.points.map(({ x, y }) => [x, y]).sort((p, q) => p[0] - q[0])
    assert.equal(points.length, expected.length, what)
    for (const [index, [x, y]] of expected.entries()) {
      assert.ok(Math.abs(points[index][0] - x) < 1e-9 && Math.abs(points[index][1] - y) < 1e-9, what)
    }
    assert.ok(Math.abs(found.normal.y - 1) < 1e-9)
  }
})

test('over a halfspace the two lowest corners count', () => {
  const floor = halfspace({ x: 0, y: 1 }, 0)
  const [found] = manifold(box(2, 1), at(3, 0.49), floor, at(0, 0))
  assert.deepEqual(found.normal, { x: 0, y: -1 })
  assert.deepEqual(found.points.map(({ x }) => x).sort(), [2, 4])
  for (const { depth } of found.points) assert.ok(Math.abs(depth - 0.01) < 1e-12)
  assert.deepEqual(manifold(box(2, 1), at(3, 0.6), floor, at(0, 0)), [])
})
