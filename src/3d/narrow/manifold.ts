/**
 * Where two convex pieces press on each other: at most four points. The face that is turned most along the normal is the reference; the
 * face or edge of the other piece that is turned towards it is clipped to it (Sutherland and Hodgman, 1974), and of what is left, near
 * enough to the reference, the deepest point is kept and those that span most with it. Two edges that run along each other touch at the
 * two ends of their common stretch; all else at the nearest points.
 *
 * A point is known by the two edges between which it lies, of either piece: so it keeps its name from one tick to the next, and with it the
 * impulse of the last one.
 */
import type * as places from '../../core/util/places.ts'
import type * as shape from '../shapes/layout.ts'
import { boxesOverlap } from './boxes.ts'
import { Feature, featureOf } from './feature.ts'
import { gapWithin } from './gap.ts'
import type * as layout from './records.ts'

const PLACE: typeof places.PLACE = 0x3fffffff
const RADIUS: typeof shape.RADIUS = 3
const BODY: typeof shape.BODY = 4
const BOX: typeof shape.BOX = 1
const PLANE: typeof shape.PLANE = 5
const DISTANCE: typeof layout.DISTANCE = 0
const NORMAL: typeof layout.NORMAL = 1
const POINT_A: typeof layout.POINT_A = 4
const POINT_B: typeof layout.POINT_B = 7
const GAP_SIZE: typeof layout.GAP_SIZE = 10

/** Places in a manifold record: how many points, the unit normal from A to B, then the points. */
export const POINT_COUNT = 0
export const MANIFOLD_NORMAL = 1
export const FIRST_POINT = 4
/** Of a point: x, y, z halfway between the two surfaces, their gap there, and its name. */
export const GAP = 3
export const NAME = 4
export const POINT_SIZE = 5
const MOST_POINTS = 4
export const MANIFOLD_SIZE = FIRST_POINT + POINT_SIZE * MOST_POINTS
/** Where the limit is read from: what is further apart is no contact. */
export const WITHIN = 0

/** The name of a point that comes from no edges: the nearest one. */
const NEAREST = -1

/** Cosine of the angle within which a face counts as facing along the normal: 2.6 degrees. */
const FACING = 0.999
/** Part of the sizes by which the least gap of the points found may be more than the gap of the two. */
const SAME_GAP = 1e-5
/** The same for points that are as deep as the deepest when four are chosen: of those, the outermost, for they stay the same. */
const AS_DEEP = 1e-4
/** Part of the sizes within which two points are one. */
const SAME_PLACE = 1e-6
/** Square of the sine of the angle within which two edges run along each other: 2.6 degrees. */
const ALONG = 0.002
/** The names of edges of the reference in those of points: beyond those of the other piece. All are below the second number. */
const REFERENCE = 1 << 25
const EDGES = 1 << 26

/** The gap of the two: their normal is that of the manifold. */
export const record = new Float64Array(GAP_SIZE)
const faceA = new Feature()
const faceB = new Feature()
/** What is left of the other piece while it is clipped, and after: by turns. */
const one = new Feature()
const two = new Feature()
/** The points found: x, y, z, gap, name. */
export let found = new Float64Array(POINT_SIZE * 64)
export const counts = new Int32Array(1)
// Doubles that a call or a loop carries along may be boxed: they stand in arrays.
/** How large the two features are, radii and all. */
const sizes = new Float64Array(1)
/** The limit, as it is read from `out[WITHIN]`: points further apart than that are left out. */
export const reach = new Float64Array(1)
/** The radii of the two pieces. */
const radii = new Float64Array(2)
/** Of the plane that cuts: its normal, inwards, of any length, and its offset. */
const plane = new Float64Array(4)
const OFFSET = 3
/** What {@link measureArea} found. */
const area = new Float64Array(1)
const middle = new Float64Array(3)
/** Along which features are asked for. */
const towards = new Float64Array(3)

/**
 * Writes the manifold of two convex pieces, or of a convex piece and a halfspace. `out[WITHIN]` is read first: points further apart
 * than that are left out. Cost: that of the gap, and the corners of one face times those of the other.
 */
