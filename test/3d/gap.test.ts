import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { type AskingShape3, box, capsule, cone, cylinder, hull, rotationAbout, sphere } from '../../src/3d/index.ts'
import { boxOverTriangle } from '../../src/3d/narrow/boxTriangle.ts'
import { gap, HERE, meet } from '../../src/3d/narrow/gap.ts'
import { NEAR_SIZE, nearest } from '../../src/3d/narrow/nearest.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from '../../src/3d/narrow/records.ts'
import { BODY, POINT_COUNT, TRIANGLE_BLOCK } from '../../src/3d/shapes/layout.ts'
import { placed as placeBlock } from '../../src/3d/shapes/place.ts'
import { POSE_SIZE, writePose } from '../../src/3d/vector.ts'
import { cases, placedConvex, point, rotation } from '../helpers/arbitrary3.ts'
import { Random } from '../helpers/random.ts'
import { add, apartAlong, bestApart, dot, norm, outside, type P, type Solid, scale, sub } from '../oracle/solid.ts'

interface Measured {
  distance: number
  normal: P
  a: P
  b: P
}

function block(solid: Solid): Float64Array {
  const pose = new Float64Array(POSE_SIZE)
  writePose(solid.at, solid.rotation, 'a solid', pose)
  return placeBlock(solid.shape.pieces[0].block, pose)
}

function measure(one: Solid, two: Solid, shift = HERE): Measured {
  const out = new Float64Array(GAP_SIZE)
  gap(block(one), 0, block(two), 0, shift, out)
  const at = (i: number): P => ({ x: out[i], y: out[i + 1], z: out[i + 2] })
  return { distance: out[DISTANCE], normal: at(NORMAL), a: at(POINT_A), b: at(POINT_B) }
}

const v = (x: number, y: number, z: number): P => ({ x, y, z })
const NO_TURN = { x: 0, y: 0, z: 0, w: 1 }
const at = (shape: AskingShape3, x: number, y: number, z: number, rotation = NO_TURN): Solid => ({
  shape,
  at: { x, y, z },
  rotation,
})

const onGrid = ({ x, y, z }: P): P => v(Math.round(x) % 3, Math.round(y) % 3, Math.round(z) % 3)
const cross = (a: P, b: P): P => v(a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x)

/** What is round is found by closing in; of a hull, faces that differ by less than a part in 1e10 are one. */
const round = (solid: Solid): boolean => solid.shape.kind === 'cylinder' || solid.shape.kind === 'cone'
const tolerance = (a: Solid, b: Solid): number => (round(a) || round(b) ? 1e-6 : 1e-8)

test('the gap of every pair of convex shapes is proved from both sides', () => {
  fc.assert(
    fc.property(placedConvex(4), placedConvex(4), (a, b) => {
      const found = measure(a, b)
      const near = tolerance(a, b)
      assert.ok(Math.abs(norm(found.normal) - 1) < 1e-12, `the normal is unit, not ${norm(found.normal)}`)
      // No nearer than the slab between them, which the normal gives; no farther than two points of theirs.
      const along = apartAlong(a, b, found.normal)
      assert.ok(Math.abs(along - found.distance) < near, `${found.distance}, but ${along} along its normal`)
      assert.ok(outside(a, found.a) < near, `its point of A lies ${outside(a, found.a)} outside`)
      assert.ok(outside(b, found.b) < near, `its point of B lies ${outside(b, found.b)} outside`)
      if (found.distance > 0) {
        const apart = norm(sub(found.b, found.a))
        assert.ok(Math.abs(apart - found.distance) < near, `${found.distance}, but its points are ${apart} apart`)
      } else {
        const best = bestApart(a, b)
        assert.ok(best <= found.distance + near, `${found.distance} deep, but ${best} is a shorter way out`)
        const beside = norm(add(sub(found.a, found.b), found.normal, found.distance))
        assert.ok(beside < near, `its points lie ${beside} beside its way out`)
      }
    }),
    cases(2400),
  )
})

