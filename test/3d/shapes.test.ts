import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  box,
  capsule,
  compound,
  cone,
  cylinder,
  halfspace,
  hull,
  rotated,
  rotationAbout,
  rotationTowards,
  type Shape3,
  sphere,
} from '../../src/3d/index.ts'
import { cases, direction, hullPoints, point } from '../helpers/arbitrary3.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'
import { add, cross, dot, norm, outside, type P, sub, turn } from '../oracle/solid.ts'

const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 }
const HERE = { x: 0, y: 0, z: 0 }

/** Volume, centroid and inertia by counting a grid of points: a plain reference. */
function counted(shape: Shape3, inside: (p: P) => boolean): { volume: number; centroid: P; inertia: number[] } {
  const { min, max } = shape.bounds
  const n = 48
  const step = { x: (max.x - min.x) / n, y: (max.y - min.y) / n, z: (max.z - min.z) / n }
  const cell = step.x * step.y * step.z
  let volume = 0
  let sum = HERE as P
  const kept: P[] = []
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < n; j++) {
      for (let k = 0; k < n; k++) {
        const p = { x: min.x + (i + 0.5) * step.x, y: min.y + (j + 0.5) * step.y, z: min.z + (k + 0.5) * step.z }
        if (!inside(p)) continue
        kept.push(p)
        volume += cell
        sum = add(sum, p, cell)
      }
    }
  }
  const centroid = { x: sum.x / volume, y: sum.y / volume, z: sum.z / volume }
  const inertia = [0, 0, 0, 0, 0, 0]
  for (const p of kept) {
    const { x, y, z } = sub(p, centroid)
    const own = [y * y + z * z, x * x + z * z, x * x + y * y, -x * y, -x * z, -y * z]
    own.forEach((value, i) => {
      inertia[i] += cell * value
    })
  }
  return { volume, centroid, inertia }
}

test('volume, centroid and inertia agree with counting points', () => {
  const shapes: Shape3[] = [
    sphere(0.7),
    box(1, 2, 0.5),
    box(1, 2, 0.8, { radius: 0.3 }),
    capsule({ x: 0.2, y: -0.5, z: 0 }, { x: -0.3, y: 0.9, z: 0.6 }, 0.4),
    cylinder(1.5, 0.6),
    cone(1.5, 0.8),
    hull([
      { x: 0, y: 0, z: 0 },
      { x: 1, y: 0.2, z: 0 },
      { x: 0, y: 1, z: 0.3 },
      { x: 0.3, y: 0.1, z: 1.4 },
      { x: 1, y: 1, z: 1 },
    ]),
  ]
  for (const shape of shapes) {
    const found = counted(shape, (p) => outside({ shape, at: HERE, rotation: UPRIGHT }, p) <= 0)
    const { xx, yy, zz, xy, xz, yz } = shape.inertia
    assert.ok(
      Math.abs(shape.volume / found.volume - 1) < 0.02,
      `${shape.kind}: ${shape.volume}, counted ${found.volume}`,
    )
    assert.ok(norm(sub(shape.centroid, found.centroid)) < 0.01, `${shape.kind}: its centroid`)
    const most = Math.max(xx, yy, zz)
    ;[xx, yy, zz, xy, xz, yz].forEach((value, i) => {
      assert.ok(
        Math.abs(value - found.inertia[i]) < 0.03 * most,
        `${shape.kind} ${i}: ${value}, counted ${found.inertia[i]}`,
      )
    })
  }
})

test('a compound sums its parts, moved and turned', () => {
  const rotation = rotationAbout({ x: 0, y: 0, z: 1 }, Math.PI / 2)
  const both = compound([
    { shape: box(2, 1, 1), at: { x: 0, y: 1, z: 0 }, rotation },
    { shape: box(1, 2, 1), at: { x: 0, y: -1, z: 0 } },
  ])
  // Turned, the first is as high as the second: together one box.
  const one = box(1, 4, 1)
  assert.ok(Math.abs(both.volume - one.volume) < 1e-12)
  assert.ok(norm(both.centroid) < 1e-12)
  for (const key of ['xx', 'yy', 'zz', 'xy', 'xz', 'yz'] as const) {
    assert.ok(Math.abs(both.inertia[key] - one.inertia[key]) < 1e-12, key)
  }
  throwsKeen('bad-shape', /must not be a halfspace/, () =>
    compound([{ shape: halfspace({ x: 0, y: 1, z: 0 }, 0) as never }]),
  )
  throwsKeen('bad-shape', /at least one part/, () => compound([]))
})

