/** Random shapes and poses of 3D for properties: round numbers on purpose, so that things touch, nest and lie parallel. */
import fc from 'fast-check'
import {
  type AskingShape3,
  box,
  capsule,
  compound,
  cone,
  cylinder,
  halfspace,
  heightfield,
  hull,
  mesh,
  type Rotation,
  rotationAbout,
  type Shape3,
  sphere,
  type Vec3,
} from '../../src/3d/index.ts'
import { coordinate, size } from './arbitrary.ts'

export { runs } from './arbitrary.ts'

/** The few cases are the same in every run, so that a failure is the change's; the long run tries others each time. */
const SEED = 20261123

/** A failure again, by the seed and the path that it was told with. */
const { KEEN_SEED: seed, KEEN_PATH: path } = process.env
const again = seed === undefined ? {} : { seed: Number(seed), ...(path === undefined ? {} : { path }) }

/** Cases of each property in the long run. */
const LONG = 200_000

/**
 * Settings of a property: so few random cases, or very many in the long run, which ends at the first failure: to shrink it may
 * take minutes. A minute is enough for the few; a failure whose shrinking takes longer is told without its smallest case.
 */
export const cases = (few: number): fc.Parameters<unknown> =>
  process.env['KEEN_LONG'] === '1'
    ? { numRuns: LONG, endOnFailure: true, ...again }
    : { numRuns: Math.ceil(0.8 * few), seed: SEED, interruptAfterTimeLimit: 60_000, markInterruptAsFailure: true }

export const point = (reach: number): fc.Arbitrary<Vec3> =>
  fc.record({ x: coordinate(reach), y: coordinate(reach), z: coordinate(reach) })

export const direction: fc.Arbitrary<Vec3> = fc.oneof(
  fc.constantFrom({ x: 1, y: 0, z: 0 }, { x: 0, y: -1, z: 0 }, { x: 0, y: 0, z: 1 }),
  point(1).filter(({ x, y, z }) => Math.abs(x) + Math.abs(y) + Math.abs(z) > 0.01),
)

export const rotation: fc.Arbitrary<Rotation> = fc.oneof(
  fc.constant({ x: 0, y: 0, z: 0, w: 1 }),
  fc
    .constantFrom({ x: 1, y: 0, z: 0 }, { x: 0, y: 1, z: 0 }, { x: 0, y: 0, z: 1 })
    .map((axis) => rotationAbout(axis, Math.PI / 2)),
  fc.tuple(direction, fc.double({ min: -4, max: 4, noNaN: true })).map(([axis, angle]) => rotationAbout(axis, angle)),
)

const hasVolume = (points: readonly Vec3[]): boolean => {
  try {
    // Too thin for a reference to be sure of its normals.
    return hull(points).volume > 1e-3
  } catch {
    return false
  }
}

export const hullPoints: fc.Arbitrary<Vec3[]> = fc
  .array(point(1.5), { minLength: 4, maxLength: 14 })
  .filter((points) => hasVolume(points))

const convex: fc.Arbitrary<AskingShape3> = fc.oneof(
  size.map((radius) => sphere(radius)),
  fc.tuple(size, size, size).map(([x, y, z]) => box(x, y, z)),
  fc.tuple(size, size, size).map(([x, y, z]) => box(x, y, z, { radius: Math.min(x, y, z) / 4 })),
  fc.tuple(point(1), point(1), size).map(([a, b, radius]) => capsule(a, b, radius)),
  fc.tuple(size, size).map(([height, radius]) => cylinder(height, radius)),
  fc.tuple(size, size).map(([height, radius]) => cone(height, radius)),
  hullPoints.map((points) => hull(points)),
)

export interface Placed3<S> {
  readonly shape: S
  readonly at: Vec3
  readonly rotation: Rotation
}

export const placedConvex = (reach: number): fc.Arbitrary<Placed3<AskingShape3>> =>
  fc.record({ shape: convex, at: point(reach), rotation })

export const askingShape: fc.Arbitrary<AskingShape3> = fc.oneof(
  { weight: 4, arbitrary: convex },
  {
    weight: 1,
    arbitrary: fc
      .tuple(convex, point(1), rotation, size)
      .map(([first, at, turn, radius]) =>
        compound([{ shape: first as never, at, rotation: turn }, { shape: sphere(radius) }]),
      ) as fc.Arbitrary<AskingShape3>,
  },
)

/** A few triangles on a grid of vertices, so that many share edges, some lie in one plane, and some stand alone. */
const triangles: fc.Arbitrary<{ positions: number[]; indices: number[] }> = fc
  .tuple(
    fc.array(point(2), { minLength: 4, maxLength: 9 }),
    fc.array(fc.tuple(fc.nat(), fc.nat(), fc.nat()), { minLength: 2, maxLength: 14 }),
  )
  .map(([points, corners]) => ({
    positions: points.flatMap(({ x, y, z }) => [x, y, z]),
    indices: corners.flatMap((each) => each.map((i) => i % points.length)),
  }))

export const surface: fc.Arbitrary<Shape3> = fc.oneof(
  triangles
    .filter((spec) => {
      try {
        return mesh(spec).triangles > 0
      } catch {
        return false
      }
    })
    .map((spec) => mesh(spec)),
  fc
    .tuple(fc.integer({ min: 2, max: 5 }), fc.integer({ min: 2, max: 5 }), fc.array(coordinate(1), { minLength: 25 }))
    .map(([columns, rows, heights]) =>
      heightfield({ columns, rows, heights: heights.slice(0, columns * rows), cell: 0.75 }),
    ),
)

const anyShape: fc.Arbitrary<Shape3> = fc.oneof(
  { weight: 5, arbitrary: askingShape as fc.Arbitrary<Shape3> },
  { weight: 2, arbitrary: surface },
  { weight: 1, arbitrary: fc.tuple(direction, coordinate(2)).map(([normal, offset]) => halfspace(normal, offset)) },
)

export const placedAny = (reach: number): fc.Arbitrary<Placed3<Shape3>> =>
  fc.record({ shape: anyShape, at: point(reach), rotation })