test('a box and a triangle that press are as deep as the search says; whose points are not plain is left to it', () => {
  const counts = { pressed: 0, far: 0, left: 0 }
  const place = fc.oneof(point(2), fc.record({ x: fc.integer(), y: fc.integer(), z: fc.integer() }).map(onGrid))
  const far = fc.constantFrom(0, 0, 0, 1e5)
  fc.assert(
    fc.property(
      fc.tuple(place, place, place),
      point(1),
      rotation,
      far,
      fc.boolean(),
      (corners, at, turn, away, isLevel) => {
        const size = isLevel ? box(2, 2, 2) : box(1, 0.5, 2, { radius: 0.1 })
        const solid = { shape: size, at: isLevel ? onGrid(at) : at, rotation: isLevel ? NO_TURN : turn }
        const one = block({ ...solid, at: add(solid.at, v(away, -away, away)) })
        const two = new Float64Array(TRIANGLE_BLOCK)
        two[POINT_COUNT] = 3
        for (const [i, corner] of corners.entries()) {
          two.set([corner.x + away, corner.y - away, corner.z + away], BODY + 3 * i)
        }
        const limit = Float64Array.of(0.05)
        const [quick, known] = [new Float64Array(GAP_SIZE), new Float64Array(GAP_SIZE)]
        const isSure = boxOverTriangle(one, 0, two, limit, quick)
        gap(one, 0, two, 0, HERE, known)
        const near = 1e-8 * (1 + away)
        if (!isSure) {
          counts.left++
          return
        }
        const of = (i: number): P => ({ x: quick[i] - away, y: quick[i + 1] + away, z: quick[i + 2] - away })
        const normal = { x: quick[NORMAL], y: quick[NORMAL + 1], z: quick[NORMAL + 2] }
        assert.ok(Math.abs(norm(normal) - 1) < 1e-12, `the normal is unit, not ${norm(normal)}`)
        if (quick[DISTANCE] > limit[0]) {
          counts.far++
          assert.ok(known[DISTANCE] > quick[DISTANCE] - near, `${known[DISTANCE]} apart, said to be ${quick[DISTANCE]}`)
          return
        }
        counts.pressed++
        assert.ok(
          Math.abs(quick[DISTANCE] - known[DISTANCE]) < near,
          `${quick[DISTANCE]} instead of ${known[DISTANCE]}`,
        )
        assert.ok(
          outside(solid, of(POINT_A)) < near,
          `its point of the box lies ${outside(solid, of(POINT_A))} outside`,
        )
        const beside = norm(add(sub(of(POINT_A), of(POINT_B)), normal, quick[DISTANCE]))
        assert.ok(beside < near, `its points lie ${beside} beside its way out`)
        const edges = corners.map((corner, i) => sub(corners[(i + 1) % 3], corner))
        const upright = cross(edges[0], edges[1])
        assert.ok(Math.abs(dot(sub(of(POINT_B), corners[0]), upright)) < near * norm(upright) + near, 'off its plane')
        for (const [i, edge] of edges.entries()) {
          const inward = dot(cross(upright, edge), sub(of(POINT_B), corners[i]))
          assert.ok(inward > -near * (norm(upright) * norm(edge) + 1), 'its point lies beside the triangle')
        }
      },
    ),
    cases(4000),
  )
  for (const [what, count] of Object.entries(counts)) assert.ok(count > 200, `only ${count} ${what}`)
})

test('the gap is the same from either side, and meeting agrees with it', () => {
  fc.assert(
    fc.property(placedConvex(3), placedConvex(3), (a, b) => {
      const there = measure(a, b).distance
      const back = measure(b, a).distance
      assert.ok(Math.abs(there - back) < tolerance(a, b), `${there} there, ${back} back`)
      const met = meet(block(a), 0, block(b), 0, new Float64Array(GAP_SIZE))
      if (Math.abs(there) > 1e-9) assert.equal(met, there <= 0, `${there} apart, but meets: ${met}`)
    }),
    cases(1200),
  )
})

test('next to touching, the normal and the points of a gap are as right as far off', () => {
  fc.assert(
    fc.property(placedConvex(4), placedConvex(4), fc.integer({ min: -13, max: -1 }), (a, b, digits) => {
      // Led apart along its normal, to so little.
      const { distance, normal } = measure(a, b)
      const led = { ...a, at: add(a.at, normal, distance - 10 ** digits) }
      const found = measure(led, b)
      // Of the direction itself a millionth may be missing, between what is as long as this.
      const near = 10 * tolerance(a, b)
      const along = apartAlong(led, b, found.normal)
      assert.ok(Math.abs(along - found.distance) < near, `${found.distance}, but ${along} along its normal`)
      const apart = norm(add(sub(found.a, found.b), found.normal, found.distance))
      assert.ok(apart < near, `its points lie ${apart} beside its normal`)
    }),
    cases(2400),
  )
})

