/**
 * The gap between two convex shapes, each a core of points grown by a radius: distance and nearest points of the cores
 * (Gilbert, Johnson and Keerthi, 1988, on the difference of the two cores), and where the cores overlap the axis of
 * least depth over the edge normals of both, which in 2D is exact.
 *
 * A shape comes as a block (array and index: the radius, then x, y of each core point) and its number of points; all
 * that is found is written into arrays, for a double that crosses a call is boxed.
 */
import { COUNT, KIND } from '../shapes/layout.ts'
import type * as layout from './records.ts'

const DISTANCE: typeof layout.DISTANCE = 0
const NORMAL: typeof layout.NORMAL = 1
const POINT_A: typeof layout.POINT_A = 3
const POINT_B: typeof layout.POINT_B = 5

/** A simplex step gains on every pass; this only bounds a cycle that rounding could make. */
const MAX_STEPS = 64

/** Bound on the error of a cross product, as a part of its two terms: a few units in the last place. */
const ROUNDING = 4e-16

/** Where the bits of inner edges stand in the kind of a core: as {@link INNER} of its layout. */
const INNER_SHIFT = 4

/** Metres whose square still has all its digits. */
const TINY = 1e-150

/** Where the last search ended: the nearest features of the two cores, as indexes of points, a0, b0, a1, b1. */
const feature = new Int32Array(4)
/** Their difference a0 - b0 and a1 - b1. */
const simplex = new Float64Array(4)

/**
 * Searches the nearest features of two cores, without their radii.
 * @returns 0 when the cores meet, 1 when the nearest are two points, 2 when one of them is within an edge
 */
function searchCores(p: Float64Array, a: number, q: Float64Array, b: number): number {
  const an = p[a + COUNT] | 0
  const bn = q[b + COUNT] | 0
  const ao = a + 1
  const bo = b + 1
  let a0 = 0
  let b0 = 0
  let a1 = 0
  let b1 = 0
  let size = 1
  let x0 = p[ao] - q[bo]
  let y0 = p[ao + 1] - q[bo + 1]
  let x1 = 0
  let y1 = 0
  for (let step = 0; step < MAX_STEPS; step++) {
    // From the nearest point of the simplex towards the origin.
    let dx = -x0
    let dy = -y0
    if (size === 2) {
      const ex = x1 - x0
      const ey = y1 - y0
      const left = ex * y0
      const right = ey * x0
      const side = left - right
      // Nearer to the edge than rounding can tell: which side the origin is on is not known, so they meet.
      if ((side < 0 ? -side : side) <= ROUNDING * ((left < 0 ? -left : left) + (right < 0 ? -right : right))) return 0
      dx = side > 0 ? ey : -ey
      dy = side > 0 ? -ex : ex
    } else if (x0 === 0 && y0 === 0) return 0

    let ia = 0
    let best = p[ao] * dx + p[ao + 1] * dy
    for (let i = 1; i < an; i++) {
      const reach = p[ao + 2 * i] * dx + p[ao + 2 * i + 1] * dy
      if (reach > best) {
        best = reach
        ia = i
      }
    }
    let ib = 0
    best = q[bo] * dx + q[bo + 1] * dy
    for (let i = 1; i < bn; i++) {
      const reach = q[bo + 2 * i] * dx + q[bo + 2 * i + 1] * dy
      if (reach < best) {
        best = reach
        ib = i
      }
    }
    const x2 = p[ao + 2 * ia] - q[bo + 2 * ib]
    const y2 = p[ao + 2 * ia + 1] - q[bo + 2 * ib + 1]
    const known = (ia === a0 && ib === b0) || (size === 2 && ia === a1 && ib === b1)
    if (known || (x2 - x0) * dx + (y2 - y0) * dy <= 0) break

    if (size === 2) {
      const c01 = x0 * y1 - y0 * x1
      const c12 = x1 * y2 - y1 * x2
      const c20 = x2 * y0 - y2 * x0
      if ((c01 >= 0 && c12 >= 0 && c20 >= 0) || (c01 <= 0 && c12 <= 0 && c20 <= 0)) return 0
      // Outside: the nearest point lies on one of the two new edges. Keep the end of the nearer one.
      if (edgeDistance(x1, y1, x2, y2) < edgeDistance(x0, y0, x2, y2)) {
        x0 = x1
        y0 = y1
        a0 = a1
        b0 = b1
      }
    }
    const ex = x2 - x0
    const ey = y2 - y0
    // An edge so short that the square of its length has no digits left is a point.
    if (ex * ex + ey * ey < TINY * TINY || x0 * ex + y0 * ey >= 0) size = 1
    else if (x2 * ex + y2 * ey <= 0) {
      x0 = x2
      y0 = y2
      a0 = ia
      b0 = ib
      size = 1
    } else {
      x1 = x2
      y1 = y2
      a1 = ia
      b1 = ib
      size = 2
    }
  }
  feature[0] = a0
  feature[1] = b0
  feature[2] = a1
  feature[3] = b1
  simplex[0] = x0
  simplex[1] = y0
  simplex[2] = x1
  simplex[3] = y1
  return size
}

