/**
 * How deep two convex cores overlap, and the least way out: a polytope within their difference is grown from the simplex
 * that the distance left, at its face nearest to the origin, until that face lies on the surface of the difference (van den
 * Bergen, 2001). For cores with corners that ends with the very face. Discs may need ever more corners, as about a common
 * axis: then the search goes on around the lowest ways it knows, ever more closely.
 */
import type * as shape from '../shapes/layout.ts'
import { NEAR_A, NEAR_B, NEAR_SCALE, NEAR_SIZE, nearest, simplex, WA, WB, WEIGHTS } from './nearest.ts'
import {
  acrossCorners,
  begin,
  beginAgain,
  corners,
  dir,
  extent,
  faceBelow,
  faceCorners,
  facePlanes,
  farthest,
  grow,
  MAX_CORNERS,
  MAX_FACES,
  nearestFace,
  onA,
  onB,
  polytope,
  reach,
} from './polytope.ts'

const BOX: typeof shape.BOX = 1
const CYLINDER: typeof shape.CYLINDER = 2
const CONE: typeof shape.CONE = 3
const BODY: typeof shape.BODY = 4

/** Part of the size of all by which a face may still be outdone, and a way that was searched closely. */
const CONTENT = 1e-12
const NEARLY = 1e-10
/** Part of the size of all below which a depth is a touch. */
const TOUCH = 1e-12
/** Weight below which a foot lies on the edge of a face, not beside it. */
const BESIDE = 1e-12
/** Part of the size of all that cores are led apart by, to ask for their nearest points. */
const APART = 1e-7
/** Around how many ways, at most, the search goes on. */
const STARTS = 2
/** Cosine of the angle to an earlier one within which a way is none of its own. */
const SAME = 0.9
/** The angle around a way that is searched first, by how much the next is less, and where it ends. */
const WIDE = 0.4
const CLOSER = 6
const CLOSE = 1e-6
/** Searches around one way, at most. */
const ROUNDS = 24
/** Corners of a polytope around one way. */
const CORNERS = 48
/** Cosine of no angle: all directions. */
const ANY = -2

/** Places in the answer: normal from A to B, depth, point of A, point of B. */
export const DEPTH_NORMAL = 0
export const DEPTH = 3
export const DEPTH_A = 4
export const DEPTH_B = 7
export const DEPTH_SIZE = 10

/** A way: unit direction, the depth along it, and a depth that there is no less of near it. */
const BOUND = 4
const WAY_SIZE = 5
/** Those of the faces, and of two boxes. */
const ways = new Float64Array((MAX_FACES + 12) * WAY_SIZE)
let wayCount = 0
const begun = new Float64Array(3 * STARTS)
/** The way that is followed, with points like an answer. */
const way = new Float64Array(DEPTH_SIZE)
const about = new Float64Array(3)
const across = new Float64Array(6)
const led = new Float64Array(3)
const near = new Float64Array(NEAR_SIZE)
/** How far the face of the answer lies below the surface: its points are as far from where they should be, or farther. */
const loose = new Float64Array(1)
/** Cosines of the eight directions. */
const OCTANT = [1, Math.SQRT1_2, 0, -Math.SQRT1_2, -1, -Math.SQRT1_2, 0, Math.SQRT1_2]

/**
 * The depth of two cores that `nearest` found to overlap, or to be nearer than rounding. Right after it: it goes on from its
 * simplex.
 * @param found what `nearest` gave: the size of all is read from it
 */
export function depthOf(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  found: Float64Array,
  out: Float64Array,
): void {
  const count = simplex.count
  const scale = found[NEAR_SCALE]
  extent[0] = scale
  if (!begin(p, a, q, b, shift)) {
    answerFlat(p, a, q, b, shift, out)
    return
  }
  out[DEPTH] = Infinity
  loose[0] = 0
  const isFound = search(p, a, q, b, shift, ANY, MAX_CORNERS, CONTENT, out)
  if (out[DEPTH] === Infinity) answerFlat(p, a, q, b, shift, out)
  else if (!isFound) searchOn(p, a, q, b, shift, out)
  // Where they only touch, the points are those that the search for the nearest found: a face's may lie beside it.
  if (out[DEPTH] <= TOUCH * scale && count < 4) blendOrigin(out)
  else if (loose[0] > CONTENT * scale) pointsAlong(p, a, q, b, shift, out)
}

/**
 * Grows the polytope at its nearest face within an angle of `about` and keeps the best answer. True when that face lies on the
 * surface: nothing there is less deep.
 * @param cos cosine of the angle
 * @param room corners, at most
 * @param enough part of the size of all by which the face may still be outdone
 */
function search(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  cos: number,
  room: number,
  enough: number,
  out: Float64Array,
): boolean {
  for (;;) {
    const face = nearestFace(about, cos)
    if (face < 0) return false
    for (let i = 0; i < 3; i++) dir[i] = facePlanes[4 * face + i]
    farthest(p, a, q, b, shift)
    const beyond = reach[0] - facePlanes[4 * face + 3]
    if (reach[0] < out[DEPTH]) loose[0] = answer(face, out) ? beyond : Infinity
    if (beyond <= enough * extent[0]) return true
    if (polytope.corners >= room || !grow(face)) return false
  }
}

