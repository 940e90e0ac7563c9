/** Random shapes and poses for properties: round numbers on purpose, so that things touch, nest and lie parallel. */
import fc from 'fast-check'
import { box, capsule, circle, type Shape2 } from '../../src/2d/index.ts'

/** Lengths on a quarter grid half of the time, any other otherwise. */
export const coordinate = (reach: number): fc.Arbitrary<number> =>
  fc.oneof(
    fc.integer({ min: -4 * reach, max: 4 * reach }).map((n) => n / 4),
    fc.double({ min: -reach, max: reach, noNaN: true }),
  )

export const size: fc.Arbitrary<number> = fc.oneof(
  fc.integer({ min: 1, max: 12 }).map((n) => n / 4),
  fc.double({ min: 0.01, max: 3, noNaN: true }),
)

export const angle: fc.Arbitrary<number> = fc.oneof(
  fc.constant(0),
  fc.constant(Math.PI / 2),
  fc.double({ min: -7, max: 7, noNaN: true }),
)

export const point = (reach: number): fc.Arbitrary<{ x: number; y: number }> =>
  fc.record({ x: coordinate(reach), y: coordinate(reach) })

export const shape: fc.Arbitrary<Shape2> = fc.oneof(
  size.map((radius) => circle(radius)),
  fc.tuple(size, size).map(([width, height]) => box(width, height)),
  fc.tuple(point(1), point(1), size).map(([a, b, radius]) => capsule(a, b, radius)),
)

export const placedShape = (
  reach: number,
): fc.Arbitrary<{ shape: Shape2; at: { x: number; y: number }; angle: number }> =>
  fc.record({ shape, at: point(reach), angle })

/** How many random cases a property tries: many in the long run. */
export const runs = (few: number): number => (process.env['KEEN_LONG'] === '1' ? 50 * few : few)