/**
 * How the last gap came about: 0 the cores overlap, 1 two points are nearest, 2 one of them is within an edge; then the
 * nearest points a0, b0, a1, b1, or where the cores overlap which of the two (0, 1) has the edge that parts them, and its index.
 */
export const features = new Int32Array(5)

/** Squared distance of the origin to a segment of the difference. */
function edgeDistance(x0: number, y0: number, x1: number, y1: number): number {
  const ex = x1 - x0
  const ey = y1 - y0
  const along = -(x0 * ex + y0 * ey)
  const square = ex * ex + ey * ey
  if (along <= 0 || square === 0) return x0 * x0 + y0 * y0
  if (along >= square) return x1 * x1 + y1 * y1
  const side = ex * y0 - ey * x0
  return (side * side) / square
}

/**
 * The signed gap of two shapes, negative when they overlap (the least way out is then that deep). Writes to `out`:
 * distance, unit normal from A to B, nearest points of A and of B. Where centres coincide, the normal is +y.
 */
export function gap(p: Float64Array, a: number, q: Float64Array, b: number, out: Float64Array): void {
  const size = searchCores(p, a, q, b)
  if (size === 0) {
    depth(p, a, q, b, out)
    return
  }
  features[0] = size
  for (let i = 0; i < 4; i++) features[1 + i] = feature[i]
  const x0 = simplex[0]
  const y0 = simplex[1]
  const a0 = a + 1 + 2 * feature[0]
  const b0 = b + 1 + 2 * feature[1]
  let ax = p[a0]
  let ay = p[a0 + 1]
  let bx = q[b0]
  let by = q[b0 + 1]
  let nx = -x0
  let ny = -y0
  let distance = Math.sqrt(x0 * x0 + y0 * y0)
  let length = distance
  if (size === 2) {
    const ex = simplex[2] - x0
    const ey = simplex[3] - y0
    const side = ex * y0 - ey * x0
    const square = ex * ex + ey * ey
    const part = -(x0 * ex + y0 * ey) / square
    const a1 = a + 1 + 2 * feature[2]
    const b1 = b + 1 + 2 * feature[3]
    ax += (p[a1] - ax) * part
    ay += (p[a1 + 1] - ay) * part
    bx += (q[b1] - bx) * part
    by += (q[b1 + 1] - by) * part
    nx = side > 0 ? ey : -ey
    ny = side > 0 ? -ex : ex
    length = Math.sqrt(square)
    distance = (side > 0 ? side : -side) / length
  }
  // So near that the square of the distance has no digits left: they meet.
  if (length < TINY) {
    depth(p, a, q, b, out)
    return
  }
  nx /= length
  ny /= length
  const ar = p[a]
  const br = q[b]
  out[DISTANCE] = distance - (ar + br)
  out[NORMAL] = nx
  out[NORMAL + 1] = ny
  out[POINT_A] = ax + nx * ar
  out[POINT_A + 1] = ay + ny * ar
  out[POINT_B] = bx - nx * br
  out[POINT_B + 1] = by - ny * br
}

