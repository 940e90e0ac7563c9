/**
 * A moving convex piece against a piece that stands still. Straight motion is a ray against the difference of the two
 * (Minkowski), which is again a convex core grown by a radius, so it is as exact as a ray. Turning motion advances
 * conservatively (Mirtich, 1996): it stops on the near side, at most {@link CLOSE} away.
 */

import { cosSin } from '../../core/util/maths.ts'
import { CONVEX, COUNT, HEAD, KIND, PLANE } from '../shapes/layout.ts'
import { placeInto } from '../shapes/place.ts'
import { ROUNDING } from './graze.ts'
import { gapOfPieces } from './pair.ts'
import { rayAgainst } from './ray.ts'
import { DISTANCE, FRACTION, GAP_SIZE, HIT, INSIDE, MISS, NORMAL, POINT_B, RAY_NORMAL } from './records.ts'

/** Metres from the target at which a turning cast is content. */
const CLOSE = 1e-9
/** Where the steps have become tiny, the cast grazes the surface: metres from it within which that counts as met. */
const GRAZE = 1e-6
/** Steps after which a cast is taken to graze; and after which it is given up as having met. */
const MANY_STEPS = 2000
const MAX_STEPS = 50_000

/** Places in a cast record: fraction, normal towards the asker, point on the target, depth at a start inside. */
export const CAST_POINT = 3
export const CAST_DEPTH = 5
export const CAST_SIZE = 6

let difference = new Float64Array(HEAD + 65)
let moved = new Float64Array(HEAD + 33)
const record = new Float64Array(GAP_SIZE)
const ray = new Float64Array(6)
/** The pose of the asker: x, y, angle, cos, sin. */
const pose = new Float64Array(5)

/**
 * @param p, a, an the moving piece where it starts
 * @param q, b, bn, bKind the target
 * @param dx, dy the motion: `line[2]`, `line[3]`
 * @param out a cast record
 * @returns MISS, HIT or INSIDE
 */
export function castAgainst(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  line: Float64Array,
  out: Float64Array,
): number {
  const kind = q[b + KIND] === PLANE ? castPlane(p, a, q, b, line, out) : castConvex(p, a, q, b, line, out)
  if (kind <= MISS) return MISS
  const dx = line[2] * out[FRACTION]
  const dy = line[3] * out[FRACTION]
  copyMoved(p, a, dx, dy)
  finish(q, b, kind === INSIDE, out)
  return kind
}

function castConvex(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  line: Float64Array,
  out: Float64Array,
): number {
  const an = p[a + COUNT] | 0
  const bn = q[b + COUNT] | 0
  if (difference.length < HEAD + 1 + 2 * (an + bn)) difference = new Float64Array(HEAD + 2 + 4 * (an + bn))
  subtract(p, a, q, b, difference)
  ray[0] = 0
  ray[1] = 0
  ray[2] = line[2]
  ray[3] = line[3]
  ray[5] = 0
  addRounding(p, a, ray, 5)
  addRounding(q, b, ray, 5)
  out[FRACTION] = 1
  return rayAgainst(difference, HEAD, ray, out)
}

/** Adds lengths by which the corners of a piece in the world may be wrong; of a plane, its offset. */
function addRounding(p: Float64Array, a: number, out: Float64Array, at: number): void {
  const n = p[a + KIND] === PLANE ? 0 : p[a + COUNT] | 0
  let most = 0
  for (let i = a + 1; i <= a + 2 * n; i++) {
    if (p[i] > most) most = p[i]
    else if (-p[i] > most) most = -p[i]
  }
  out[at] += ROUNDING * (most + Math.abs(p[a]))
}

const rounding = new Float64Array(1)

