/**
 * Where two pieces press on each other: one point, or the two ends of the stretch along which two edges face each other. The
 * edge that gives the normal is the reference; the edge of the other piece that faces it is clipped to its length
 * (Sutherland and Hodgman, 1974, in 2D).
 *
 * A point is known by the corner it comes from, whichever of the two pieces has the reference edge. So it keeps its name
 * when that changes from one tick to the next, and with it the impulse of the last tick.
 */
import { COUNT, KIND, PLANE } from '../shapes/layout.ts'
import { features, gap, isAtInnerEdge } from './gap.ts'
import type * as layout from './records.ts'

const DISTANCE: typeof layout.DISTANCE = 0
const NORMAL: typeof layout.NORMAL = 1
const POINT_A: typeof layout.POINT_A = 3
const POINT_B: typeof layout.POINT_B = 5
const GAP_SIZE: typeof layout.GAP_SIZE = 7

/** Places in a manifold record: how many points, the unit normal from A to B, then the points. */
export const POINT_COUNT = 0
export const MANIFOLD_NORMAL = 1
export const FIRST_POINT = 3
/** Of a point: x, y halfway between the two surfaces, their gap there, and its name. */
export const GAP = 2
export const NAME = 3
export const POINT_SIZE = 4
export const MANIFOLD_SIZE = 11
/** Where the limit is read from: what is further apart is no contact. */
export const WITHIN = 0

/** Part of an edge that counts as a point. */
const POINT_LIKE = 1e-9
/** Cosine of the angle within which an edge counts as facing along the normal. */
const FACING = 0.999

/** The gap of the two, and the limit: doubles that cross a call are boxed. */
const record = new Float64Array(GAP_SIZE)
const limit = new Float64Array(1)

/**
 * Writes the manifold of two pieces. `out[WITHIN]` is read first: points further apart than that are left out.
 * Cost: that of the gap, and one pass over the edges of one piece.
 */
export function manifoldOfPieces(p: Float64Array, a: number, q: Float64Array, b: number, out: Float64Array): void {
  const isPlaneA = p[a + KIND] === PLANE
  if (q[b + KIND] === PLANE) {
    if (isPlaneA) out[POINT_COUNT] = 0
    else onPlane(p, a, q, b, false, out)
  } else if (isPlaneA) onPlane(q, b, p, a, true, out)
  else ofConvex(p, a, q, b, out)
}

function ofConvex(p: Float64Array, a: number, q: Float64Array, b: number, out: Float64Array): void {
  const an = p[a + COUNT] | 0
  const bn = q[b + COUNT] | 0
  const within = out[WITHIN]
  gap(p, a, q, b, record)
  if (!(record[DISTANCE] <= within) || (record[DISTANCE] > 0 && isAtInnerEdge(p, a, q, b, record))) {
    out[POINT_COUNT] = 0
    return
  }
  limit[0] = within
  out[MANIFOLD_NORMAL] = record[NORMAL]
  out[MANIFOLD_NORMAL + 1] = record[NORMAL + 1]
  if (an > 1 && bn > 1) {
    // Which of the two has the reference edge, and which edge it is.
    let second = 0
    let edge = -1
    if (features[0] === 0) {
      second = features[1]
      edge = features[2]
    } else if (features[0] === 2) {
      second = features[1] !== features[3] ? 0 : 1
      const n = second === 0 ? an : bn
      const from = second === 0 ? features[1] : features[2]
      const to = second === 0 ? features[3] : features[4]
      edge = (from + 1) % n === to ? from : to
    } else {
      edge = facing(p, a, features[1], 1)
      const alignedA = alignment[0]
      const other = facing(q, b, features[2], -1)
      if (alignment[0] > alignedA) {
        second = 1
        edge = other
      }
      // Two corners: along a stretch only where edges of both face each other.
      if (alignment[0] < FACING || alignedA < FACING) edge = -1
    }
    if (edge >= 0) {
      const found = second === 0 ? clip(p, a, q, b, edge, out) : clip(q, b, p, a, ~edge, out)
      if (found) return
    }
  }
  out[POINT_COUNT] = 1
  out[FIRST_POINT] = (record[POINT_A] + record[POINT_B]) / 2
  out[FIRST_POINT + 1] = (record[POINT_A + 1] + record[POINT_B + 1]) / 2
  out[FIRST_POINT + GAP] = record[DISTANCE]
  out[FIRST_POINT + NAME] = -1
}

/** Cosine between the normal and the edge that {@link facing} found. */
const alignment = new Float64Array(1)

/** Of the two edges at a corner the one that is turned more towards the normal, or (`sign` -1) against it. */
function facing(p: Float64Array, a: number, corner: number, sign: number): number {
  const n = p[a + COUNT] | 0
  const nx = sign * record[NORMAL]
  const ny = sign * record[NORMAL + 1]
  let best = -1
  alignment[0] = -2
  for (let side = 0; side < 2; side++) {
    const edge = side === 0 ? corner : (corner + n - 1) % n
    const i = a + 1 + 2 * edge
    const j = edge + 1 === n ? a + 1 : i + 2
    const ex = p[j] - p[i]
    const ey = p[j + 1] - p[i + 1]
    const cosine = (ey * nx - ex * ny) / Math.sqrt(ex * ex + ey * ey)
    if (cosine <= alignment[0]) continue
    alignment[0] = cosine
    best = edge
  }
  return best
}

/**
 * Clips the edge of `far` that faces along the normal to the length of the reference edge. Writes the ends that are left,
 * and says whether there are any.
 * @param reference the reference edge of `own`; of B its complement (`~edge`)
 */
