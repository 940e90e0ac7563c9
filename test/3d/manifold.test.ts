/** Where shapes of 3D press on each other: closed forms, what every manifold must hold, and a brute force for faces on faces. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  box,
  capsule,
  closestPoint,
  compound,
  cone,
  createWorld,
  cylinder,
  defineLayers,
  distance,
  halfspace,
  heightfield,
  hull,
  type Manifold3,
  manifold,
  mesh,
  type Pose3,
  type Rotation,
  rotationAbout,
  type Shape3,
  sphere,
  type Vec3,
} from '../../src/3d/index.ts'
import {
  FIRST_POINT,
  MANIFOLD_SIZE,
  manifoldOfPieces,
  NAME,
  POINT_COUNT,
  POINT_SIZE,
  WITHIN,
} from '../../src/3d/narrow/manifold.ts'
import { placed } from '../../src/3d/shapes/place.ts'
import { POSE_SIZE, writePose } from '../../src/3d/vector.ts'
import { runs } from '../helpers/arbitrary.ts'
import { cases, placedConvex } from '../helpers/arbitrary3.ts'
import { apartAlong } from '../oracle/solid.ts'

const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 }
const at = (x: number, y: number, z: number, rotation: Rotation = UPRIGHT) => ({ at: { x, y, z }, rotation })
const about = (axis: 'x' | 'y' | 'z', angle: number): Rotation =>
  rotationAbout({ x: Number(axis === 'x'), y: Number(axis === 'y'), z: Number(axis === 'z') }, angle)

/** The points of a manifold by x, then z. */
const sorted = ({ points }: Manifold3): number[][] =>
  points.map(({ x, y, z, depth }) => [x, y, z, depth]).sort((p, q) => p[0] - q[0] || p[2] - q[2])

const near = (a: readonly number[], b: readonly number[], slack = 1e-9): boolean =>
  a.every((value, i) => Math.abs(value - b[i]) <= slack)

test('what lies flat on a box touches at the corners of the common face', () => {
  const r = Math.SQRT1_2
  const t = Math.SQRT2 - 1
  const cases: [string, Shape3, ReturnType<typeof at>, number[][]][] = [
    [
      'a smaller box',
      box(1, 1, 1),
      at(0.25, 1, 0),
      [
        [-0.25, -0.5],
        [-0.25, 0.5],
        [0.75, -0.5],
        [0.75, 0.5],
      ],
    ],
    [
      'a box that stands over',
      box(2, 1, 2),
      at(1, 1, 1),
      [
        [0, 0],
        [0, 1],
        [1, 0],
        [1, 1],
      ],
    ],
    [
      'an equal box',
      box(2, 1, 2),
      at(0, 1, 0),
      [
        [-1, -1],
        [-1, 1],
        [1, -1],
        [1, 1],
      ],
    ],
    ['a sphere', sphere(0.5), at(0.2, 1, 0.1), [[0.2, 0.1]]],
    [
      'a capsule lying',
      capsule({ x: -0.5, y: 0, z: 0 }, { x: 0.5, y: 0, z: 0 }, 0.5),
      at(0.7, 1, 0),
      [
        [0.2, 0],
        [1, 0],
      ],
    ],
    [
      'a cylinder standing',
      cylinder(1, 0.5),
      at(0, 1, 0),
      [
        [-0.5, 0],
        [0, -0.5],
        [0, 0.5],
        [0.5, 0],
      ],
    ],
    [
      'a cylinder lying',
      cylinder(1, 0.5),
      at(0, 1, 0, about('z', Math.PI / 2)),
      [
        [-0.5, 0],
        [0.5, 0],
      ],
    ],
    [
      'a cone on its base',
      cone(1, 0.5),
      at(0, 1, 0),
      [
        [-0.5, 0],
        [0, -0.5],
        [0, 0.5],
        [0.5, 0],
      ],
    ],
    ['a cone on its tip', cone(1, 0.5), at(0.25, 1, 0, about('x', Math.PI)), [[0.25, 0]]],
    [
      'a box on its edge',
      box(1, 1, 1),
      at(0, 0.5 + r, 0, about('x', Math.PI / 4)),
      [
        [-0.5, 0],
        [0.5, 0],
      ],
    ],
    ['a box on its corner', box(1, 1, 1), at(0, 0.5 + Math.sqrt(3) / 2, 0, onCorner()), [[0, 0]]],
    [
      'a rounded box',
      box(1, 1, 1, { radius: 0.25 }),
      at(0, 1, 0),
      [
        [-0.25, -0.25],
        [-0.25, 0.25],
        [0.25, -0.25],
        [0.25, 0.25],
      ],
    ],
    ['a box rounded to a ball', box(1, 1, 1, { radius: 0.5 }), at(0.3, 1, 0), [[0.3, 0]]],
  ]
  for (const [what, shape, pose, expected] of cases) {
    const [found, ...more] = manifold(box(2, 1, 2), at(0, 0, 0), shape, pose, 1e-6)
    assert.equal(more.length, 0)
    assert.equal(found.points.length, expected.length, what)
    for (const [i, [x, z]] of expected.entries()) {
      assert.ok(near(sorted(found)[i], [x, 0.5, z, 0]), `${what}: ${JSON.stringify(sorted(found))}`)
    }
    assert.ok(near([found.normal.x, found.normal.y, found.normal.z], [0, 1, 0]), what)
  }
  // Turned by an eighth, eight corners are left, and four of them are kept.
  const [octagon] = manifold(box(2, 1, 2), at(0, 0, 0), box(2, 1, 2), at(0, 1, 0, about('y', Math.PI / 4)), 1e-6)
  assert.equal(octagon.points.length, 4)
  for (const { x, z } of octagon.points) {
    assert.ok(near([Math.abs(x), Math.abs(z)].sort(), [t, 1]), `${x}, ${z} is a corner of the octagon`)
  }
})