/** Hulls of more corners than are tried one by one: balls, discs as thin as a knife, prisms with faces of many corners. */
const manyCorners = fc
  .tuple(
    fc.integer({ min: 20, max: 70 }),
    fc.nat(),
    fc.constantFrom('ball', 'disc', 'prism'),
    fc.constantFrom(0.25, 1, 3),
  )
  .map(([sides, seed, kind, size]) => {
    const random = new Random(seed)
    const points = Array.from({ length: 2 * sides }, (_, i): P => {
      if (kind === 'prism') {
        const angle = (2 * Math.PI * (i >> 1)) / sides
        return v(size * Math.cos(angle), i & 1 ? 1 : -0.5, size * Math.sin(angle))
      }
      const p = v(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1))
      const away = norm(p)
      return v((size * p.x) / away, ((kind === 'disc' ? 0.001 : size) * p.y) / away, (size * p.z) / away)
    })
    return hull(points)
  })

test('the gap of hulls of many corners is proved from both sides, and is that of their corners', () => {
  const placed = (reach: number) => fc.record({ shape: manyCorners, at: point(reach), rotation })
  fc.assert(
    fc.property(placed(3), fc.oneof(placed(3), placedConvex(3)), (a, b) => {
      for (const [one, two] of [
        [a, b],
        [b, a],
      ]) {
        const found = measure(one, two)
        const near = tolerance(one, two)
        // The oracle tries every corner.
        const along = apartAlong(one, two, found.normal)
        assert.ok(Math.abs(along - found.distance) < near, `${found.distance}, but ${along} along its normal`)
        const beside = norm(add(sub(found.a, found.b), found.normal, found.distance))
        assert.ok(beside < near, `its points lie ${beside} beside its normal`)
        assert.ok(outside(one, found.a) < near && outside(two, found.b) < near, 'its points lie on the shapes')
      }
    }),
    cases(600),
  )
})

test('a tip all but on a plate that is a hundred times as thin as long is led out across the plate', () => {
  const plate = at(box(0.01, 0.25, 2), 0, -1.245, 0, rotationAbout(v(0, 0, 1), Math.PI / 2))
  const tip = hull([v(0, 0, 0), v(0, 1, 0), v(0.25, 0, 0), v(0, 0, 0.25)])
  for (let digits = 8; digits <= 13; digits++) {
    const quarter = rotationAbout(v(0, 1, 0), Math.PI / 2)
    const found = measure(plate, at(tip, -9.7e-17, -2.25 - 10 ** -digits, 0, quarter))
    assert.ok(Math.abs(found.distance - 10 ** -digits) < 1e-15, `${found.distance} apart`)
    assert.ok(found.normal.y < -1 + 1e-15, `${JSON.stringify(found.normal)} at ${10 ** -digits}`)
  }
})

test('cones about nearly the same axis that are apart are not told to overlap', () => {
  const lean = {
    x: -1.509085466522461e-62,
    y: -1.3194917314973932e-195,
    z: 0.00008987224411332197,
    w: 0.9999999959614898,
  }
  const none = { x: 0, y: 0, z: 6.98595330499352e-279, w: 1 }
  const tall = at(cone(3, 0.6425874431293749), -5.482692309955586e-194, 0.5, -2.5050830465709982e-269, none)
  const flat = at(cone(0.030917261317208306, 0.09831777715971982), 6.1e-302, 6.4e-323, 2.095229348390764e-156, lean)
  // A way out of the one from the other, and how long it is.
  const normal = v(-0.9778131400163577, 0.20944504128808555, -0.003773313024805065)
  const near = new Float64Array(NEAR_SIZE)
  for (const gap of [0.1, 0.01, 1e-3, 1e-4, 1e-5, 3e-7, 1e-7]) {
    const led = scale(normal, -(0.5182639603625238 + gap))
    const shift = Float64Array.of(led.x, led.y, led.z)
    assert.ok(nearest(block(tall), 0, block(flat), 0, shift, near), `they are ${gap} apart`)
    const found = measure(tall, flat, shift)
    assert.ok(Math.abs(found.distance - gap) < 1e-6 * gap + 1e-10, `${found.distance}, but they are ${gap} apart`)
    const beside = norm(add(sub(found.a, found.b), found.normal, found.distance))
    assert.ok(beside < 1e-6, `its points lie ${beside} beside its normal`)
  }
})

