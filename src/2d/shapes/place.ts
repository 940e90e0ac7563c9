/** Blocks put at a pose: x, y, angle, cos, sin. */
import { cosSin } from '../../core/util/maths.ts'
import type { Vec2 } from '../vector.ts'
import { COUNT, HEAD, KIND, PLANE } from './layout.ts'

/** Writes a pose as numbers. */
export function writePose({ x, y }: Vec2, angle: number, out: Float64Array): void {
  out[0] = x
  out[1] = y
  out[2] = angle
  cosSin(out, 2)
}

/** A block on its own, put at a pose. */
export function placed(block: Float64Array, pose: Float64Array): Float64Array {
  const out = new Float64Array(block.length)
  placeInto(block, HEAD, pose, out, HEAD)
  return out
}

/** Writes the block at `from`, put at a pose, to `out[to]`. */
export function placeInto(block: Float64Array, from: number, pose: Float64Array, out: Float64Array, to: number): void {
  const x = pose[0]
  const y = pose[1]
  const cos = pose[3]
  const sin = pose[4]
  const kind = block[from + KIND]
  const n = block[from + COUNT] | 0
  out[to + KIND] = kind
  out[to + COUNT] = n
  if (kind === PLANE) {
    const nx = cos * block[from + 1] - sin * block[from + 2]
    const ny = sin * block[from + 1] + cos * block[from + 2]
    out[to] = block[from] + nx * x + ny * y
    out[to + 1] = nx
    out[to + 2] = ny
    return
  }
  out[to] = block[from]
  for (let i = 1; i <= 2 * n; i += 2) {
    const px = block[from + i]
    const py = block[from + i + 1]
    out[to + i] = x + (cos * px - sin * py)
    out[to + i + 1] = y + (sin * px + cos * py)
  }
}
