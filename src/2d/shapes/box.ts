import { positive } from '../../core/checks.ts'
import type { Box } from './shape.ts'

/**
 * A box about its origin, full sizes.
 * @param width metres along x, above 0
 * @param height metres along y, above 0
 * @throws KeenError `bad-number`
 */
export function box(width: number, height: number): Box {
  const x = positive(width, "'width' of a box") / 2
  const y = positive(height, "'height' of a box") / 2
  return Object.freeze({ kind: 'box', width, height, radius: 0, block: Float64Array.of(0, -x, -y, x, -y, x, y, -x, y) })
}