/** A turn that has a cube stand on its corner. */
function onCorner(): Rotation {
  const axis = { x: 1, y: 0, z: -1 }
  return rotationAbout(axis, Math.acos(1 / Math.sqrt(3)))
}

test('edges that cross touch once, edges that run along each other at the ends of their common stretch', () => {
  const [crossed] = manifold(
    box(2, 1, 1),
    at(0, 0, 0, about('x', Math.PI / 4)),
    box(1, 1, 2),
    at(0, 2 * Math.SQRT1_2 - 0.01, 0, about('z', Math.PI / 4)),
  )
  assert.equal(crossed.points.length, 1)
  assert.ok(near(sorted(crossed)[0], [0, Math.SQRT1_2 - 0.005, 0, 0.01], 1e-7))
  const lying = capsule({ x: -1, y: 0, z: 0 }, { x: 1, y: 0, z: 0 }, 0.5)
  const [beside] = manifold(
    lying,
    at(0, 0, 0),
    capsule({ x: 1, y: 0, z: 0 }, { x: -1, y: 0, z: 0 }, 0.25),
    at(0.5, 0.7, 0),
  )
  assert.deepEqual(beside.points.length, 2)
  assert.ok(near(sorted(beside)[0], [-0.5, 0.475, 0, 0.05]) && near(sorted(beside)[1], [1, 0.475, 0, 0.05]))
  const [roller] = manifold(lying, at(0, 0, 0), cylinder(1, 0.5), at(0, 0.99, 0, about('z', Math.PI / 2)))
  assert.ok(near(sorted(roller)[0], [-0.5, 0.495, 0, 0.01]) && near(sorted(roller)[1], [0.5, 0.495, 0, 0.01]))
  assert.deepEqual(manifold(lying, at(0, 0, 0), lying, at(0, 1.1, 0)), [])
})

