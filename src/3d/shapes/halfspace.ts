import { finite } from '../../core/util/checks.ts'
import { COORDINATE } from '../../core/util/limits.ts'
import { checkDirection, type Vec3 } from '../vector.ts'
import { factsOf, Moments, onePiece } from './facts.ts'
import { PLANE } from './layout.ts'
import type { Halfspace } from './shape.ts'

/**
 * Everything on one side of a plane: the points with `normal . p <= offset`. For static bodies; it cannot ask.
 * @param normal out of the solid side, of any length but 0
 * @param offset metres from the origin to the surface along the normal
 * @throws KeenError `bad-number`, `bad-argument`
 */
export function halfspace(normal: Vec3, offset: number): Halfspace {
  const unit = Object.freeze(checkDirection(normal, "'normal' of a halfspace"))
  finite(offset, "'offset' of a halfspace", COORDINATE)
  const block = [PLANE, 0, 0, 0, offset, unit.x, unit.y, unit.z]
  return Object.freeze({ kind: 'halfspace', normal: unit, offset, ...factsOf(onePiece(block), new Moments(), true) })
}
