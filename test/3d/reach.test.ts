/** What a cast leaves out of a surface without asking exactly: never anything that it would have met. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { mesh, shapecast, type Vec3 } from '../../src/3d/index.ts'
import { gap, HERE } from '../../src/3d/narrow/gap.ts'
import { mayReach, TouchPlane } from '../../src/3d/narrow/reach.ts'
import { CAST_SIZE, DISTANCE, FRACTION, GAP_SIZE, HIT, MISS, NORMAL, POINT_B } from '../../src/3d/narrow/records.ts'
import { castConvex } from '../../src/3d/narrow/straightCast.ts'
import { placed as placeBlock } from '../../src/3d/shapes/place.ts'
import { POSE_SIZE, writePose } from '../../src/3d/vector.ts'
import { cases, placedConvex, point } from '../helpers/arbitrary3.ts'
import { add, dot, norm, type P, type Solid, sub } from '../oracle/solid.ts'

type Corners = readonly [Vec3, Vec3, Vec3]

function block(solid: Solid): Float64Array {
  const pose = new Float64Array(POSE_SIZE)
  writePose(solid.at, solid.rotation, 'a solid', pose)
  return placeBlock(solid.shape.pieces[0].block, pose)
}

/** A triangle as it stands among pieces. */
const triangleOf = (corners: Corners): Float64Array =>
  Float64Array.of(4, 3, 0, 0, ...corners.flatMap(({ x, y, z }) => [x, y, z]))

const corners = (reach: number): fc.Arbitrary<Corners> => fc.tuple(point(reach), point(reach), point(reach))
/** Whether a triangle is no sliver: of one the reference knows no plane. */
function isWide([a, b, c]: Corners): boolean {
  const [e, f, g] = [sub(b, a), sub(c, a), sub(c, b)]
  const area = norm(cross(e, f))
  return area > 1e-5 * Math.max(norm(e), norm(f), norm(g)) ** 2 && area > 1e-9
}

const offset = fc.constantFrom(0, 0, 1, 1000, 1e6)
const moved = (p: Vec3, far: number): Vec3 => ({ x: p.x + far, y: p.y - far, z: p.z + far })

function cast(piece: Float64Array, triangle: Float64Array, line: Float64Array): { met: number; record: Float64Array } {
  const record = new Float64Array(CAST_SIZE)
  record[FRACTION] = 1
  return { met: castConvex(piece, 0, triangle, 0, line, record), record }
}

test('a triangle that a moving piece cannot reach is not met', () => {
  let left = 0
  fc.assert(
    fc.property(placedConvex(3), corners(4), point(6), offset, (solid, each, by, far) => {
      const piece = block({ ...solid, at: moved(solid.at, far) })
      const triangle = triangleOf(each.map((p) => moved(p, far)) as unknown as Corners)
      const line = Float64Array.of(0, 0, 0, by.x, by.y, by.z)
      const { met, record } = cast(piece, triangle, line)
      if (mayReach(piece, 0, line, triangle, Float64Array.of(1))) return
      left++
      assert.equal(met, MISS, `met after ${record[FRACTION]}`)
    }),
    cases(3000),
  )
  assert.ok(left > 1000, `only ${left} were left out`)
})

test('what comes later than a limit is left out, and nothing that comes before', () => {
  let left = 0
  fc.assert(
    fc.property(
      placedConvex(3),
      corners(4),
      point(6),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (solid, each, by, limit) => {
        const piece = block(solid)
        const line = Float64Array.of(0, 0, 0, by.x, by.y, by.z)
        const { met, record } = cast(piece, triangleOf(each), line)
        if (met === MISS || mayReach(piece, 0, line, triangleOf(each), Float64Array.of(limit))) return
        left++
        assert.ok(record[FRACTION] >= limit, `met after ${record[FRACTION]}, but left out of the first ${limit}`)
      },
    ),
    cases(3000),
  )
  assert.ok(left > 50, `only ${left} were left out`)
})