test('over a halfspace the lowest corners count, and over a mesh each triangle', () => {
  const floor = halfspace({ x: 0, y: 1, z: 0 }, 0)
  const [found] = manifold(box(2, 1, 2), at(3, 0.49, 0), floor, at(0, 0, 0))
  assert.deepEqual([found.normal.x, found.normal.y, found.normal.z], [0, -1, 0])
  assert.equal(found.points.length, 4)
  for (const { y, depth } of found.points) assert.ok(near([y, depth], [-0.005, 0.01], 1e-12))
  assert.deepEqual(manifold(box(2, 1, 2), at(3, 0.6, 0), floor, at(0, 0, 0)), [])
  const [tilted] = manifold(cylinder(1, 0.5), at(0, 0.6, 0, about('z', 0.5)), floor, at(0, 0, 0), 0.5)
  const gap = distance(cylinder(1, 0.5), at(0, 0.6, 0, about('z', 0.5)), floor, at(0, 0, 0)).distance
  assert.ok(Math.abs(Math.max(...tilted.points.map(({ depth }) => depth)) + gap) < 1e-12)
  const field = heightfield({ columns: 3, rows: 3, heights: new Array(9).fill(0), cell: 1 })
  const triangles = manifold(box(0.4, 1, 0.4), at(0.5, 0.499, 0.3), field, at(0, 0, 0))
  assert.equal(triangles.length, 2)
  for (const { normal, points } of triangles) {
    assert.ok(near([normal.x, normal.y, normal.z], [0, -1, 0]))
    for (const { x, z, depth } of points) {
      assert.ok(near([depth], [0.001]) && x > 0.3 - 1e-9 && x < 0.7 + 1e-9 && z > 0.1 - 1e-9 && z < 0.5 + 1e-9)
    }
  }
  assert.deepEqual(manifold(field, at(0, 0, 0), box(1, 1, 1), at(0, 9, 0)), [])
})

test('of any two convex shapes: as deep as the gap, along its normal, between the surfaces, the same from both sides', () => {
  let several = 0
  fc.assert(
    fc.property(placedConvex(1.5), placedConvex(1.5), (one, two) => {
      const poseA = { at: one.at, rotation: one.rotation }
      const poseB = { at: two.at, rotation: two.rotation }
      const gap = distance(one.shape, poseA, two.shape, poseB)
      const found = manifold(one.shape, poseA, two.shape, poseB, 0.25)
      assert.equal(found.length > 0, gap.distance <= 0.25)
      if (found.length === 0) return
      const [{ normal, points }] = found
      assert.ok(points.length >= 1 && points.length <= 4)
      if (points.length > 2) several++
      // Of two ways out as short, either.
      const same = near([normal.x, normal.y, normal.z], [gap.normal.x, gap.normal.y, gap.normal.z])
      assert.ok(same || Math.abs(apartAlong(one, two, normal) - gap.distance) < 1e-5)
      const deepest = Math.max(...points.map((point) => point.depth))
      // A face that faces along the normal within 2.6 degrees gives the depths.
      const slack = 0.12
      assert.ok(deepest >= -gap.distance - 1e-5, `${deepest} is less than ${-gap.distance}`)
      assert.ok(deepest <= -gap.distance + slack, `${deepest} is more than ${-gap.distance}`)
      for (const point of points) {
        for (const [shape, pose] of [
          [one.shape, poseA],
          [two.shape, poseB],
        ] as const) {
          const off = closestPoint(shape, pose, point).distance
          assert.ok(off <= Math.abs(point.depth) / 2 + slack, `a point ${off} off a shape, ${point.depth} deep`)
        }
      }
      const [back] = manifold(two.shape, poseB, one.shape, poseA, 0.25)
      assert.ok(Math.abs(Math.max(...back.points.map((point) => point.depth)) - deepest) <= slack)
    }),
    cases(2400),
  )
  assert.ok(several > 15, `only ${several} manifolds of more than two points`)
})

interface Flat {
  readonly width: number
  readonly depth: number
  readonly x: number
  readonly z: number
  readonly angle: number
}

/** The corners of a rectangle in the plane of x and z. */
function rectangle({ width, depth, x, z, angle }: Flat): [number, number][] {
  const c = Math.cos(angle)
  const s = Math.sin(angle)
  return [
    [1, 1],
    [-1, 1],
    [-1, -1],
    [1, -1],
  ].map(([u, v]) => [x + (c * u * width + s * v * depth) / 2, z + (c * v * depth - s * u * width) / 2])
}