export function manifoldOfPieces(p: Float64Array, a: number, q: Float64Array, b: number, out: Float64Array): void {
  const within = out[WITHIN]
  reach[0] = within
  if (p[a] === PLANE && q[b] === PLANE) {
    out[POINT_COUNT] = 0
    return
  }
  if (p[a] !== BOX || q[b] !== BOX || !boxesOverlap(p, a, q, b, out, record)) gapWithin(p, a, q, b, out, record)
  out[POINT_COUNT] = 0
  if (!(record[DISTANCE] <= within)) return
  begin()
  if (p[a] === PLANE) onPlane(q, b, p, a)
  else if (q[b] === PLANE) onPlane(p, a, q, b)
  else ofConvex(p, a, q, b)
  addNearest()
  finish(out, 0)
}

/** No points are found yet. */
export function begin(): void {
  counts[0] = 0
  sizes[0] = 0
}

/** Keeps four of the points found, and writes them with the normal, as a manifold at a place. */
export function finish(out: Float64Array, to: number): void {
  for (let k = 0; k < 3; k++) out[to + MANIFOLD_NORMAL + k] = record[NORMAL + k]
  reduce(out, to)
}

/** Room for a point in {@link found}: its place. What is written there counts after {@link settle}. */
export function roomForPoint(): number {
  const at = POINT_SIZE * counts[0]
  if (at < found.length) return at
  const more = new Float64Array(2 * found.length)
  more.set(found)
  found = more
  return at
}

/** Counts the point that was written last, unless there is one at its place: where a corner lies on an edge, clipping finds both. */
export function settle(): void {
  const end = POINT_SIZE * counts[0]
  const near = SAME_PLACE * sizes[0]
  const x = found[end]
  const y = found[end + 1]
  const z = found[end + 2]
  for (let at = 0; at < end; at += POINT_SIZE) {
    const dx = found[at] - x
    const dy = found[at + 1] - y
    const dz = found[at + 2] - z
    if (dx < near && dx > -near && dy < near && dy > -near && dz < near && dz > -near) return
  }
  counts[0]++
}

/** Takes the size of a feature into {@link sizes}: how far it reaches from its first corner along an axis, at most. */
function takeSize({ points, count }: Feature): void {
  for (let i = 3; i < 3 * count; i++) {
    const d = points[i] - points[i % 3]
    if (d > sizes[0]) sizes[0] = d
    else if (-d > sizes[0]) sizes[0] = -d
  }
}

/** Where none of the points is as near as the two are, the nearest points are a contact, too: between corners and edges the only one. */
export function addNearest(): void {
  let least = Infinity
  for (let i = 0; i < counts[0]; i++) least = Math.min(least, found[POINT_SIZE * i + GAP])
  if (least <= record[DISTANCE] + SAME_GAP * sizes[0]) return
  const at = roomForPoint()
  for (let k = 0; k < 3; k++) found[at + k] = (record[POINT_A + k] + record[POINT_B + k]) / 2
  found[at + GAP] = record[DISTANCE]
  found[at + NAME] = NEAREST
  settle()
}

/** Adds the corners of the face that a piece turns to a halfspace. */
export function onPlane(p: Float64Array, a: number, q: Float64Array, b: number): void {
  const at = b + BODY
  const nx = q[at + 1]
  const ny = q[at + 2]
  const nz = q[at + 3]
  towards[0] = nx
  towards[1] = ny
  towards[2] = nz
  featureOf(p, a, towards, -1, faceA)
  const radius = p[a + RADIUS]
  sizes[0] = radius
  takeSize(faceA)
  const { points, edges, count } = faceA
  for (let i = 0; i < count; i++) {
    const height = nx * points[3 * i] + ny * points[3 * i + 1] + nz * points[3 * i + 2] - q[at]
    if (!(height - radius <= reach[0])) continue
    // The surface lies a radius below the corner.
    const down = (height + radius) / 2
    const to = roomForPoint()
    found[to] = points[3 * i] - down * nx
    found[to + 1] = points[3 * i + 1] - down * ny
    found[to + 2] = points[3 * i + 2] - down * nz
    found[to + GAP] = height - radius
    if (count < 3) found[to + NAME] = i
    else nameCorner(to, edges[(i + count - 1) % count], edges[i])
    settle()
  }
}