test('behind the plane in which a piece has touched nothing is met before', () => {
  let hidden = 0
  const touched = new TouchPlane()
  fc.assert(
    fc.property(placedConvex(3), corners(4), corners(4), point(6), offset, (solid, one, two, by, far) => {
      const piece = block({ ...solid, at: moved(solid.at, far) })
      const [first, second] = [one, two].map((each) => triangleOf(each.map((p) => moved(p, far)) as unknown as Corners))
      const line = Float64Array.of(0, 0, 0, by.x, by.y, by.z)
      const { met, record } = cast(piece, first, line)
      touched.clear()
      assert.ok(!touched.hides(second))
      if (met !== HIT) return
      touched.set(piece, 0, line, record)
      assert.ok(!touched.hides(first), 'what was met is not behind it')
      if (!touched.hides(second)) return
      hidden++
      const other = cast(piece, second, line)
      assert.ok(other.met === MISS || other.record[FRACTION] > record[FRACTION], `${other.record[FRACTION]}`)
    }),
    cases(6000),
  )
  assert.ok(hidden > 30, `only ${hidden} were hidden`)
})

test('of a mesh whose triangles have nothing in common the first is met, as if each stood alone, turning or not', () => {
  const meshOf = (each: readonly Corners[]) =>
    mesh({
      positions: each.flatMap((three) => three.flatMap(({ x, y, z }) => [x, y, z])),
      indices: each.flatMap((_, i) => [3 * i, 3 * i + 1, 3 * i + 2]),
    })
  const soup = fc.array(corners(3).filter(isWide), { minLength: 2, maxLength: 12 })
  // Shared corners would make neighbours of them, whose edges are left out.
  const apart = soup.filter((each) => new Set(each.flat().map((p) => `${p.x},${p.y},${p.z}`)).size === 3 * each.length)
  const turns = fc.option(point(2), { nil: undefined })
  fc.assert(
    fc.property(placedConvex(3), apart, point(6), turns, ({ shape, at, rotation }, each, by, turn) => {
      const motion = { shape, from: at, to: add(at, by), rotation, ...(turn === undefined ? {} : { turn }) }
      const here = { at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }
      const all = shapecast(motion, meshOf(each), here)
      const alone = each.map((one) => shapecast(motion, meshOf([one]), here))
      const fractions = alone.map((hit) => hit?.fraction ?? Infinity)
      assert.equal(all?.fraction ?? Infinity, Math.min(...fractions))
      if (all === null || all.depth > 0) return
      assert.equal(fractions[all.part!], all.fraction, 'the one that is told is one of the first')
    }),
    cases(600),
  )
})

test('the distance of a ball and a triangle is proved from both sides', () => {
  const near = 2e-8
  fc.assert(
    fc.property(point(3), corners(3), fc.constantFrom(0, 1e-9, 0.5), fc.nat(3), (away, each, radius, on) => {
      if (!isWide(each)) return
      // Now and then on a corner.
      const center = on < 3 && radius === 0 ? each[on] : away
      const out = new Float64Array(GAP_SIZE)
      gap(Float64Array.of(0, 1, 0, radius, center.x, center.y, center.z), 0, triangleOf(each), 0, HERE, out)
      const at = (i: number): P => ({ x: out[i], y: out[i + 1], z: out[i + 2] })
      const [normal, foot] = [at(NORMAL), at(POINT_B)]
      assert.ok(Math.abs(norm(normal) - 1) < 1e-12, `the normal is ${norm(normal)} long`)
      // No nearer than the plane across the normal; no farther than a point of the triangle.
      const along = Math.min(...each.map((p) => dot(sub(p, center), normal))) - radius
      // Of a center that is all but on an edge the direction has few digits.
      const onIt = out[DISTANCE] + radius < 1e-6
      assert.ok(onIt || out[DISTANCE] <= along + near, `${out[DISTANCE]}, but ${along} along`)
      const off = norm(sub(foot, center)) - radius
      assert.ok(Math.abs(off - out[DISTANCE]) < near, `${out[DISTANCE]}, but its point is ${off} away`)
      // Within the triangle: no plane through the foot has all of it on one side, well away.
      const [a, b, c] = each.map((p) => sub(p, foot))
      const total = norm(cross(sub(b, a), sub(c, a)))
      const parts = norm(cross(a, b)) + norm(cross(b, c)) + norm(cross(c, a))
      assert.ok(parts - total < 1e-7, `its point lies beside the triangle: ${parts - total}`)
    }),
    cases(4000),
  )
})

function cross(a: P, b: P): P {
  return { x: a.y * b.z - a.z * b.y, y: a.z * b.x - a.x * b.z, z: a.x * b.y - a.y * b.x }
}