/** Whether a point lies in a convex polygon that runs clockwise here, or counter-clockwise, to a slack. */
function inside([x, z]: readonly number[], polygon: readonly (readonly number[])[], slack: number): boolean {
  const sides = polygon.map(([px, pz], i) => {
    const [qx, qz] = polygon[(i + 1) % polygon.length]
    return ((qx - px) * (z - pz) - (qz - pz) * (x - px)) / Math.hypot(qx - px, qz - pz)
  })
  return sides.every((side) => side >= -slack) || sides.every((side) => side <= slack)
}

/** Every corner of the intersection of two rectangles, by trying all: corners of one in the other, and crossings of their edges. */
function common(one: [number, number][], two: [number, number][]): [number, number][] {
  const all = [...one.filter((p) => inside(p, two, 1e-9)), ...two.filter((p) => inside(p, one, 1e-9))]
  for (let i = 0; i < 4; i++) {
    for (let j = 0; j < 4; j++) {
      const [[ax, az], [bx, bz]] = [one[i], one[(i + 1) % 4]]
      const [[cx, cz], [dx, dz]] = [two[j], two[(j + 1) % 4]]
      const det = (bx - ax) * (dz - cz) - (bz - az) * (dx - cx)
      if (Math.abs(det) < 1e-12) continue
      const t = ((cx - ax) * (dz - cz) - (cz - az) * (dx - cx)) / det
      const p: [number, number] = [ax + t * (bx - ax), az + t * (bz - az)]
      if (inside(p, one, 1e-9) && inside(p, two, 1e-9)) all.push(p)
    }
  }
  return all.filter((p, i) => all.findIndex((q) => Math.hypot(p[0] - q[0], p[1] - q[1]) < 1e-7) === i)
}

/** The area of the convex hull of points, by sorting them around their middle. */
function areaOf(points: readonly (readonly number[])[]): number {
  const mx = points.reduce((sum, [x]) => sum + x, 0) / points.length
  const mz = points.reduce((sum, [, z]) => sum + z, 0) / points.length
  const around = [...points].sort((p, q) => Math.atan2(p[1] - mz, p[0] - mx) - Math.atan2(q[1] - mz, q[0] - mx))
  return (
    Math.abs(
      around.reduce((sum, [x, z], i) => {
        const [nx, nz] = around[(i + 1) % around.length]
        return sum + x * nz - z * nx
      }, 0),
    ) / 2
  )
}

const flat = fc.record({
  width: fc.integer({ min: 1, max: 8 }).map((n) => n / 2),
  depth: fc.integer({ min: 1, max: 8 }).map((n) => n / 2),
  x: fc.integer({ min: -8, max: 8 }).map((n) => n / 4),
  z: fc.integer({ min: -8, max: 8 }).map((n) => n / 4),
  angle: fc.oneof(fc.constantFrom(0, Math.PI / 4, Math.PI / 2), fc.double({ min: -3, max: 3, noNaN: true })),
})

test('face on face: corners of the common polygon, found by trying all, and most of its area', () => {
  let reduced = 0
  fc.assert(
    fc.property(flat, flat, fc.boolean(), (one, two, asHull) => {
      const expected = common(rectangle(one), rectangle(two))
      if (expected.length < 3 || areaOf(expected) < 0.01) return
      if (expected.length > 4) reduced++
      const shapeOf = ({ width, depth }: Flat): Shape3 =>
        asHull
          ? hull(
              [0, 1, 2, 3, 4, 5, 6, 7].map((i) => ({
                x: ((i & 1) - 0.5) * width,
                y: ((i >> 1) & 1) - 0.5,
                z: ((i >> 2) - 0.5) * depth,
              })),
            )
          : box(width, 1, depth)
      const poseOf = (each: Flat, y: number) => at(each.x, y, each.z, about('y', each.angle))
      const [found] = manifold(shapeOf(one), poseOf(one, 0), shapeOf(two), poseOf(two, 0.99))
      assert.ok(near([found.normal.x, found.normal.y, found.normal.z], [0, 1, 0], 1e-7))
      assert.equal(found.points.length, Math.min(4, expected.length))
      for (const { x, y, z, depth } of found.points) {
        assert.ok(near([y, depth], [0.495, 0.01], 1e-7))
        assert.ok(
          expected.some((corner) => near(corner, [x, z], 1e-6)),
          `${x}, ${z} is no corner of the common polygon`,
        )
      }
      const part = areaOf(found.points.map(({ x, z }) => [x, z])) / areaOf(expected)
      assert.ok(part > 0.55, `only ${part} of the area is spanned`)
    }),
    cases(1800),
  )
  assert.ok(reduced > 60, `only ${reduced} polygons of more than four corners`)
})