/** Names a point after the two edges between which it is a corner, whichever comes first. */
function nameCorner(at: number, e: number, f: number): void {
  found[at + NAME] = e < f ? e * EDGES + f : f * EDGES + e
}

/** Adds the points of two convex pieces that press along the normal of {@link record}. */
export function ofConvex(p: Float64Array, a: number, q: Float64Array, b: number): void {
  for (let k = 0; k < 3; k++) towards[k] = record[NORMAL + k]
  featureOf(p, a, towards, 1, faceA)
  featureOf(q, b, towards, -1, faceB)
  radii[0] = p[a + RADIUS]
  radii[1] = q[b + RADIUS]
  sizes[0] = Math.max(radii[0], radii[1])
  takeSize(faceA)
  takeSize(faceB)
  const facesA = faceA.isFace && faceA.cosine >= FACING
  const facesB = faceB.isFace && faceB.cosine >= FACING
  // Of two that face each other equally, always the first: so the choice does not change to and fro.
  if (facesA && (!facesB || faceA.cosine >= faceB.cosine - 1e-6)) clip(faceA, faceB, 0)
  else if (facesB) clip(faceB, faceA, 1)
  else if (faceA.count === 2 && faceB.count === 2) alongEdges()
}

/**
 * Clips the other feature to the prism over a face, and adds what is near enough to that.
 * @param which piece the face is of: its radius
 */
function clip(face: Feature, other: Feature, which: number): void {
  const radius = radii[which]
  const otherRadius = radii[1 - which]
  let from = other
  let to = one
  if (!other.isFace) {
    // The ends of an edge have names of their own.
    two.count = 0
    for (let i = 0; i < other.count; i++) two.push(other.points, 3 * i, i)
    from = two
  }
  const { normal, points, count } = face
  for (let i = 0; i < count && from.count > 0; i++) {
    const j = i + 1 === count ? 0 : i + 1
    const ex = points[3 * j] - points[3 * i]
    const ey = points[3 * j + 1] - points[3 * i + 1]
    const ez = points[3 * j + 2] - points[3 * i + 2]
    // Inwards, across the edge within the face.
    const mx = normal[1] * ez - normal[2] * ey
    const my = normal[2] * ex - normal[0] * ez
    const mz = normal[0] * ey - normal[1] * ex
    if (mx === 0 && my === 0 && mz === 0) continue
    plane[0] = mx
    plane[1] = my
    plane[2] = mz
    plane[OFFSET] = mx * points[3 * i] + my * points[3 * i + 1] + mz * points[3 * i + 2]
    if (!cut(from, REFERENCE + face.edges[i], to)) continue
    from = to
    to = from === one ? two : one
  }
  for (let i = 0; i < from.count; i++) {
    const x = from.points[3 * i]
    const y = from.points[3 * i + 1]
    const z = from.points[3 * i + 2]
    const height = normal[0] * (x - points[0]) + normal[1] * (y - points[1]) + normal[2] * (z - points[2])
    const apart = height - radius - otherRadius
    if (!(apart <= reach[0])) continue
    // Halfway between the other's surface, a radius below, and that of the face, a radius above.
    const down = (height + otherRadius - radius) / 2
    const at = roomForPoint()
    found[at] = x - down * normal[0]
    found[at + 1] = y - down * normal[1]
    found[at + 2] = z - down * normal[2]
    found[at + GAP] = apart
    if (from.count < 3) found[at + NAME] = from.edges[i]
    else nameCorner(at, from.edges[i === 0 ? from.count - 1 : i - 1], from.edges[i])
    settle()
  }
}

