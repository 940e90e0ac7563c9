/** A segment that is cast along itself can be closed in as a ray can. */

import { findSeams, putSeams } from '../../core/query/seamHits.ts'
import type { Kinds } from '../../core/state/handle.ts'
import type { Kernel2 } from '../kernel.ts'
import { ROUNDING } from '../narrow/graze.ts'
import { COUNT } from '../shapes/layout.ts'
import type { Scratch } from './scratch.ts'

/**
 * Of a segment that is cast along itself: where it is closed in. Any other shape has a width, and a gap of just that width lets it
 * through.
 * @param p, a the asking piece where it starts
 */
export function castSeams<K extends Kinds>(
  kernel: Kernel2,
  scratch: Scratch<K>,
  p: Float64Array,
  a: number,
  once: boolean,
): void {
  const { line, best, ray } = scratch
  if (p[a + COUNT] !== 2 || p[a] !== 0) return
  const [, , dx, dy] = line
  const square = dx * dx + dy * dy
  if (square === 0) return
  const ex = p[a + 3] - p[a + 1]
  const ey = p[a + 4] - p[a + 2]
  const far = Math.abs(p[a + 1]) + Math.abs(p[a + 2]) + Math.abs(ex) + Math.abs(ey)
  if (Math.abs(dx * ey - dy * ex) > 4 * ROUNDING * far * Math.sqrt(square)) return
  const along = (dx * ex + dy * ey) / square
  const rear = a + (along < 0 ? 3 : 1)
  ray[0] = p[rear]
  ray[1] = p[rear + 1]
  ray[2] = dx
  ray[3] = dy
  ray[5] = ROUNDING * far
  const ahead = Math.abs(along)
  findSeams(kernel, scratch, ray, ahead)
  putSeams(kernel, scratch, ray, ahead, best, once)
}
