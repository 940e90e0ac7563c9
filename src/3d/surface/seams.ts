/**
 * Where two triangles are joined, the edge between them is no feature of the surface by itself: what touches a triangle there
 * from over its neighbour has touched the neighbour. So nothing that slides over a surface is held by its inner edges.
 */
import { BODY } from '../shapes/words.ts'
import type { Surface } from './surface.ts'

/** Weight of a corner below which a point lies on the edge opposite to it. */
const ON_EDGE = 1e-7
/** Sine of a lean beyond which a touch is the neighbour's. */
const CLEAR = 1e-3
/** Sine of a lean that is none; and of a motion that only grazes. */
const FLUSH = 1e-9
const GRAZE = 1e-6

const point = new Float64Array(3)
const normal = new Float64Array(3)
const into = new Float64Array(3)
const weights = new Float64Array(3)

/**
 * Whether a touch belongs to a neighbour of the triangle: its point lies on an edge that is shared, and its normal leans over
 * the neighbour's face; clearly, or by a little where the motion only grazes.
 * @param motion of what touches, in the world
 * @param block, at where the surface is placed
 * @param touch the touch: its point and its unit normal away from the surface, in the world
 */
export function belongsToNeighbour(
  surface: Surface,
  triangle: number,
  block: Float64Array,
  at: number,
  touch: Float64Array,
  pointAt: number,
  normalAt: number,
  motion: Float64Array,
): boolean {
  const { corners, neighbours } = surface
  let closing = 0
  let square = 0
  for (let k = 0; k < 3; k++) {
    closing -= motion[3 + k] * touch[normalAt + k]
    square += motion[3 + k] * motion[3 + k]
  }
  const limit = closing < GRAZE * Math.sqrt(square) ? FLUSH : CLEAR
  const p = at + BODY
  for (let i = 0; i < 3; i++) {
    point[i] = 0
    normal[i] = 0
    for (let k = 0; k < 3; k++) {
      const m = block[p + 3 + 3 * k + i]
      point[i] += m * (touch[pointAt + k] - block[p + k])
      normal[i] += m * touch[normalAt + k]
    }
  }
  weigh(corners, 9 * triangle)
  for (let edge = 0; edge < 3; edge++) {
    // The corner opposite to the edge has no weight on it.
    if (Math.abs(weights[(edge + 2) % 3]) > ON_EDGE) continue
    const neighbour = neighbours[3 * triangle + edge]
    if (neighbour < 0) continue
    leadInto(corners, 9 * triangle + 3 * edge, 9 * triangle + 3 * ((edge + 1) % 3), 9 * neighbour)
    if (into[0] * normal[0] + into[1] * normal[1] + into[2] * normal[2] > limit) return true
  }
  return false
}

/** The weights of a triangle's corners at the foot of `point`. */
function weigh(p: Float64Array, at: number): void {
  const ex = p[at + 3] - p[at]
  const ey = p[at + 4] - p[at + 1]
  const ez = p[at + 5] - p[at + 2]
  const fx = p[at + 6] - p[at]
  const fy = p[at + 7] - p[at + 1]
  const fz = p[at + 8] - p[at + 2]
  const gx = point[0] - p[at]
  const gy = point[1] - p[at + 1]
  const gz = point[2] - p[at + 2]
  const ee = ex * ex + ey * ey + ez * ez
  const ff = fx * fx + fy * fy + fz * fz
  const ef = ex * fx + ey * fy + ez * fz
  const eg = ex * gx + ey * gy + ez * gz
  const fg = fx * gx + fy * gy + fz * gz
  const area = ee * ff - ef * ef
  weights[1] = (ff * eg - ef * fg) / area
  weights[2] = (ee * fg - ef * eg) / area
  weights[0] = 1 - weights[1] - weights[2]
}

/**
 * Writes the unit direction from `point`, on the edge a to b or at its end, to the corner of a triangle on it that lies off the
 * edge: wherever the triangle comes nearer along a normal, it does so in this direction.
 */
function leadInto(p: Float64Array, a: number, b: number, triangle: number): void {
  const ex = p[b] - p[a]
  const ey = p[b + 1] - p[a + 1]
  const ez = p[b + 2] - p[a + 2]
  let most = 0
  into.fill(0)
  for (let corner = triangle; corner < triangle + 9; corner += 3) {
    const x = p[corner] - p[a]
    const y = p[corner + 1] - p[a + 1]
    const z = p[corner + 2] - p[a + 2]
    const cx = ey * z - ez * y
    const cy = ez * x - ex * z
    const cz = ex * y - ey * x
    const off = cx * cx + cy * cy + cz * cz
    if (off <= most) continue
    most = off
    let length = 0
    for (let i = 0; i < 3; i++) {
      into[i] = p[corner + i] - point[i]
      length += into[i] * into[i]
    }
    length = Math.sqrt(length)
    for (let i = 0; i < 3; i++) into[i] /= length
  }
}