/** Whether two shapes overlap or touch: `gap` without its points and depth. The answer is the same to the last bit. */
export function meet(p: Float64Array, a: number, q: Float64Array, b: number): boolean {
  const size = searchCores(p, a, q, b)
  if (size === 0) return true
  const x0 = simplex[0]
  const y0 = simplex[1]
  const radii = p[a] + q[b]
  if (size === 1) {
    const distance = Math.sqrt(x0 * x0 + y0 * y0)
    return distance < TINY || distance <= radii
  }
  const ex = simplex[2] - x0
  const ey = simplex[3] - y0
  const side = ex * y0 - ey * x0
  const length = Math.sqrt(ex * ex + ey * ey)
  return (side > 0 ? side : -side) / length <= radii
}

/** Overlapping cores: the edge normal along which the least move parts them. */
function depth(p: Float64Array, a: number, q: Float64Array, b: number, out: Float64Array): void {
  const an = p[a + COUNT] | 0
  const bn = q[b + COUNT] | 0
  let innerA = (p[a + KIND] | 0) >> INNER_SHIFT
  let innerB = (q[b + KIND] | 0) >> INNER_SHIFT
  // What is buried on all sides is led out as if it stood alone.
  if (innerA === (1 << an) - 1) innerA = 0
  if (innerB === (1 << bn) - 1) innerB = 0
  let best = -Infinity
  let bestPass = 0
  let bestEdge = -1
  let bestPoint = 0
  let nx = 0
  let ny = 1
  // A point of the core of A from which the normal leads out.
  let px = p[a + 1]
  let py = p[a + 2]
  for (let pass = 0; pass < 2; pass++) {
    const own = pass === 0 ? p : q
    const ownAt = (pass === 0 ? a : b) + 1
    const ownCount = pass === 0 ? an : bn
    const far = pass === 0 ? q : p
    const farAt = (pass === 0 ? b : a) + 1
    const farCount = pass === 0 ? bn : an
    if (ownCount === 1) continue
    const ownInner = pass === 0 ? innerA : innerB
    const farInner = pass === 0 ? innerB : innerA
    for (let i = 0; i < ownCount; i++) {
      // No way leads out over an inner edge.
      if ((ownInner >> i) & 1) continue
      const j = i + 1 === ownCount ? 0 : i + 1
      const x = own[ownAt + 2 * i]
      const y = own[ownAt + 2 * i + 1]
      const ex = own[ownAt + 2 * j] - x
      const ey = own[ownAt + 2 * j + 1] - y
      const length = Math.sqrt(ex * ex + ey * ey)
      // Two points that fell together far from the origin.
      if (length === 0) continue
      const ux = ey / length
      const uy = -ex / length
      let least = Infinity
      let leastAt = 0
      for (let k = 0; k < farCount; k++) {
        const reach = (far[farAt + 2 * k] - x) * ux + (far[farAt + 2 * k + 1] - y) * uy
        if (reach < least) {
          least = reach
          leastAt = k
        }
      }
      if (least <= best || (farInner !== 0 && leadsOverInner(far, farAt, farCount, farInner, ux, uy))) continue
      best = least
      bestPass = pass
      bestEdge = i
      bestPoint = leastAt
      nx = pass === 0 ? ux : -ux
      ny = pass === 0 ? uy : -uy
      // For an edge of A: where the deepest point of B would come out.
      px = far[farAt + 2 * leastAt] - (pass === 0 ? ux * least : 0)
      py = far[farAt + 2 * leastAt + 1] - (pass === 0 ? uy * least : 0)
    }
  }
  features[0] = 0
  features[1] = bestPass
  features[2] = bestEdge
  if (bestEdge >= 0) {
    alongEdge[0] = px
    alongEdge[1] = py
    alongEdge[2] = bestPass === 0 ? 0 : best
    if (bestPass === 0) middleOfEdges(p, a + 1, bestEdge, q, b + 1, bestPoint)
    else middleOfEdges(q, b + 1, bestEdge, p, a + 1, bestPoint)
    px = alongEdge[0]
    py = alongEdge[1]
  }
  // Cores that meet are not apart, whatever rounding says of two that only touch.
  if (best === -Infinity || best > 0) best = 0
  const ar = p[a]
  const br = q[b]
  out[DISTANCE] = best - (ar + br)
  out[NORMAL] = nx
  out[NORMAL + 1] = ny
  out[POINT_A] = px + nx * ar
  out[POINT_A + 1] = py + ny * ar
  out[POINT_B] = px + nx * (best - br)
  out[POINT_B + 1] = py + ny * (best - br)
}