function castPlane(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  line: Float64Array,
  out: Float64Array,
): number {
  gapOfPieces(p, a, q, b, record)
  const away = record[DISTANCE]
  const speed = line[2] * q[b + 1] + line[3] * q[b + 2]
  out[FRACTION] = 0
  out[RAY_NORMAL] = q[b + 1]
  out[RAY_NORMAL + 1] = q[b + 2]
  if (line[2] === 0 && line[3] === 0) return away < 0 ? INSIDE : away === 0 ? HIT : MISS
  // On the surface, to rounding, nothing but the direction counts.
  rounding[0] = 0
  addRounding(p, a, rounding, 0)
  addRounding(q, b, rounding, 0)
  const slack = 2 * rounding[0]
  if (away < -slack) return INSIDE
  if (speed >= 0 || away > -speed) return MISS
  if (away > slack) out[FRACTION] = -away / speed
  else if (-speed <= ROUNDING * (Math.abs(line[2]) + Math.abs(line[3]))) return MISS
  return HIT
}

/** Copies a piece to `moved`, at another place. */
function copyMoved(p: Float64Array, a: number, dx: number, dy: number): void {
  const n = p[a + COUNT] | 0
  reserveMoved(n)
  moved[HEAD + KIND] = p[a + KIND]
  moved[HEAD + COUNT] = n
  moved[HEAD] = p[a]
  for (let i = 1; i <= 2 * n; i += 2) {
    moved[HEAD + i] = p[a + i] + dx
    moved[HEAD + i + 1] = p[a + i + 1] + dy
  }
}

function reserveMoved(points: number): void {
  if (moved.length < HEAD + 1 + 2 * points) moved = new Float64Array(HEAD + 2 + 4 * points)
}

/** The point on the target that `moved` has hit; at a start inside the way out and its depth. */
function finish(q: Float64Array, b: number, inside: boolean, out: Float64Array): void {
  gapOfPieces(moved, HEAD, q, b, record)
  out[CAST_POINT] = record[POINT_B]
  out[CAST_POINT + 1] = record[POINT_B + 1]
  out[CAST_DEPTH] = 0
  if (!inside) return
  out[RAY_NORMAL] = -record[NORMAL]
  out[RAY_NORMAL + 1] = -record[NORMAL + 1]
  out[CAST_DEPTH] = record[DISTANCE] < 0 ? -record[DISTANCE] : 0
}

/**
 * The core of "second minus first" with both radii, as a block on its own: merges the edges of the two cores by their
 * direction, counter-clockwise.
 */
function subtract(p: Float64Array, a: number, q: Float64Array, b: number, out: Float64Array): void {
  const an = p[a + COUNT] | 0
  const bn = q[b + COUNT] | 0
  out[HEAD + KIND] = CONVEX
  out[HEAD] = p[a] + q[b]
  // Lowest point of each, of several the leftmost; of the first it is the highest, since it is mirrored.
  let i0 = 0
  for (let i = 1; i < an; i++) {
    const dy = p[a + 2 + 2 * i] - p[a + 2 + 2 * i0]
    if (dy > 0 || (dy === 0 && p[a + 1 + 2 * i] > p[a + 1 + 2 * i0])) i0 = i
  }
  let j0 = 0
  for (let j = 1; j < bn; j++) {
    const dy = q[b + 2 + 2 * j] - q[b + 2 + 2 * j0]
    if (dy < 0 || (dy === 0 && q[b + 1 + 2 * j] < q[b + 1 + 2 * j0])) j0 = j
  }
  const aEdges = an === 1 ? 0 : an
  const bEdges = bn === 1 ? 0 : bn
  let n = 0
  let i = 0
  let j = 0
  for (;;) {
    const ai = a + 1 + 2 * ((i0 + i) % an)
    const bj = b + 1 + 2 * ((j0 + j) % bn)
    out[HEAD + 1 + 2 * n] = q[bj] - p[ai]
    out[HEAD + 2 + 2 * n] = q[bj + 1] - p[ai + 1]
    if (i >= aEdges && j >= bEdges) break
    n++
    const an1 = a + 1 + 2 * ((i0 + i + 1) % an)
    const bn1 = b + 1 + 2 * ((j0 + j + 1) % bn)
    const ax = p[ai] - p[an1]
    const ay = p[ai + 1] - p[an1 + 1]
    const bx = q[bn1] - q[bj]
    const by = q[bn1 + 1] - q[bj + 1]
    if (i >= aEdges) j++
    else if (j >= bEdges) i++
    else {
      const turn = ax * by - ay * bx
      // Parallel edges of the same direction become one; of opposite directions the upper half comes first.
      const same = ax * bx + ay * by > 0
      if (turn === 0 && same) {
        i++
        j++
      } else if (turn > 0 || (turn === 0 && comesFirst(ax, ay, bx, by))) i++
      else j++
    }
  }
  out[HEAD + COUNT] = n === 0 ? 1 : n
}

