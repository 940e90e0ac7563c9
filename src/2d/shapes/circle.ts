import { positive } from '../../core/checks.ts'
import type { Circle } from './shape.ts'

/**
 * A circle about its origin.
 * @param radius metres, above 0
 * @throws KeenError `bad-number`
 */
export function circle(radius: number): Circle {
  return Object.freeze({ kind: 'circle', radius: positive(radius, "'radius' of a circle"), core: new Float64Array(2) })
}
