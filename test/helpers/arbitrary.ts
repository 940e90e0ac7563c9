/** Random shapes and poses for properties: round numbers on purpose, so that things touch, nest and lie parallel. */
import fc from 'fast-check'
import {
  type AskingShape2,
  box,
  capsule,
  circle,
  compound,
  halfspace,
  polygon,
  polyline,
  type Shape2,
  segment,
} from '../../src/2d/index.ts'

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

const shape: fc.Arbitrary<Shape2> = fc.oneof(
  size.map((radius) => circle(radius)),
  fc.tuple(size, size).map(([width, height]) => box(width, height)),
  fc.tuple(point(1), point(1), size).map(([a, b, radius]) => capsule(a, b, radius)),
)

export const placedShape = (
  reach: number,
): fc.Arbitrary<{ shape: Shape2; at: { x: number; y: number }; angle: number }> =>
  fc.record({ shape, at: point(reach), angle })

/** How many random cases a property tries: many in the long run. Each run tries others, so what is tried adds up. */
export const runs = (few: number): number => (process.env['KEEN_LONG'] === '1' ? 50 * few : Math.ceil(0.4 * few))

/** Star-shaped outlines: convex or not, either way round. */
export const outline: fc.Arbitrary<{ x: number; y: number }[]> = fc
  .tuple(fc.array(fc.double({ min: 0.3, max: 2, noNaN: true }), { minLength: 3, maxLength: 9 }), fc.boolean())
  .map(([reaches, turned]) => {
    const points = reaches.map((reach, index) => {
      const angle = (2 * Math.PI * index) / reaches.length
      return { x: reach * Math.cos(angle), y: reach * Math.sin(angle) }
    })
    return turned ? points.reverse() : points
  })

const rounding = fc.oneof(fc.constant(0), fc.double({ min: 0.01, max: 0.5, noNaN: true }))
const away = point(2).filter(({ x, y }) => Math.abs(x) + Math.abs(y) > 0.01)

/** Every shape that can ask. */
export const askingShape: fc.Arbitrary<AskingShape2> = fc.oneof(
  shape as fc.Arbitrary<AskingShape2>,
  fc.tuple(size, size).map(([w, h]) => box(w, h, { radius: Math.min(w, h) / 4 })),
  fc.tuple(outline, rounding).map(([points, radius]) => polygon(points, { radius })),
  away.map((to) => segment({ x: 0, y: 0 }, to)),
  fc
    .tuple(shape, point(1), angle, size)
    .map(([first, at, turn, radius]) => compound([{ shape: first, at, angle: turn }, { shape: circle(radius) }])),
)

/** Every shape. */
export const anyShape: fc.Arbitrary<Shape2> = fc.oneof(
  { weight: 4, arbitrary: askingShape as fc.Arbitrary<Shape2> },
  {
    weight: 1,
    arbitrary: fc
      .tuple(fc.array(point(2), { minLength: 2, maxLength: 6 }), fc.boolean())
      .filter(([points]) => points.some((p) => Math.abs(p.x - points[0].x) + Math.abs(p.y - points[0].y) > 0.01))
      .map(([points, loop]) => polyline(points, { loop })),
  },
  { weight: 1, arbitrary: fc.tuple(away, coordinate(3)).map(([normal, offset]) => halfspace(normal, offset)) },
)

export const placedAny = (
  reach: number,
): fc.Arbitrary<{ shape: Shape2; at: { x: number; y: number }; angle: number }> =>
  fc.record({ shape: anyShape, at: point(reach), angle })
