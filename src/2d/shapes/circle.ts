import { size } from '../../core/util/checks.ts'
import { factsOf, onePiece } from './facts.ts'
import type { Circle } from './shape.ts'

/**
 * A circle about its origin.
 * @param radius metres, above 0
 * @throws KeenError `bad-number`
 */
export function circle(radius: number): Circle {
  size(radius, "'radius' of a circle")
  return Object.freeze({ kind: 'circle', radius, ...factsOf(onePiece(radius, 0, 0)) })
}