test('a hull holds all of its points, and its faces are flat, outward and closed', () => {
  fc.assert(
    fc.property(hullPoints, (points) => {
      const shape = hull(points)
      const solid = { shape, at: HERE, rotation: UPRIGHT }
      for (const p of points)
        assert.ok(outside(solid, p) < 1e-7, `${JSON.stringify(p)} lies ${outside(solid, p)} outside`)
      for (const corner of shape.points) {
        assert.ok(
          points.some((p) => norm(sub(p, corner)) === 0),
          'a corner is a point that was given',
        )
      }
      const edges = new Map<string, number>()
      for (const face of shape.faces) {
        assert.ok(face.length >= 3 && new Set(face).size === face.length, 'a face has different corners')
        face.forEach((from, i) => {
          const to = face[(i + 1) % face.length]
          edges.set(`${from},${to}`, (edges.get(`${from},${to}`) ?? 0) + 1)
        })
      }
      for (const [key, count] of edges) {
        const [from, to] = key.split(',')
        assert.equal(count, 1, `the edge ${key} comes once`)
        assert.equal(edges.get(`${to},${from}`), 1, `the edge ${key} comes back once`)
      }
      // Corners, edges and faces of a ball (Euler).
      assert.equal(shape.points.length - edges.size / 2 + shape.faces.length, 2)
    }),
    cases(1500),
  )
})

test('what has no volume is no hull, and the error says why', () => {
  const square = [0, 1].flatMap((x) => [0, 1].map((z) => ({ x, y: 0, z })))
  throwsKeen('bad-shape', /too few/, () => hull(square.slice(0, 3)))
  throwsKeen('bad-shape', /of which 4 are different.*one plane/, () => hull([...square, ...square]))
  throwsKeen('bad-shape', /one line/, () => hull([0, 1, 2, 3].map((x) => ({ x, y: x, z: 2 * x }))))
  throwsKeen('bad-shape', /flat, .* thick/, () => hull([...square, { x: 0.5, y: 1e-12, z: 0.5 }]))
  throwsKeen('bad-number', /points\[1\]/, () => hull([...square.slice(0, 1), { x: Number.NaN, y: 0, z: 0 }]))
  // Thin but not flat, and with points on edges and faces: only the corners stay.
  const thin = hull([
    ...square,
    ...square.map((p) => ({ ...p, y: 1e-6 })),
    { x: 0.5, y: 0, z: 0 },
    { x: 0.5, y: 0, z: 0.5 },
  ])
  assert.equal(thin.points.length, 8)
  assert.equal(thin.faces.length, 6)
})

test('a ball of many points becomes a hull of as many corners', () => {
  const random = new Random(2)
  const points = Array.from({ length: 300 }, () => {
    const v = { x: random.between(-1, 1), y: random.between(-1, 1), z: random.between(-1, 1) }
    const length = norm(v)
    return { x: v.x / length, y: v.y / length, z: v.z / length }
  })
  const shape = hull([...points, ...points.map((p) => ({ x: p.x / 2, y: p.y / 2, z: p.z / 2 }))])
  assert.equal(shape.points.length, 300)
  assert.equal(shape.faces.length, 2 * 300 - 4)
})

test('rotations: about an axis, towards a direction, of vectors', () => {
  fc.assert(
    fc.property(direction, point(2), fc.double({ min: -7, max: 7, noNaN: true }), (axis, v, angle) => {
      const rotation = rotationAbout(axis, angle)
      const found = rotated(rotation, v)
      assert.ok(norm(sub(found, turn(rotation, v))) < 1e-12, 'as by the product of quaternions')
      // The part along the axis stays, the rest turns by the angle (Rodrigues).
      const n = { x: axis.x / norm(axis), y: axis.y / norm(axis), z: axis.z / norm(axis) }
      const expected = add(
        add(add({ x: 0, y: 0, z: 0 }, v, Math.cos(angle)), cross(n, v), Math.sin(angle)),
        n,
        dot(n, v) * (1 - Math.cos(angle)),
      )
      assert.ok(norm(sub(found, expected)) < 1e-9, 'as by the formula for an axis and an angle')
    }),
    cases(500),
  )
  fc.assert(
    fc.property(direction, (forward) => {
      const rotation = rotationTowards(forward)
      const ahead = rotated(rotation, { x: 0, y: 0, z: -1 })
      const length = norm(forward)
      assert.ok(norm(sub(ahead, { x: forward.x / length, y: forward.y / length, z: forward.z / length })) < 1e-12)
      assert.ok(rotated(rotation, { x: 0, y: 1, z: 0 }).y >= -1e-9, 'its up is upwards')
    }),
    cases(300),
  )
})

test('sizes that are none are refused, naming the argument', () => {
  throwsKeen('bad-number', /'radius' of a sphere/, () => sphere(0))
  throwsKeen('bad-number', /'z' of a box/, () => box(1, 1, -1))
  throwsKeen('bad-shape', /half of its smallest side, 0.5/, () => box(1, 2, 3, { radius: 0.6 }))
  throwsKeen('bad-number', /'height' of a cone/, () => cone(Number.POSITIVE_INFINITY, 1))
  throwsKeen('bad-argument', /'normal' of a halfspace must not be zero/, () => halfspace(HERE, 1))
  throwsKeen('bad-argument', /\{ x, y, z \}/, () => capsule({ x: 0, y: 0 } as never, HERE, 1))
})