/** Whether an edge belongs to the half that is walked first from the lowest, leftmost point. */
function upper(x: number, y: number): boolean {
  return y > 0 || (y === 0 && x > 0)
}

/**
 * Which of two opposite edges is walked first. Both lie in one half where an edge is so nearly level that its products vanish: then they
 * lie at the two ends of that half.
 */
function comesFirst(ax: number, ay: number, bx: number, by: number): boolean {
  const first = upper(ax, ay)
  if (first !== upper(bx, by)) return first
  return first ? ax > bx : ax < bx
}

/**
 * A turning cast. `body` is the moving piece about the asker's origin.
 * @param turning start x, y, motion x, y, start angle, whole turn
 */
export function turnAgainst(
  body: Float64Array,
  q: Float64Array,
  b: number,
  turning: Float64Array,
  out: Float64Array,
): number {
  reserveMoved(body[COUNT + HEAD] | 0)
  const reach = reachOfCore(body)
  // What is round about its origin goes straight.
  if (reach === 0) {
    poseAt(body, turning, 0)
    return castAgainst(moved, HEAD, q, b, turning, out)
  }
  const dx = turning[2]
  const dy = turning[3]
  const spin = Math.abs(turning[5]) * reach
  let t = 0
  for (let step = 0; ; step++) {
    poseAt(body, turning, t)
    gapOfPieces(moved, HEAD, q, b, record)
    const left = record[DISTANCE]
    if (t === 0) {
      rounding[0] = 0
      addRounding(moved, HEAD, rounding, 0)
      addRounding(q, b, rounding, 0)
    }
    if (t === 0 && left < -rounding[0]) {
      write(0, out)
      out[CAST_DEPTH] = -left
      return INSIDE
    }
    const closing = dx * record[NORMAL] + dy * record[NORMAL + 1] + spin
    if (left <= CLOSE || (step >= MANY_STEPS && left <= GRAZE) || step === MAX_STEPS) {
      if (t > 0 || !leaves(body, q, b, turning, left)) {
        write(t, out)
        return HIT
      }
      // On the surface and moving off it: go on from a little further.
      t = NUDGE
      continue
    }
    if (closing <= 0) return MISS
    const even = left / closing
    if (t + even > 1) return MISS
    tilted[STEP] = 1 - t
    tilted[CURVE] = Math.abs(turning[5]) * spin
    lengthenStep(turning)
    const further = t + (tilted[STEP] > even ? tilted[STEP] : even)
    if (further >= 1) return MISS
    t = further === t ? t + 1e-16 : further
  }
}

/** Steps by tangents, at most, and the part of a step up to which the two sides may differ. */
const TANGENTS = 6
const NARROW = 0.02
/** Places in what is known of a step: its length, what is left after it, how fast that grows, and what both are made of. */
const STEP = 0
const LEFT = 1
const SLOPE = 2
const START = 3
const CLOSING = 4
const CURVE = 5
const tilted = new Float64Array(6)

/** How far the outermost core point lies from the asker's origin: a radius goes along with its core. 0 to rounding is 0. */
function reachOfCore(body: Float64Array): number {
  const last = HEAD + 2 * (body[HEAD + COUNT] | 0)
  let square = 0
  for (let k = HEAD + 1; k < last; k += 2) {
    const here = body[k] * body[k] + body[k + 1] * body[k + 1]
    if (here > square) square = here
  }
  const reach = Math.sqrt(square)
  return reach > 1e-15 * body[HEAD] ? reach : 0
}