/** Whether a way out along the normal of another core leads over an inner edge: that one looks against it. */
function leadsOverInner(p: Float64Array, at: number, count: number, inner: number, nx: number, ny: number): boolean {
  for (let i = 0; i < count; i++) {
    if (((inner >> i) & 1) === 0) continue
    const a = at + 2 * i
    const b = i + 1 === count ? at : a + 2
    const ex = p[b] - p[a]
    const ey = p[b + 1] - p[a + 1]
    if (ex * ny - ey * nx > OPPOSITE * Math.sqrt(ex * ex + ey * ey)) return true
  }
  return false
}

/**
 * Whether two pieces face each other at an inner edge of either, by the record of their gap: then another piece, which covers that edge, is
 * nearer.
 */
export function isAtInnerEdge(p: Float64Array, a: number, q: Float64Array, b: number, record: Float64Array): boolean {
  const innerA = (p[a + KIND] | 0) >> INNER_SHIFT
  const innerB = (q[b + KIND] | 0) >> INNER_SHIFT
  if (innerA === 0 && innerB === 0) return false
  const nx = record[NORMAL]
  const ny = record[NORMAL + 1]
  return (
    (innerA !== 0 && leadsOverInner(p, a + 1, p[a + COUNT] | 0, innerA, -nx, -ny)) ||
    (innerB !== 0 && leadsOverInner(q, b + 1, q[b + COUNT] | 0, innerB, nx, ny))
  )
}

/** Cosine of the angle within which two normals look against each other. */
const OPPOSITE = 0.999

/** A point, and how far it is to be lifted along the normal. */
const alongEdge = new Float64Array(3)

/**
 * Where the deepest vertex of the far core belongs to an edge parallel to the one that gave the normal, every point of the
 * two edges' common stretch is as deep: takes its middle, lifted along the normal. Otherwise leaves `alongEdge` as it is.
 */
function middleOfEdges(
  own: Float64Array,
  ownAt: number,
  edge: number,
  far: Float64Array,
  farAt: number,
  deepest: number,
): void {
  const ownCount = own[ownAt - 1 + COUNT] | 0
  const farCount = far[farAt - 1 + COUNT] | 0
  if (farCount === 1) return
  const lift = alongEdge[2]
  const i = ownAt + 2 * edge
  const j = edge + 1 === ownCount ? ownAt : i + 2
  const ex = own[j] - own[i]
  const ey = own[j + 1] - own[i + 1]
  const length = Math.sqrt(ex * ex + ey * ey)
  const tx = ex / length
  const ty = ey / length
  const k = farAt + 2 * deepest
  for (let side = 0; side < 2; side++) {
    const neighbour = side === 0 ? (deepest + 1) % farCount : (deepest + farCount - 1) % farCount
    const m = farAt + 2 * neighbour
    const fx = far[m] - far[k]
    const fy = far[m + 1] - far[k + 1]
    const along = fx * tx + fy * ty
    const across = fy * tx - fx * ty
    if (Math.abs(across) > PARALLEL * Math.abs(along)) continue
    const from = (far[k] - own[i]) * tx + (far[k + 1] - own[i + 1]) * ty
    const low = Math.max(Math.min(from, from + along), 0)
    const high = Math.min(Math.max(from, from + along), length)
    const middle = (low + high) / 2
    alongEdge[0] = own[i] + tx * middle + ty * lift
    alongEdge[1] = own[i + 1] + ty * middle - tx * lift
    return
  }
}

/** Sine of the angle under which two edges count as parallel. */
const PARALLEL = 1e-12