/** Keeps what of a polygon, or of an edge, lies on the inner side of {@link plane}. False, and nothing is written, where all of it does. */
function cut(from: Feature, name: number, to: Feature): boolean {
  const { points, edges, count } = from
  const mx = plane[0]
  const my = plane[1]
  const mz = plane[2]
  const offset = plane[OFFSET]
  if (count > heights.length) heights = new Float64Array(2 * count)
  let isWithin = true
  for (let i = 0; i < count; i++) {
    const at = (3 * i) & PLACE
    const height = mx * points[at] + my * points[at + 1] + mz * points[at + 2] - offset
    heights[i] = height
    if (!(height >= 0)) isWithin = false
  }
  if (isWithin) return false
  to.count = 0
  const isEdge = count === 2
  for (let i = 0; i < count; i++) {
    const j = i + 1 === count ? 0 : i + 1
    const here = heights[i]
    const there = heights[j]
    if (here >= 0) to.push(points, 3 * i, edges[i])
    if (isEdge && i === 1) break
    if (here >= 0 === there >= 0) continue
    const part = here / (here - there)
    // Where the polygon leaves, the cut goes on; where it comes back, its own edge does. The end of an edge is the cut itself.
    const at = to.next(isEdge || here >= 0 ? name : edges[i])
    for (let k = 0; k < 3; k++) to.points[at + k] = points[3 * i + k] + part * (points[3 * j + k] - points[3 * i + k])
  }
  return true
}

/** How far each corner of what is cut lies on the inner side. */
let heights = new Float64Array(64)

/** The two ends of the stretch along which two edges run beside each other. */
function alongEdges(): void {
  const radiusA = radii[0]
  const radiusB = radii[1]
  const p = faceA.points
  const q = faceB.points
  let dd = 0
  let ee = 0
  let de = 0
  for (let k = 0; k < 3; k++) {
    const d = p[3 + k] - p[k]
    const e = q[3 + k] - q[k]
    dd += d * d
    ee += e * e
    de += d * e
  }
  if (dd === 0 || ee === 0 || dd * ee - de * de > ALONG * dd * ee) return
  // Where the ends of the second lie along the first, 0 to 1.
  let start = 0
  let end = 0
  for (let k = 0; k < 3; k++) {
    start += ((q[k] - p[k]) * (p[3 + k] - p[k])) / dd
    end += ((q[3 + k] - p[k]) * (p[3 + k] - p[k])) / dd
  }
  const turned = start > end
  const low = Math.max(0, turned ? end : start)
  const high = Math.min(1, turned ? start : end)
  if (!(low < high)) return
  for (let side = 0; side < 2; side++) {
    const t = side === 0 ? low : high
    const s = (t - start) / (end - start)
    let height = 0
    for (let k = 0; k < 3; k++) {
      onFirst[k] = p[k] + t * (p[3 + k] - p[k])
      onSecond[k] = q[k] + s * (q[3 + k] - q[k])
      height += (onSecond[k] - onFirst[k]) * record[NORMAL + k]
    }
    const apart = height - radiusA - radiusB
    if (!(apart <= reach[0])) continue
    const shift = (radiusA - radiusB) / 2
    const at = roomForPoint()
    for (let k = 0; k < 3; k++) found[at + k] = (onFirst[k] + onSecond[k]) / 2 + shift * record[NORMAL + k]
    found[at + GAP] = apart
    found[at + NAME] = side
    settle()
  }
}

const onFirst = new Float64Array(3)
const onSecond = new Float64Array(3)