test('exact touch is exactly 0', () => {
  const flat = rotationAbout({ x: 0, y: 0, z: 1 }, Math.PI / 2)
  const cube = hull([-0.5, 0.5].flatMap((x) => [-0.5, 0.5].flatMap((y) => [-0.5, 0.5].map((z) => ({ x, y, z })))))
  const cases: [string, Solid, Solid][] = [
    ['two spheres', at(sphere(2), 0, 0, 0), at(sphere(3), 3, 4, 0)],
    ['sphere on box', at(sphere(0.5), 0.2, 1, 0.1), at(box(4, 1, 4), 0, 0, 0)],
    ['sphere at a corner', at(sphere(3), 3, 3, 2), at(box(2, 2, 2), 0, 0, 0)],
    ['box beside box', at(box(1, 1, 1), 0, 0, 0), at(box(1, 3, 2), 1, 0.25, 0.5)],
    ['box edge to edge', at(box(1, 1, 1), 0, 0, 0), at(box(1, 1, 1), 1, 1, 0.25)],
    ['box corner to corner', at(box(1, 1, 1), 0, 0, 0), at(box(1, 1, 1), 1, 1, 1)],
    ['hull on hull', at(cube, 0, 0, 0), at(cube, 0.25, 1, 0.25)],
    ['hull on box', at(cube, 0, 0, 0), at(box(3, 1, 3), 0.25, -1, 0.25)],
    [
      'capsule on box',
      at(capsule({ x: -1, y: 0, z: 0 }, { x: 1, y: 0, z: 0 }, 0.5), 0, 1, 0),
      at(box(4, 1, 4), 0, 0, 0),
    ],
    ['cylinder on box', at(cylinder(1, 2), 0.3, 1, 0.2), at(box(8, 1, 8), 0, 0, 0)],
    ['cone on box', at(cone(1, 2), 0.3, 1, 0.2), at(box(8, 1, 8), 0, 0, 0)],
    ['sphere beside cylinder', at(sphere(1), 3, 0, 0), at(cylinder(4, 2), 0, 0, 0)],
    [
      'crossed capsules',
      at(capsule({ x: -1, y: 0, z: 0 }, { x: 1, y: 0, z: 0 }, 0.5), 0, 1, 0),
      at(capsule({ x: 0, y: 0, z: -1 }, { x: 0, y: 0, z: 1 }, 0.5), 0, 0, 0),
    ],
  ]
  for (const [name, a, b] of cases) {
    assert.equal(measure(a, b).distance + 0, 0, name)
    assert.equal(measure(b, a).distance + 0, 0, `${name}, the other way round`)
  }
  // The last bit of a turned one may differ.
  assert.ok(Math.abs(measure(at(box(1, 1, 1), 0, 1, 0, flat), at(box(4, 1, 4), 0, 0, 0)).distance) < 1e-15)
})

test('shapes with the same centre part along their thinnest side', () => {
  const spheres = measure(at(sphere(1), 2, 2, 2), at(sphere(2), 2, 2, 2))
  assert.equal(spheres.distance, -3)
  assert.deepEqual(spheres.normal, { x: 0, y: 1, z: 0 })
  const boxes = measure(at(box(4, 1, 4), 0, 0, 0), at(box(4, 1, 4), 0, 0, 0))
  assert.equal(boxes.distance, -1)
  assert.equal(Math.abs(boxes.normal.y), 1)
  const crossed = measure(
    at(capsule({ x: -1, y: 0, z: 0 }, { x: 1, y: 0, z: 0 }, 0.25), 0, 0, 0),
    at(capsule({ x: 0, y: -1, z: 0 }, { x: 0, y: 1, z: 0 }, 0.25), 0, 0, 0),
  )
  assert.equal(crossed.distance, -0.5)
  assert.equal(Math.abs(crossed.normal.z), 1)
})

test('far from the origin and very small, the gap keeps its digits', () => {
  const far = 1e6
  const found = measure(at(sphere(0.0005), far, far, far), at(box(0.001, 0.001, 0.001), far + 0.0015, far, far))
  assert.ok(Math.abs(found.distance - 0.0005) < 1e-9, `${found.distance}`)
  const boxes = measure(at(box(1, 1, 1), far, 0, 0), at(box(1, 1, 1), far + 1.25, 0.5, 0.5))
  assert.ok(Math.abs(boxes.distance - 0.25) < 1e-9, `${boxes.distance}`)
})

