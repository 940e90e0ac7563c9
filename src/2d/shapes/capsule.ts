import { positive } from '../../core/checks.ts'
import { checkVec, type Vec2 } from '../vector.ts'
import type { Capsule } from './shape.ts'

/**
 * All points within `radius` of the segment from `a` to `b`; when the two are equal, a circle.
 * @param radius metres, above 0
 * @throws KeenError `bad-number`, `bad-argument`
 */
export function capsule(a: Vec2, b: Vec2, radius: number): Capsule {
  checkVec(a, "'a' of a capsule")
  checkVec(b, "'b' of a capsule")
  const core = a.x === b.x && a.y === b.y ? Float64Array.of(a.x, a.y) : Float64Array.of(a.x, a.y, b.x, b.y)
  return Object.freeze({
    kind: 'capsule',
    a: Object.freeze({ x: a.x, y: a.y }),
    b: Object.freeze({ x: b.x, y: b.y }),
    radius: positive(radius, "'radius' of a capsule"),
    core,
  })
}