/** Writes at most four of the points: the deepest, the farthest from it, the farthest from the line of both, and what spans most with these. */
function reduce(out: Float64Array, to: number): void {
  const count = counts[0]
  out[to + POINT_COUNT] = Math.min(count, MOST_POINTS)
  if (count <= MOST_POINTS) {
    for (let i = 0; i < POINT_SIZE * count; i++) out[to + FIRST_POINT + i] = found[i]
    return
  }
  const deepest = outermostOfDeepest()
  let far = -1
  let most = -1
  for (let i = 0; i < count; i++) {
    const square = squareBetween(deepest, i)
    if (square <= most) continue
    most = square
    far = i
  }
  // Twice the area of the triangle with the first two, signed about the normal: the greatest on either side.
  let left = -1
  let right = -1
  let leftMost = 0
  let rightMost = 0
  for (let i = 0; i < count; i++) {
    if (i === deepest || i === far) continue
    measureArea(deepest, far, i)
    if (area[0] > leftMost) {
      leftMost = area[0]
      left = i
    } else if (area[0] < rightMost) {
      rightMost = area[0]
      right = i
    }
  }
  const third = leftMost >= -rightMost ? left : right
  const fourth = third >= 0 ? widest(deepest, far, third) : -1
  chosen[0] = deepest
  chosen[1] = far
  chosen[2] = third
  chosen[3] = fourth
  let kept = 0
  for (let n = 0; n < MOST_POINTS; n++) {
    if (chosen[n] < 0) continue
    for (let k = 0; k < POINT_SIZE; k++)
      out[to + FIRST_POINT + POINT_SIZE * kept + k] = found[POINT_SIZE * chosen[n] + k]
    kept++
  }
  out[to + POINT_COUNT] = kept
}

const chosen = new Int32Array(MOST_POINTS)

/** Of the points that are as deep as any, to rounding, the one that lies farthest from the middle of all: so it is a corner, and stays one. */
function outermostOfDeepest(): number {
  const count = counts[0]
  let least = Infinity
  middle.fill(0)
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < 3; k++) middle[k] += found[POINT_SIZE * i + k] / count
    if (found[POINT_SIZE * i + GAP] < least) least = found[POINT_SIZE * i + GAP]
  }
  let best = 0
  let most = -1
  for (let i = 0; i < count; i++) {
    if (found[POINT_SIZE * i + GAP] > least + AS_DEEP * sizes[0]) continue
    let square = 0
    for (let k = 0; k < 3; k++) {
      const d = found[POINT_SIZE * i + k] - middle[k]
      square += d * d
    }
    // A little more, not a last bit more: of two as far, the first.
    if (square <= most * (1 + SAME_GAP)) continue
    most = square
    best = i
  }
  return best
}

/** The point that lies farthest outside a triangle, by the area that it adds; -1 where all lie within. */
function widest(a: number, b: number, c: number): number {
  measureArea(a, b, c)
  const side = area[0] < 0 ? -1 : 1
  let best = -1
  let most = 0
  for (let i = 0; i < counts[0]; i++) {
    if (i === a || i === b || i === c) continue
    let outside = 0
    for (let edge = 0; edge < 3; edge++) {
      if (edge === 0) measureArea(a, b, i)
      else if (edge === 1) measureArea(b, c, i)
      else measureArea(c, a, i)
      if (-side * area[0] > outside) outside = -side * area[0]
    }
    if (outside <= most) continue
    most = outside
    best = i
  }
  return best
}

function squareBetween(i: number, j: number): number {
  let sum = 0
  for (let k = 0; k < 3; k++) {
    const d = found[POINT_SIZE * i + k] - found[POINT_SIZE * j + k]
    sum += d * d
  }
  return sum
}

/** Writes twice the area of a triangle of points, as seen against the normal, to {@link area}. */
function measureArea(i: number, j: number, l: number): void {
  const a = POINT_SIZE * i
  const ux = found[POINT_SIZE * j] - found[a]
  const uy = found[POINT_SIZE * j + 1] - found[a + 1]
  const uz = found[POINT_SIZE * j + 2] - found[a + 2]
  const vx = found[POINT_SIZE * l] - found[a]
  const vy = found[POINT_SIZE * l + 1] - found[a + 1]
  const vz = found[POINT_SIZE * l + 2] - found[a + 2]
  area[0] =
    (uy * vz - uz * vy) * record[NORMAL] +
    (uz * vx - ux * vz) * record[NORMAL + 1] +
    (ux * vy - uy * vx) * record[NORMAL + 2]
}