test('a point on the side of a cone, to rounding, has the normal of the side', () => {
  const solid = at(cone(0.75, 1), 0, 0, 0.5)
  for (const y of [0, 1e-17, -1e-17, -1e-150, 3e-17]) {
    const found = measure(solid, at(sphere(0.25), 0, y, 0))
    assert.ok(Math.abs(found.distance + 0.25) < 1e-12, `${found.distance} at ${y}`)
    // The side falls by 0.75 over 1.
    assert.ok(
      Math.abs(found.normal.y - 0.8) < 1e-9 && Math.abs(found.normal.z + 0.6) < 1e-9,
      JSON.stringify(found.normal),
    )
  }
})

test('where two hulls touch at an edge, the nearest points are in one place', () => {
  const wedge = hull([v(-1, 0, -1), v(-1, 0, 1), v(1, 0, -1), v(1, 0, 1), v(0, -1, 0)])
  const tent = hull([v(0, 0, -3), v(0, 0, 3), v(-1, 1, 0), v(1, 1, 0)])
  for (const x of [0, 0.25, -0.5]) {
    const found = measure(at(wedge, 0, 0, 0), at(tent, x, 0, 0.5))
    assert.ok(Math.abs(found.distance) < 1e-15, `${found.distance}`)
    assert.ok(norm(sub(found.a, found.b)) < 1e-12, `${norm(sub(found.a, found.b))} apart`)
  }
})

test('a point on the axis of a capsule, to rounding, is led out across it', () => {
  const rod = at(capsule({ x: 0, y: 0.75, z: 0 }, { x: 0, y: -7.4e-10, z: 0 }, 0.01), 0, -0.25, 0)
  for (const y of [0, 1e-17, -0.1, 0.3]) {
    const found = measure(rod, at(sphere(0.01), 0, y, 0))
    assert.ok(Math.abs(found.distance + 0.02) < 1e-12, `${found.distance} at ${y}`)
    assert.ok(Math.abs(found.normal.y) < 1e-6, `led out along it: ${JSON.stringify(found.normal)}`)
  }
})

test('a point very near the axis of a leaning capsule is led out across it', () => {
  const [from, to] = [v(-0.3, -0.9, 0.2), v(0.7, 1.1, -0.15)]
  const rod = at(capsule(from, to, 0.01), 0, 0, 0)
  const axis = sub(to, from)
  for (let digits = 6; digits <= 15; digits++) {
    const off = 10 ** -digits
    const middle = add(from, axis, 0.37)
    // Across the axis, and only that.
    const across = v(2 / Math.sqrt(5), -1 / Math.sqrt(5), 0)
    const found = measure(rod, at(sphere(0.01), middle.x + off * across.x, middle.y + off * across.y, middle.z))
    assert.ok(Math.abs(found.distance + 0.02 - off) < 1e-12, `${found.distance} at ${off}`)
    const along = Math.abs(dot(found.normal, axis)) / norm(axis)
    assert.ok(along < 1e-9, `${along} of the normal lies along the axis, ${off} beside it`)
  }
})

test('turns and places as small as the least numbers are none', () => {
  for (const tiny of [1e-100, 1e-160, 1e-200, 5e-324]) {
    const rotation = { x: tiny, y: 0, z: -tiny, w: 1 }
    for (const shape of [
      cone(1, 1),
      cylinder(1, 1),
      box(1, 1, 1),
      capsule({ x: 0, y: -1, z: tiny }, { x: tiny, y: 1, z: 0 }, 0.5),
    ]) {
      for (const [x, y, z] of [
        [tiny, 2, 0],
        [0, 0.1, -tiny],
        [tiny, tiny, tiny],
        [2, tiny, 0],
      ]) {
        const found = measure(at(sphere(0.25), x, y, z), at(shape, 0, 0, tiny, rotation))
        assert.ok(Number.isFinite(found.distance), `${shape.kind}: ${found.distance} with ${tiny}`)
        assert.ok(
          Math.abs(norm(found.normal) - 1) < 1e-12,
          `${shape.kind}: the normal is ${norm(found.normal)} long with ${tiny}`,
        )
      }
    }
  }
})

test('a point on the base of a cone, to rounding, has the normal of the base', () => {
  for (const height of [2.9999999999999964, 3, 3.0000000000000004]) {
    const found = measure(at(cone(height, 0.375), 4e-17, 0.5, 0), at(sphere(3), 0, -1, 0))
    assert.ok(Math.abs(found.distance + 3) < 1e-12, `${found.distance}`)
    assert.ok(Math.abs(found.normal.y + 1) < 1e-12, `height ${height}: normal ${JSON.stringify(found.normal)}`)
  }
})