test('points keep their names while a box slides and turns a little, and have different ones', () => {
  const namesOf = (shape: Shape3, x: number, angle: number): number[] => {
    const blockOf = (each: Shape3, pose: ReturnType<typeof at>): Float64Array => {
      const numbers = new Float64Array(POSE_SIZE)
      writePose(pose.at, pose.rotation, 'the pose', numbers)
      return placed(each.pieces[0].block, numbers)
    }
    const record = new Float64Array(MANIFOLD_SIZE)
    record[WITHIN] = 0.01
    manifoldOfPieces(
      blockOf(box(4, 1, 4), at(0, 0, 0)),
      0,
      blockOf(shape, at(x, 0.999, 0, about('y', angle))),
      0,
      record,
    )
    return Array.from({ length: record[POINT_COUNT] }, (_, i) => record[FIRST_POINT + POINT_SIZE * i + NAME]).sort(
      (a, b) => a - b,
    )
  }
  const wedge = hull([
    { x: -1, y: -0.5, z: -1 },
    { x: 1, y: -0.5, z: -1 },
    { x: 0, y: -0.5, z: 1 },
    { x: 0, y: 1, z: 0 },
  ])
  for (const shape of [
    box(1, 1, 1),
    box(2, 1, 3, { radius: 0.1 }),
    wedge,
    capsule({ x: -0.5, y: 0, z: 0 }, { x: 0.5, y: 0, z: 0 }, 0.5),
  ]) {
    for (let i = 0; i < 50; i++) {
      const x = -1 + i / 25
      const names = namesOf(shape, x, 0.1 * i)
      assert.equal(new Set(names).size, names.length)
      assert.deepEqual(namesOf(shape, x + 1e-6, 0.1 * i + 1e-6), names)
    }
  }
})

test('far from the origin, tiny and huge: still four points of a box on a box', () => {
  for (const size of [1e-6, 1e-3, 1, 1e3, 1e6]) {
    for (const far of [0, 1e3 * size, Math.min(1e6 * size, 1e11)]) {
      const [found] = manifold(
        box(2 * size, size, 2 * size),
        at(far, far, 0),
        box(size, size, size),
        at(far, far + 0.99 * size, 0),
      )
      assert.equal(found.points.length, 4, `${size} at ${far}`)
      for (const { depth } of found.points) assert.ok(Math.abs(depth - 0.01 * size) < 1e-8 * size + 1e-15 * far * 8)
    }
  }
  assert.throws(() => manifold(sphere(1), at(0, 0, 0), sphere(1), at(0, 0, 0), Number.NaN), /'within' of a manifold/)
})

test('events of solid pairs say all points, of bodies of several colliders too', () => {
  const world = createWorld({ layers: defineLayers(['rock', 'craft']) })
  world.add({ type: 'static', name: 'floor', colliders: [{ shape: box(9, 1, 9), layer: 'rock' }] })
  const table = world.add({
    type: 'kinematic',
    at: { x: 0, y: 1, z: 0 },
    colliders: [-2, 2].map((x) => ({ shape: box(1, 1, 1), at: { x, y: 0, z: 0 }, layer: 'craft' as const })),
  })
  const seen: number[] = []
  world.watch('craft', 'rock', { begin: (event) => seen.push(event.points.length) })
  world.step()
  assert.deepEqual(seen, [8])
  table.remove()
  world.add({ type: 'kinematic', at: { x: 0, y: 1, z: 0 }, colliders: [{ shape: sphere(0.5), layer: 'craft' }] })
  world.step()
  assert.deepEqual(seen, [8, 1])
})

