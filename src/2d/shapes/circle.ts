import { positive } from '../../core/checks.ts'
import type { Circle } from './shape.ts'

/**
 * A circle about its origin.
 * @param radius metres, above 0
 * @throws KeenError `bad-number`
 */
export function circle(radius: number): Circle {
  positive(radius, "'radius' of a circle")
  return Object.freeze({ kind: 'circle', radius, block: Float64Array.of(radius, 0, 0) })
}
