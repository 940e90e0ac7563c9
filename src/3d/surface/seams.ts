/**
 * Where two triangles are joined, the edge between them is no feature of the surface by itself: what touches a triangle there
 * from over its neighbour has touched the neighbour. So nothing that slides over a surface is held by its inner edges.
 */
import { BODY } from '../shapes/layout.ts'
import type { Surface } from './surface.ts'

/** Weight of a corner below which a point lies on the edge opposite to it. */
const ON_EDGE = 1e-7
/** Sine of the smallest angle between normals that counts as non-zero. */
const FLUSH = 1e-9

const point = new Float64Array(3)
const normal = new Float64Array(3)
const weights = new Float64Array(3)

/**
 * Whether a touch belongs to a neighbour of the triangle: its point lies on an edge that is shared, and its normal leans over
 * the neighbour's face.
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
): boolean {
  const { corners, neighbours } = surface
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
  for (let corner = 0; corner < 3; corner++) {
    const next = (corner + 1) % 3
    const last = (corner + 2) % 3
    // At a corner all that meet there are neighbours; on an edge it is the one beyond.
    if (Math.abs(weights[next]) <= ON_EDGE && Math.abs(weights[last]) <= ON_EDGE) {
      return fanLeans(surface, triangle, corner, 0) || fanLeans(surface, triangle, corner, 2)
    }
    if (Math.abs(weights[last]) > ON_EDGE) continue
    const neighbour = neighbours[3 * triangle + corner]
    if (neighbour >= 0 && leansOver(corners, 9 * neighbour)) return true
  }
  return false
}

/** More triangles than meet at any corner of a sound surface. */
const FAN = 64

/** Goes round a corner from triangle to triangle. @param side 0 over the edge that leaves the corner, 2 over that which comes */
function fanLeans(surface: Surface, triangle: number, corner: number, side: number): boolean {
  const { corners, neighbours } = surface
  let at = triangle
  let here = corner
  for (let i = 0; i < FAN; i++) {
    const neighbour = neighbours[3 * at + ((here + side) % 3)]
    if (neighbour < 0 || neighbour === triangle) return false
    if (leansOver(corners, 9 * neighbour)) return true
    here = nearestCorner(corners, 9 * neighbour, 9 * at + 3 * here)
    at = neighbour
  }
  return false
}

/** Which corner of a triangle is a given one: the nearest, for welded ones may differ a little. */
function nearestCorner(p: Float64Array, triangle: number, corner: number): number {
  let best = 0
  let least = Infinity
  for (let k = 0; k < 3; k++) {
    let square = 0
    for (let i = 0; i < 3; i++) {
      const apart = p[triangle + 3 * k + i] - p[corner + i]
      square += apart * apart
    }
    if (square >= least) continue
    least = square
    best = k
  }
  return best
}

/** Whether the normal leans over a triangle that `point` lies on: towards a corner of it. */
function leansOver(p: Float64Array, triangle: number): boolean {
  for (let corner = triangle; corner < triangle + 9; corner += 3) {
    const x = p[corner] - point[0]
    const y = p[corner + 1] - point[1]
    const z = p[corner + 2] - point[2]
    const length = Math.sqrt(x * x + y * y + z * z)
    if (x * normal[0] + y * normal[1] + z * normal[2] > FLUSH * length) return true
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