function clip(
  own: Float64Array,
  ownAt: number,
  far: Float64Array,
  farAt: number,
  reference: number,
  out: Float64Array,
): boolean {
  const second = reference < 0 ? 1 : 0
  const edge = second === 1 ? ~reference : reference
  const ownCount = own[ownAt + COUNT] | 0
  const farCount = far[farAt + COUNT] | 0
  const within = limit[0]
  const nx = second === 0 ? record[NORMAL] : -record[NORMAL]
  const ny = second === 0 ? record[NORMAL + 1] : -record[NORMAL + 1]
  let from = edge
  let to = edge + 1 === ownCount ? 0 : edge + 1
  let i = ownAt + 1 + 2 * from
  let j = ownAt + 1 + 2 * to
  let ex = own[j] - own[i]
  let ey = own[j + 1] - own[i + 1]
  const length = Math.sqrt(ex * ex + ey * ey)
  // A core of two points has the same edge on both sides.
  if (ownCount === 2 && ey * nx - ex * ny < 0) {
    const kept = from
    from = to
    to = kept
    i = ownAt + 1 + 2 * from
    j = ownAt + 1 + 2 * to
    ex = -ex
    ey = -ey
  }
  const tx = ex / length
  const ty = ey / length
  const ux = ty
  const uy = -tx
  // Where two corners are nearest, rounding may have taken an edge for the feature that does not face along the normal.
  if (ux * nx + uy * ny < FACING) return false

  let facingEdge = 0
  let least = Infinity
  const edges = farCount === 2 ? 1 : farCount
  for (let k = 0; k < edges; k++) {
    const v = farAt + 1 + 2 * k
    const w = k + 1 === farCount ? farAt + 1 : v + 2
    const fx = far[w] - far[v]
    const fy = far[w + 1] - far[v + 1]
    const cosine = (fy * ux - fx * uy) / Math.sqrt(fx * fx + fy * fy)
    if (cosine >= least) continue
    least = cosine
    facingEdge = k
  }
  let start = facingEdge
  let end = facingEdge + 1 === farCount ? 0 : facingEdge + 1
  let v = farAt + 1 + 2 * start
  let w = farAt + 1 + 2 * end
  let startAlong = (far[v] - own[i]) * tx + (far[v + 1] - own[i + 1]) * ty
  let endAlong = (far[w] - own[i]) * tx + (far[w + 1] - own[i + 1]) * ty
  if (startAlong > endAlong) {
    let kept = start
    start = end
    end = kept
    kept = v
    v = w
    w = kept
    const along = startAlong
    startAlong = endAlong
    endAlong = along
  }
  // What faces each other only at a corner touches at one point.
  const common = (endAlong < length ? endAlong : length) - (startAlong > 0 ? startAlong : 0)
  if (!(common > POINT_LIKE * length)) return false
  const stretch = endAlong - startAlong
  const ownRadius = own[ownAt]
  const radii = ownRadius + far[farAt]
  const lift = (ownRadius - far[farAt]) / 2
  let count = 0
  for (let k = 0; k < 2; k++) {
    const along = k === 0 ? startAlong : endAlong
    const clipped = k === 0 ? along < 0 : along > length
    const bound = k === 0 ? 0 : length
    const part = clipped ? (bound - startAlong) / stretch : k
    const x = far[v] + (far[w] - far[v]) * part
    const y = far[v + 1] + (far[w + 1] - far[v + 1]) * part
    const core = (x - own[i]) * ux + (y - own[i + 1]) * uy
    if (core - radii > within) continue
    const at = FIRST_POINT + POINT_SIZE * count
    out[at] = x + ux * (lift - core / 2)
    out[at + 1] = y + uy * (lift - core / 2)
    out[at + GAP] = core - radii
    const corner = clipped ? (k === 0 ? from : to) : k === 0 ? start : end
    out[at + NAME] = 2 * corner + (clipped ? second : 1 - second)
    count++
  }
  if (count === 0) return false
  out[POINT_COUNT] = count
  const sign = second === 0 ? 1 : -1
  out[MANIFOLD_NORMAL] = sign * ux
  out[MANIFOLD_NORMAL + 1] = sign * uy
  return true
}

/** A convex piece over a plane: its two lowest corners that are within reach. */
function onPlane(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  planeIsFirst: boolean,
  out: Float64Array,
): void {
  const sign = planeIsFirst ? 1 : -1
  const second = planeIsFirst ? 1 : 0
  const an = p[a + COUNT] | 0
  const within = out[WITHIN]
  const offset = q[b]
  const nx = q[b + 1]
  const ny = q[b + 2]
  const r = p[a]
  out[MANIFOLD_NORMAL] = sign * nx
  out[MANIFOLD_NORMAL + 1] = sign * ny
  let lowest = -1
  let next = -1
  let least = Infinity
  let nextLeast = Infinity
  for (let k = 0; k < an; k++) {
    const height = p[a + 1 + 2 * k] * nx + p[a + 2 + 2 * k] * ny - offset
    if (height < least) {
      next = lowest
      nextLeast = least
      lowest = k
      least = height
    } else if (height < nextLeast) {
      next = k
      nextLeast = height
    }
  }
  let count = 0
  for (let k = 0; k < 2; k++) {
    const corner = k === 0 ? lowest : next
    const height = k === 0 ? least : nextLeast
    if (corner < 0 || height - r > within) continue
    const at = FIRST_POINT + POINT_SIZE * count++
    const down = (height + r) / 2
    out[at] = p[a + 1 + 2 * corner] - nx * down
    out[at + 1] = p[a + 2 + 2 * corner] - ny * down
    out[at + GAP] = height - r
    out[at + NAME] = 2 * corner + second
  }
  out[POINT_COUNT] = count
}
