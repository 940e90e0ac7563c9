/** Any piece against any piece: convex cores and lines by the general gap, a halfspace in closed form. */
import { COUNT, KIND, PLANE } from '../shapes/layout.ts'
import { gap, meet } from './gap.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from './records.ts'

const record = new Float64Array(GAP_SIZE)

/** Writes the gap of two pieces: their arrays and the places of their blocks. Two planes are never apart. */
export function gapOfPieces(p: Float64Array, a: number, q: Float64Array, b: number, out: Float64Array): void {
  const isPlaneA = p[a + KIND] === PLANE
  const isPlaneB = q[b + KIND] === PLANE
  if (isPlaneA && isPlaneB) out[DISTANCE] = -Infinity
  else if (isPlaneB) planeGap(p, a, q, b, out, false)
  else if (isPlaneA) planeGap(q, b, p, a, out, true)
  else gap(p, a, q, b, out)
}

/** Whether two pieces overlap or touch; the first is no plane. */
export function piecesMeet(p: Float64Array, a: number, q: Float64Array, b: number): boolean {
  if (q[b + KIND] !== PLANE) return meet(p, a, q, b)
  planeGap(p, a, q, b, record, false)
  return record[DISTANCE] <= 0
}

/** A convex piece over a plane; turned, the plane is the first of the two. */
function planeGap(p: Float64Array, a: number, q: Float64Array, b: number, out: Float64Array, turned: boolean): void {
  const an = p[a + COUNT] | 0
  const offset = q[b]
  const nx = q[b + 1]
  const ny = q[b + 2]
  let least = Infinity
  let at = a + 1
  for (let i = a + 1; i <= a + 2 * an; i += 2) {
    const height = p[i] * nx + p[i + 1] * ny - offset
    if (height < least) {
      least = height
      at = i
    }
  }
  const r = p[a]
  const sign = turned ? 1 : -1
  out[DISTANCE] = least - r
  out[NORMAL] = sign * nx
  out[NORMAL + 1] = sign * ny
  const own = turned ? POINT_B : POINT_A
  const other = turned ? POINT_A : POINT_B
  out[own] = p[at] - nx * r
  out[own + 1] = p[at + 1] - ny * r
  out[other] = p[at] - nx * least
  out[other + 1] = p[at + 1] - ny * least
}
