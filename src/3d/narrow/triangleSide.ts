/**
 * On which side of a triangle a convex piece lies, and how high it stands over its plane. A piece that reaches through the plane is on the
 * side on which more of it lies at that place: of a plate on rough ground the middle may well be behind a triangle that its end lies on.
 */
import type * as shape from '../shapes/layout.ts'
import { pointGap } from './pointGap.ts'
import type * as layout from './records.ts'
import { GAP_SIZE } from './records.ts'
import { forget, support } from './support.ts'

const RADIUS: typeof shape.RADIUS = 3
const BODY: typeof shape.BODY = 4
const CORNERS: typeof shape.POINT_COUNT = 1
const FACES: typeof shape.FACE_COUNT = 2
const POINTS: typeof shape.POINTS = 0
const BOX: typeof shape.BOX = 1
const CYLINDER: typeof shape.CYLINDER = 2
const POINT_A: typeof layout.POINT_A = 4
const POINT_B: typeof layout.POINT_B = 7

/** Cosine below which a line runs along a face. */
const ALONG = 1e-12

/** The unit normal of the triangle that looks to the piece. */
export const side = new Float64Array(3)
/** The lowest point of the piece's core over the triangle. */
const low = new Float64Array(3)
/** How high the piece stands over the plane of the triangle; in an array, for a double that a call carries along may be boxed. */
export const stands = new Float64Array(1)

const face = new Float64Array(3)
const middle = new Float64Array(3)
const gap = new Float64Array(GAP_SIZE)
/** From where to where a line runs within a piece. */
const within = new Float64Array(2)
/** Where the line begins along an axis of the piece, from its centre, and how far each unit of its length leads along it. */
const onAxis = new Float64Array(2)

/**
 * Writes {@link side}, {@link low} and {@link stands} of a piece over a triangle that has an area.
 * @param isOneSided nothing is pressed behind it: then what has its middle in front is in front
 */
export function standOver(p: Float64Array, a: number, triangle: Float64Array, isOneSided: boolean): void {
  cross(triangle, 4, side)
  writeMiddle(p, a)
  let height = 0
  for (let k = 0; k < 3; k++) height += side[k] * (middle[k] - triangle[4 + k])
  const length = Math.sqrt(side[0] * side[0] + side[1] * side[1] + side[2] * side[2])
  for (let k = 0; k < 3; k++) side[k] /= height < 0 ? -length : length
  const reachesThrough = writeHeight(p, a, triangle) < 0
  if (reachesThrough && !(isOneSided && isInFront(triangle)) && isMoreBehind(p, a, triangle)) {
    for (let k = 0; k < 3; k++) side[k] = -side[k]
    writeHeight(p, a, triangle)
  }
  stands[0] -= p[a + RADIUS]
}

/** Whether a piece is on the side from which the corners of the triangle run counter-clockwise, by the {@link side} that was written. */
export function isInFront(triangle: Float64Array): boolean {
  cross(triangle, 4, face)
  return face[0] * side[0] + face[1] * side[1] + face[2] * side[2] > 0
}

/** Writes how high the core of a piece stands over the plane, on its side, and returns it. */
function writeHeight(p: Float64Array, a: number, triangle: Float64Array): number {
  forget()
  support(p, a, side, -1, low, 0, 0)
  let height = 0
  for (let k = 0; k < 3; k++) height += side[k] * (low[k] - triangle[4 + k])
  stands[0] = height
  return height
}

/** Whether more of the core lies behind a triangle than before it, along the line across that place of it which is nearest to the middle. */
function isMoreBehind(p: Float64Array, a: number, triangle: Float64Array): boolean {
  for (let k = 0; k < 3; k++) gap[POINT_A + k] = middle[k]
  pointGap(triangle, 0, gap)
  within[0] = -Infinity
  within[1] = Infinity
  const kind = p[a]
  if (kind === BOX) {
    for (let axis = 0; axis < 3; axis++) cutSlab(p, a, a + BODY + 3 + 3 * axis, p[a + BODY + 12 + axis])
  } else if (kind === CYLINDER) {
    cutCylinder(p, a)
  } else if (kind === POINTS && p[a + FACES] > 0) {
    const faces = a + BODY + 3 * p[a + CORNERS]
    for (let at = faces; at < faces + 4 * p[a + FACES]; at += 4) {
      let from = -p[at + 3]
      let along = 0
      for (let k = 0; k < 3; k++) {
        from += p[at + k] * gap[POINT_B + k]
        along += p[at + k] * side[k]
      }
      cut(along, from)
    }
  } else return false
  // Where the line misses the piece, its middle tells.
  return within[0] < within[1] && within[0] + within[1] < 0
}

/**
 * Cuts the line down to its part behind a plane.
 * @param along how much farther in front of the plane each unit of its length leads
 * @param from how far in front of the plane it begins
 */
function cut(along: number, from: number): void {
  if (along > ALONG) within[1] = Math.min(within[1], -from / along)
  else if (along < -ALONG) within[0] = Math.max(within[0], -from / along)
  else if (from > 0) within[1] = -Infinity
}

/** Cuts the line down to its part between two planes, at half a size to either side of the centre; leaves in `onAxis` where it begins and leads. */
function cutSlab(p: Float64Array, a: number, axis: number, half: number): void {
  let from = 0
  let along = 0
  for (let k = 0; k < 3; k++) {
    from += p[axis + k] * (gap[POINT_B + k] - p[a + BODY + k])
    along += p[axis + k] * side[k]
  }
  cut(along, from - half)
  cut(-along, -from - half)
  onAxis[0] = from
  onAxis[1] = along
}

/** Cuts the line down to its part within a cylinder. */
function cutCylinder(p: Float64Array, a: number): void {
  const axis = a + BODY + 3
  const radius = p[axis + 4]
  cutSlab(p, a, axis, p[axis + 3])
  const from = onAxis[0]
  const along = onAxis[1]
  // Across the axis: a circle.
  let square = 0
  let toward = 0
  let outside = -radius * radius
  for (let k = 0; k < 3; k++) {
    const x = gap[POINT_B + k] - p[a + BODY + k] - from * p[axis + k]
    const d = side[k] - along * p[axis + k]
    square += d * d
    toward += x * d
    outside += x * x
  }
  if (square <= ALONG) {
    if (outside > 0) within[1] = -Infinity
    return
  }
  const root = toward * toward - square * outside
  if (root < 0) {
    within[1] = -Infinity
    return
  }
  within[0] = Math.max(within[0], (-toward - Math.sqrt(root)) / square)
  within[1] = Math.min(within[1], (-toward + Math.sqrt(root)) / square)
}

/** The normal of a triangle by the way its corners run, of any length. */
function cross(t: Float64Array, at: number, out: Float64Array): void {
  const ux = t[at + 3] - t[at]
  const uy = t[at + 4] - t[at + 1]
  const uz = t[at + 5] - t[at + 2]
  const vx = t[at + 6] - t[at]
  const vy = t[at + 7] - t[at + 1]
  const vz = t[at + 8] - t[at + 2]
  out[0] = uy * vz - uz * vy
  out[1] = uz * vx - ux * vz
  out[2] = ux * vy - uy * vx
}

/** Writes the middle of a piece's core. */
function writeMiddle(p: Float64Array, a: number): void {
  const count = p[a] === POINTS ? p[a + CORNERS] : 1
  for (let axis = 0; axis < 3; axis++) {
    let sum = 0
    for (let i = 0; i < count; i++) sum += p[a + BODY + 3 * i + axis]
    middle[axis] = sum / count
  }
}