/** Goes on around the lowest ways that are known, when the polytope has no room for more corners. */
function searchOn(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): void {
  wayCount = 0
  for (let face = 0; face < polytope.faces; face++) {
    if (facePlanes[4 * face + 3] >= out[DEPTH]) continue
    for (let i = 0; i < 3; i++) dir[i] = facePlanes[4 * face + i]
    farthest(p, a, q, b, shift)
    addWay(reach[0], facePlanes[4 * face + 3])
  }
  // Of discs and boxes the flat sides are known.
  for (let side = 0; side < 2; side++) {
    const core = side === 0 ? p : q
    const at = side === 0 ? a : b
    const axes = core[at] === BOX ? 3 : core[at] === CYLINDER || core[at] === CONE ? 1 : 0
    for (let k = 0; k < 2 * axes; k++) {
      for (let i = 0; i < 3; i++) dir[i] = (k & 1 ? -1 : 1) * core[at + BODY + 3 + 3 * (k >> 1) + i]
      farthest(p, a, q, b, shift)
      addWay(reach[0], reach[0])
    }
  }
  let kept = loose[0]
  for (let start = 0; start < STARTS; start++) {
    const from = leastElsewhere(start, out)
    if (from < 0) break
    for (let i = 0; i < 3; i++) begun[3 * start + i] = ways[from + i]
    for (let i = 0; i <= DEPTH; i++) way[i] = ways[from + i]
    searchCloser(p, a, q, b, shift, false)
    searchCloser(p, a, q, b, shift, true)
    if (way[DEPTH] >= out[DEPTH]) continue
    for (let i = 0; i <= DEPTH; i++) out[i] = way[i]
    kept = Infinity
  }
  loose[0] = kept
}

function addWay(depth: number, bound: number): void {
  for (let i = 0; i < 3; i++) ways[WAY_SIZE * wayCount + i] = dir[i]
  ways[WAY_SIZE * wayCount + DEPTH] = depth
  ways[WAY_SIZE * wayCount + BOUND] = bound
  wayCount++
}

/** Where the lowest way is that leads elsewhere than those begun with so far, and may come below `out`; -1 when there is none. */
function leastElsewhere(starts: number, out: Float64Array): number {
  let best = -1
  for (let at = 0; at < WAY_SIZE * wayCount; at += WAY_SIZE) {
    if (best >= 0 && ways[at + DEPTH] >= ways[best + DEPTH]) continue
    if (starts > 0 && ways[at + BOUND] >= out[DEPTH]) continue
    let same = false
    for (let k = 0; k < 3 * starts; k += 3) {
      if (ways[at] * begun[k] + ways[at + 1] * begun[k + 1] + ways[at + 2] * begun[k + 2] > SAME) same = true
    }
    if (!same) best = at
  }
  return best
}

/**
 * Betters `way` by polytopes about a direction, each of corners that lie closer around: about the best that was found; or about
 * the nearest face, which may hide better ones, as where the way is the same all around an axis.
 */
function searchCloser(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  byFace: boolean,
): void {
  let angle = WIDE
  for (let i = 0; i < 3; i++) about[i] = way[i]
  for (let round = 0; round < ROUNDS && angle > CLOSE; round++) {
    beginAgain()
    addCornersAbout(p, a, q, b, shift, angle)
    // The cosine, near enough, and the same on every machine.
    const cos = 1 - (angle * angle) / 2
    if (search(p, a, q, b, shift, cos, CORNERS, NEARLY, way)) return
    const face = byFace ? nearestFace(about, cos) : -1
    // No face hides anything better.
    if (byFace && (face < 0 || facePlanes[4 * face + 3] >= way[DEPTH] - NEARLY * extent[0])) return
    let turned = 0
    for (let i = 0; i < 3; i++) {
      const next = byFace ? facePlanes[4 * face + i] : way[i]
      turned += next * about[i]
      about[i] = next
    }
    // What lies near the rim of what was searched may go on beyond it.
    if (byFace || turned > 1 - (angle * angle) / 8) angle /= CLOSER
  }
}

/** Takes in the farthest corners along `about` and along directions that lean from it by an angle. */
function addCornersAbout(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  angle: number,
): void {
  acrossAbout()
  for (let k = -1; k < 8; k++) {
    const u = k < 0 ? 0 : angle * OCTANT[k]
    const v = k < 0 ? 0 : angle * OCTANT[(k + 6) % 8]
    for (let i = 0; i < 3; i++) dir[i] = about[i] + u * across[i] + v * across[3 + i]
    farthest(p, a, q, b, shift)
    const face = faceBelow()
    if (face >= 0) grow(face)
  }
}

