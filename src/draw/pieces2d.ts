/** The pieces of a shape of 2D as they are drawn. */
import type { Shape2 } from '../2d/index.ts'
import { CONVEX, HEAD } from '../2d/shapes/layout.ts'
import type { Piece } from '../2d/shapes/shape.ts'
import type { Point } from './list.ts'

/** The pieces of a shape: a concave outline as one, not as the convex pieces it was cut into. */
export function shownPieces(shape: Shape2): readonly Piece[] {
  if (shape.kind !== 'polygon' || shape.radius > 0 || shape.pieces.length === 1) return shape.pieces
  const block = Float64Array.of(CONVEX, shape.points.length, 0, ...shape.points.flatMap((point) => [point.x, point.y]))
  return [{ ...shape.pieces[0], block }]
}

/** The points of a piece that it is grown about, in the shape's own frame. */
export function corePoints(block: Float64Array): Point[] {
  const points: Point[] = []
  for (let i = HEAD + 1; i < block.length; i += 2) points.push({ x: block[i], y: block[i + 1] })
  return points
}