test('points of large compounds are those of the pieces that are near, and of a halfspace too', () => {
  const world = createWorld({ layers: defineLayers(['rock', 'craft']) })
  const row = compound(Array.from({ length: 300 }, (_, i) => ({ shape: box(1, 1, 1), at: { x: 1.5 * i, y: 0, z: 0 } })))
  world.add({ type: 'static', colliders: [{ shape: row, layer: 'rock' }] })
  world.add({ type: 'static', colliders: [{ shape: halfspace({ x: 0, y: 1, z: 0 }, -9), layer: 'rock' }] })
  world.add({ type: 'kinematic', at: { x: 0.25, y: 1, z: 0 }, colliders: [{ shape: row, layer: 'craft' }] })
  world.add({ type: 'kinematic', at: { x: 0, y: -8.5, z: 0 }, colliders: [{ shape: box(1, 1, 1), layer: 'craft' }] })
  const seen: number[] = []
  world.watch('craft', 'rock', { begin: ({ points }) => seen.push(points.length) })
  world.step()
  assert.deepEqual(seen, [1200, 4])
})

/** A flat grid of triangles, `cells` by `cells` of half a metre, about the origin; without the squares that are left out. */
function grid(cells: number, leave: (x: number, z: number) => boolean = () => false) {
  const positions: number[] = []
  const indices: number[] = []
  const at = (x: number, z: number): number => z * (cells + 1) + x
  for (let z = 0; z <= cells; z++)
    for (let x = 0; x <= cells; x++) positions.push(x / 2 - cells / 4, 0, z / 2 - cells / 4)
  for (let z = 0; z < cells; z++) {
    for (let x = 0; x < cells; x++) {
      if (leave(x, z)) continue
      indices.push(at(x, z), at(x, z + 1), at(x + 1, z), at(x + 1, z), at(x, z + 1), at(x + 1, z + 1))
    }
  }
  return mesh({ positions, indices })
}

/** Where a body presses on a ground, in its first tick without gravity. */
function pressed(shape: Shape3, pose: Pose3, ground: Shape3, under: Pose3 = at(0, 0, 0)): Vec3[] {
  const world = createWorld({
    layers: defineLayers(['rock', 'crate'], { otherwise: 'solid' }),
    gravity: { x: 0, y: 0, z: 0 },
  })
  world.add({ type: 'static', ...under, colliders: [{ shape: ground, layer: 'rock' }] })
  world.add({ type: 'dynamic', ...pose, colliders: [{ shape, layer: 'crate' }] })
  const points: Vec3[] = []
  world.watch('crate', 'rock', { begin: (e) => points.push(...(e.points ?? []).map(({ x, y, z }) => ({ x, y, z }))) })
  world.step()
  return points
}

test('on triangles of one plane a piece presses as on a halfspace, wherever it lies and however both are turned', () => {
  const flat = grid(24)
  const floor = halfspace({ x: 0, y: 1, z: 0 }, 0)
  const sorted = (points: readonly Vec3[]): number[][] =>
    points
      .map(({ x, y, z }) => [x, y, z].map((each) => Math.round(each * 1e9) / 1e9 + 0))
      .sort((p, q) => p[0] - q[0] || p[1] - q[1] || p[2] - q[2])
  const unit = fc.double({ min: -1, max: 1, noNaN: true })
  let seen = 0
  fc.assert(
    fc.property(unit, unit, unit, unit, fc.integer({ min: 0, max: 3 }), (x, z, turn, sink, kind) => {
      const shape = [
        box(1, 1, 1),
        sphere(0.5),
        box(0.3, 1, 1.4),
        capsule({ x: -0.3, y: 0, z: 0 }, { x: 0.3, y: 0, z: 0 }, 0.5),
      ][kind]
      const own = {
        at: { x: 4 * x, y: 0.5 + 0.004 * sink, z: 4 * z },
        rotation: rotationAbout({ x: 0, y: 1, z: 0 }, 3 * turn),
      }
      const points = sorted(pressed(shape, own, floor))
      assert.deepEqual(sorted(pressed(shape, own, flat)), points)
      if (points.length > 0) seen++
    }),
    { numRuns: runs(300) },
  )
  assert.ok(seen > 25, `only ${seen} touched`)
})