/**
 * Writes how far a turning piece, as it stands in `moved` with its gap in `record`, can go on before it may come to the line
 * across its gap: the step in `tilted`, which holds the part of the motion that is left when it begins. Of a turn by h w a point
 * at r moves by h w across r, and beyond that by no more than (h w)² |r| / 2; so the farthest of all along the normal n is that
 * along n tilted by h w, and what is left of the gap is a concave function of h. Its root is bracketed: from below
 * by chords, from above by tangents.
 */
function lengthenStep(turning: Float64Array): void {
  const gap = record[DISTANCE]
  tilted[START] = 0
  tilted[CLOSING] = turning[2] * record[NORMAL] + turning[3] * record[NORMAL + 1]
  const most = tilted[STEP]
  tilted[STEP] = 0
  leftAfter(turning)
  // After no step all is left: that tells how far the core reaches along the normal now.
  tilted[START] = gap - tilted[LEFT]
  let low = 0
  let lowLeft = gap
  tilted[STEP] = most
  leftAfter(turning)
  for (let round = 0; round < TANGENTS && tilted[LEFT] < 0; round++) {
    const high = tilted[STEP]
    const left = tilted[LEFT]
    const tangent = high - left / tilted[SLOPE]
    low += (lowLeft * (high - low)) / (lowLeft - left)
    tilted[STEP] = low
    if (!(tangent > low) || tangent - low < NARROW * low) return
    leftAfter(turning)
    lowLeft = tilted[LEFT]
    // By rounding alone.
    if (lowLeft <= 0) return
    tilted[STEP] = tangent
    leftAfter(turning)
  }
  if (tilted[LEFT] < 0) tilted[STEP] = low
}

/** Writes what is left of the gap after the step in `tilted`, at least, and how fast it becomes less there. */
function leftAfter(turning: Float64Array): void {
  const last = HEAD + 2 * (moved[HEAD + COUNT] | 0)
  const h = tilted[STEP]
  const tiltX = turning[5] * record[NORMAL + 1]
  const tiltY = -turning[5] * record[NORMAL]
  const x = record[NORMAL] + h * tiltX
  const y = record[NORMAL + 1] + h * tiltY
  let reach = -Infinity
  let slope = 0
  for (let k = HEAD + 1; k < last; k += 2) {
    const rx = moved[k] - pose[0]
    const ry = moved[k + 1] - pose[1]
    const here = x * rx + y * ry
    if (here <= reach) continue
    reach = here
    slope = tiltX * rx + tiltY * ry
  }
  tilted[LEFT] = tilted[START] - reach - h * tilted[CLOSING] - (h * h * tilted[CURVE]) / 2
  tilted[SLOPE] = -slope - tilted[CLOSING] - h * tilted[CURVE]
}

/** Part of the motion after which a start on the surface is checked again. */
const NUDGE = 1e-6

/** Whether the gap has grown a little after the start. */
function leaves(body: Float64Array, q: Float64Array, b: number, turning: Float64Array, before: number): boolean {
  poseAt(body, turning, NUDGE)
  gapOfPieces(moved, HEAD, q, b, record)
  const grown = record[DISTANCE] >= before
  poseAt(body, turning, 0)
  gapOfPieces(moved, HEAD, q, b, record)
  return grown
}

function poseAt(body: Float64Array, turning: Float64Array, t: number): void {
  pose[0] = turning[0] + turning[2] * t
  pose[1] = turning[1] + turning[3] * t
  pose[2] = turning[4] + turning[5] * t
  cosSin(pose, 2)
  placeInto(body, HEAD, pose, moved, HEAD)
}

function write(t: number, out: Float64Array): void {
  out[FRACTION] = t
  out[RAY_NORMAL] = -record[NORMAL]
  out[RAY_NORMAL + 1] = -record[NORMAL + 1]
  out[CAST_POINT] = record[POINT_B]
  out[CAST_POINT + 1] = record[POINT_B + 1]
  out[CAST_DEPTH] = 0
}