/** Two unit directions across `about`, into `across`. */
function acrossAbout(): void {
  const [x, y, z] = about
  // Across it and that axis which is farthest from it.
  const least = Math.abs(x) < 0.6 ? 0 : 1
  const length = Math.sqrt(least === 0 ? y * y + z * z : x * x + z * z)
  across[0] = least === 0 ? 0 : -z / length
  across[1] = least === 0 ? z / length : 0
  across[2] = least === 0 ? -y / length : x / length
  across[3] = y * across[2] - z * across[1]
  across[4] = z * across[0] - x * across[2]
  across[5] = x * across[1] - y * across[0]
}

/** The points where the way out ends: led out along it and a little more, the cores have nearest points. */
function pointsAlong(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): void {
  const far = out[DEPTH] + APART * extent[0]
  for (let i = 0; i < 3; i++) led[i] = shift[i] - far * out[DEPTH_NORMAL + i]
  if (!nearest(p, a, q, b, led, near)) return
  for (let i = 0; i < 3; i++) {
    out[DEPTH_A + i] = near[NEAR_A + i] + far * out[DEPTH_NORMAL + i]
    out[DEPTH_B + i] = near[NEAR_B + i]
  }
}

/**
 * Writes a face as the way out, as deep as was found last: where the origin's foot lies on it are the points. False where the foot lies beside it, as of
 * two triangles in one plane it does of the one.
 */
function answer(face: number, out: Float64Array): boolean {
  for (let i = 0; i < 3; i++) out[DEPTH_NORMAL + i] = dir[i]
  out[DEPTH] = reach[0]
  const i = 3 * faceCorners[3 * face]
  const j = 3 * faceCorners[3 * face + 1]
  const k = 3 * faceCorners[3 * face + 2]
  const d = facePlanes[4 * face + 3]
  for (let axis = 0; axis < 3; axis++) foot[axis] = dir[axis] * d
  // Weights by areas, each kept from below 0.
  measurePart(0, j, k)
  measurePart(1, k, i)
  measurePart(2, i, j)
  let u = parts[0]
  let w = parts[1]
  let t = parts[2]
  const least = u < w ? (u < t ? u : t) : w < t ? w : t
  if (u < 0) u = 0
  if (w < 0) w = 0
  if (t < 0) t = 0
  const sum = u + w + t
  const own = sum > 0 ? 1 / sum : 0
  if (sum <= 0) u = w = t = 1 / 3
  else {
    u *= own
    w *= own
    t *= own
  }
  for (let axis = 0; axis < 3; axis++) {
    out[DEPTH_A + axis] = u * onA[i + axis] + w * onA[j + axis] + t * onA[k + axis]
    out[DEPTH_B + axis] = u * onB[i + axis] + w * onB[j + axis] + t * onB[k + axis]
  }
  return least >= -BESIDE * sum
}

/** The foot of the origin on a face, and twice the areas of the triangles that it makes with the edges. */
const foot = new Float64Array(3)
const parts = new Float64Array(3)

/** Writes twice the area of the triangle of two corners and {@link foot}, as seen along `dir`. */
function measurePart(to: number, i: number, k: number): void {
  const x = foot[0]
  const y = foot[1]
  const z = foot[2]
  const ex = corners[i] - x
  const ey = corners[i + 1] - y
  const ez = corners[i + 2] - z
  const fx = corners[k] - x
  const fy = corners[k + 1] - y
  const fz = corners[k + 2] - z
  parts[to] = dir[0] * (ey * fz - ez * fy) + dir[1] * (ez * fx - ex * fz) + dir[2] * (ex * fy - ey * fx)
}

/** The difference has no volume and holds the origin: the way out is across it, and of no length. */
function answerFlat(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): void {
  acrossCorners()
  for (let i = 0; i < 3; i++) out[DEPTH_NORMAL + i] = dir[i]
  farthest(p, a, q, b, shift)
  out[DEPTH] = reach[0]
  for (let i = 0; i < 3; i++) dir[i] = -dir[i]
  farthest(p, a, q, b, shift)
  if (reach[0] < out[DEPTH]) {
    out[DEPTH] = reach[0]
    for (let i = 0; i < 3; i++) out[DEPTH_NORMAL + i] = dir[i]
  }
  // Where they cross: the weights of the simplex that held the origin.
  blendOrigin(out)
}

/** The points of A and B that the simplex puts at the origin. */
export function blendOrigin(out: Float64Array): void {
  const { count } = simplex
  let sum = 0
  for (let k = 0; k < count; k++) sum += WEIGHTS[k]
  for (let axis = 0; axis < 3; axis++) {
    let sumA = 0
    let sumB = 0
    for (let k = 0; k < count; k++) {
      const weight = sum > 0 ? WEIGHTS[k] : 1 / count
      sumA += weight * WA[3 * k + axis]
      sumB += weight * WB[3 * k + axis]
    }
    out[DEPTH_A + axis] = sumA
    out[DEPTH_B + axis] = sumB
  }
}