test('over the rim of a flat, or over a hole in it, nothing presses', () => {
  const holed = grid(8, (x, z) => x === 4 && z === 4)
  const pointsAt = (width: number, x: number, z: number) =>
    pressed(box(width, 1, width), { at: { x, y: 0.499, z }, rotation: UPRIGHT }, holed)
  const rim = pointsAt(1, 2.2, -1)
  assert.ok(rim.length >= 2)
  for (const { x } of rim) assert.ok(x <= 2 + 1e-9, `a point beyond the rim: ${x}`)
  assert.ok(Math.max(...rim.map(({ x }) => x)) > 1.9, 'and the rim itself bears it')
  // The hole reaches from 0 to half a metre along x and z; what is smaller presses on nothing there.
  assert.equal(pointsAt(0.3, 0.25, 0.25).length, 0)
  assert.ok(pointsAt(0.3, 0.75, 0.25).length > 0)
})

test('wherever squares of a tilted flat are missing, every point that presses lies over one that is there', () => {
  const unit = fc.double({ min: -1, max: 1, noNaN: true })
  const cell = fc.integer({ min: 0, max: 7 })
  let seen = 0
  let whole = 0
  fc.assert(
    fc.property(
      fc.array(fc.tuple(cell, cell), { maxLength: 12 }),
      fc.tuple(unit, unit, unit),
      fc.record({ x: unit, z: unit, turn: unit, sink: unit, kind: fc.integer({ min: 0, max: 3 }) }),
      (gone, [axisX, axisZ, angle], { x, z, turn, sink, kind }) => {
        const holed = grid(8, (i, k) => gone.some(([u, v]) => u === i && v === k))
        const shape = [box(1, 1, 1), cylinder(1, 0.5), box(0.3, 1, 1.4), sphere(0.5)][kind]
        const tilt = rotationAbout({ x: axisX, y: 0.1, z: axisZ }, angle)
        const up = turned(tilt, { x: 2.2 * x, y: 0.5 + 0.002 * sink, z: 2.2 * z })
        const spun = times(tilt, rotationAbout({ x: 0, y: 1, z: 0 }, 3 * turn))
        const under = { at: { x: 0, y: 0, z: 0 }, rotation: tilt }
        const points = pressed(shape, { at: up, rotation: spun }, holed, under)
        for (const point of points) {
          // Halfway between the two, which are two millimetres in each other, at most.
          const { distance: beside } = closestPoint(holed, under, point)
          assert.ok(Math.abs(beside) < 0.003, `a point ${beside} beside what is there`)
        }
        if (points.length > 0) seen++
        if (points.length > 0 && gone.length === 0) whole++
      },
    ),
    { numRuns: runs(400) },
  )
  assert.ok(seen > 100 && whole > 3, `only ${seen} pressed, ${whole} of them on a flat without a hole`)
})

/** A vector, turned. */
function turned({ x, y, z, w }: Rotation, v: Vec3): Vec3 {
  const tx = 2 * (y * v.z - z * v.y)
  const ty = 2 * (z * v.x - x * v.z)
  const tz = 2 * (x * v.y - y * v.x)
  return {
    x: v.x + w * tx + y * tz - z * ty,
    y: v.y + w * ty + z * tx - x * tz,
    z: v.z + w * tz + x * ty - y * tx,
  }
}

/** First the second rotation, then the first. */
function times(a: Rotation, b: Rotation): Rotation {
  return {
    x: a.w * b.x + a.x * b.w + a.y * b.z - a.z * b.y,
    y: a.w * b.y - a.x * b.z + a.y * b.w + a.z * b.x,
    z: a.w * b.z + a.x * b.y - a.y * b.x + a.z * b.w,
    w: a.w * b.w - a.x * b.x - a.y * b.y - a.z * b.z,
  }
}
