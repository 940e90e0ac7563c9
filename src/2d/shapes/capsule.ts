import { size } from '../../core/util/checks.ts'
import { checkVec, type Vec2 } from '../vector.ts'
import { factsOf, onePiece } from './facts.ts'
import type { Capsule } from './shape.ts'

/** Length of the segment, as a part of the radius, below which it counts as a point. */
const POINT_LIKE = 1e-15

/**
 * All points within `radius` of the segment from `a` to `b`; when the two are equal, a circle.
 * @param radius metres, above 0
 * @throws KeenError `bad-number`, `bad-argument`
 */
export function capsule(a: Vec2, b: Vec2, radius: number): Capsule {
  checkVec(a, "'a' of a capsule")
  checkVec(b, "'b' of a capsule")
  const reach = Math.max(Math.abs(b.x - a.x), Math.abs(b.y - a.y))
  // Shorter than the rounding of its radius, the segment has no direction that means anything.
  const isPoint = reach <= POINT_LIKE * size(radius, "'radius' of a capsule")
  const block = isPoint ? [radius, a.x, a.y] : [radius, a.x, a.y, b.x, b.y]
  return Object.freeze({
    kind: 'capsule',
    a: Object.freeze({ x: a.x, y: a.y }),
    b: Object.freeze({ x: b.x, y: b.y }),
    radius,
    ...factsOf(onePiece(...block)),
  })
}
