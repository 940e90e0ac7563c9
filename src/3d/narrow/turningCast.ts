/**
 * A convex piece that turns on its way, against another that stands still. It advances conservatively (Mirtich, 1996): each step
 * goes as far as surely nothing is met, and the last stops on the near side, at most {@link CLOSE} away.
 */

import { BODY, BOX, CONE, CYLINDER, PLANE, POINT_COUNT, RADIUS } from '../shapes/layout.ts'
import { placeInto } from '../shapes/place.ts'
import { FRAME, multiply, normalise, POSE_SIZE, writeFrame, writeTurn } from '../vector.ts'
import { gap, HERE, roundingOf } from './gap.ts'
import {
  DISTANCE,
  FRACTION,
  GAP_SIZE,
  HIT,
  INSIDE,
  MISS,
  NORMAL,
  TURN_BY,
  TURN_FROM,
  TURN_MOTION,
  TURN_START,
} from './records.ts'
import { finish } from './straightCast.ts'
import { forget, support } from './support.ts'

/** Metres from the target at which it is content. */
const CLOSE = 1e-9
/** Where the steps have become tiny, it grazes the surface: metres from it within which that counts as met. */
const GRAZE = 1e-6
/** Steps after which it is taken to graze; and after which it is given up as having met. */
const MANY_STEPS = 2000
const MAX_STEPS = 20_000
/** Part of the motion after which a start on the surface is checked again. */
const NUDGE = 1e-6

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
const GAP = 6
const POINTS_CARRIED = 7
const SPIN = 8
/** Part of its size by which a shape is carried that is round about the axis, to rounding. */
const ROUND = 1e-15

const record = new Float64Array(GAP_SIZE)
let moved = new Float64Array(64)
/** The part of the motion that is checked. */
const time = new Float64Array(1)
const tilted = new Float64Array(9)
const corner = new Float64Array(3)
const tilt = new Float64Array(3)
const towards = new Float64Array(3)
const farPoint = new Float64Array(3)
const nearPoint = new Float64Array(3)
const pose = new Float64Array(POSE_SIZE)
const partly = new Float64Array(4)
const turned = new Float64Array(3)

/** Writes a piece as it is at the part of a turning motion that stands in `time`. */
function poseAt(body: Float64Array, turning: Float64Array): void {
  const t = time[0]
  if (moved.length < body.length) moved = new Float64Array(2 * body.length)
  for (let i = 0; i < 3; i++) {
    pose[i] = turning[TURN_START + i] + t * turning[TURN_MOTION + i]
    turned[i] = t * turning[TURN_BY + i]
  }
  writeTurn(turned, 0, partly, 0)
  multiply(partly, 0, turning, TURN_FROM, partly, 0)
  normalise(partly, 0)
  writeFrame(partly, 0, pose, FRAME)
  placeInto(body, 0, pose, 0, pose, FRAME, moved, 0)
}

/** The gap at the part of the motion in `time`. */
function gapAt(body: Float64Array, turning: Float64Array, q: Float64Array, b: number): void {
  poseAt(body, turning)
  gap(moved, 0, q, b, HERE, record)
}

/**
 * The piece, given about the asker's origin, as it starts; null where it turns.
 * What is round about the axis of the turn goes straight.
 */
export function startIfRound(body: Float64Array, turning: Float64Array): Float64Array | null {
  time[0] = 0
  poseAt(body, turning)
  writeCarried(turning)
  return tilted[SPIN] === 0 ? moved : null
}

/**
 * Writes how fast the turn carries the piece in `moved`: the farthest of its points, and the piece as a shape. A radius goes
 * along with its core, and what is round about the axis stays where it is.
 */
function writeCarried(turning: Float64Array): void {
  const bx = turning[TURN_BY]
  const by = turning[TURN_BY + 1]
  const bz = turning[TURN_BY + 2]
  const kind = moved[0]
  const round = kind === CYLINDER || kind === CONE
  const count = round ? 1 : kind === BOX ? 8 : moved[POINT_COUNT]
  const turn = Math.sqrt(bx * bx + by * by + bz * bz)
  let most = 0
  let size = moved[RADIUS]
  for (let k = 0; k < count; k++) {
    const at = kind === BOX ? BODY : BODY + 3 * k
    for (let i = 0; i < 3; i++) corner[i] = moved[at + i] - pose[i]
    if (kind === BOX) {
      for (let axis = 0; axis < 3; axis++) {
        const half = (k >> axis) & 1 ? moved[BODY + 12 + axis] : -moved[BODY + 12 + axis]
        for (let i = 0; i < 3; i++) corner[i] += half * moved[BODY + 3 + 3 * axis + i]
      }
    }
    most = Math.max(most, across(bx, by, bz, corner[0], corner[1], corner[2]))
    for (let i = 0; i < 3; i++) size = Math.max(size, Math.abs(corner[i]))
  }
  tilted[POINTS_CARRIED] = tilted[SPIN] = most
  if (round) {
    const halfHeight = moved[BODY + 6]
    const disc = moved[BODY + 7]
    const lean = across(bx, by, bz, moved[BODY + 3], moved[BODY + 4], moved[BODY + 5])
    tilted[POINTS_CARRIED] += lean * halfHeight + turn * disc
    tilted[SPIN] += lean * Math.sqrt(halfHeight * halfHeight + disc * disc)
    size += halfHeight + disc
  }
  if (tilted[SPIN] <= ROUND * turn * size) tilted[SPIN] = 0
}

/** The length of a cross product. */
function across(bx: number, by: number, bz: number, x: number, y: number, z: number): number {
  const cx = by * z - bz * y
  const cy = bz * x - bx * z
  const cz = bx * y - by * x
  return Math.sqrt(cx * cx + cy * cy + cz * cz)
}

/**
 * A turning cast of a convex piece against another (or against a plane); right after {@link startIfRound} of the same piece.
 * @param out a cast record; beyond its fraction nothing counts
 */
export function turnConvex(
  body: Float64Array,
  q: Float64Array,
  b: number,
  turning: Float64Array,
  out: Float64Array,
): number {
  const limit = out[FRACTION]
  const dx = turning[TURN_MOTION]
  const dy = turning[TURN_MOTION + 1]
  const dz = turning[TURN_MOTION + 2]
  const spin = tilted[SPIN]
  time[0] = 0
  for (let step = 0; ; step++) {
    gapAt(body, turning, q, b)
    const t = time[0]
    const left = record[DISTANCE]
    if (t === 0 && left < -roundingOf(moved, 0, q, b, HERE, record)) return finish(record, 0, INSIDE, out)
    const closing = dx * record[NORMAL] + dy * record[NORMAL + 1] + dz * record[NORMAL + 2] + spin
    if (left <= CLOSE || (step >= MANY_STEPS && left <= GRAZE) || step === MAX_STEPS) {
      if (t > 0 || !leaves(body, q, b, turning, left)) return finish(record, t, HIT, out)
      // On the surface and moving off it: go on from a little further.
      time[0] = NUDGE
      continue
    }
    if (closing <= 0) return MISS
    const even = left / closing
    if (t + even > limit) return MISS
    // To its end, not to the limit: the same steps are taken whatever else was met.
    tilted[STEP] = 1 - t
    lengthenStep(q, b, turning)
    const further = t + (tilted[STEP] > even ? tilted[STEP] : even)
    if (further > limit || further >= 1) return MISS
    time[0] = further === t ? t + 1e-16 : further
  }
}

/**
 * Writes how far a turning piece, as it stands in `moved` with its gap in `record`, can go on before it may come to the plane
 * across its gap: the step in `tilted`, which holds the part of the motion that is left when it begins. Of a turn by h about ω a
 * point at r moves by h ω x r, and beyond that by no more than h² |ω| |ω x r| / 2; so the farthest of all along the normal n is
 * that along n + h n x ω, and what is left of the gap is a concave function of h. Its root is bracketed: from below
 * by chords, from above by tangents.
 */
function lengthenStep(q: Float64Array, b: number, turning: Float64Array): void {
  const nx = record[NORMAL]
  const ny = record[NORMAL + 1]
  const nz = record[NORMAL + 2]
  const bx = turning[TURN_BY]
  const by = turning[TURN_BY + 1]
  const bz = turning[TURN_BY + 2]
  tilt[0] = ny * bz - nz * by
  tilt[1] = nz * bx - nx * bz
  tilt[2] = nx * by - ny * bx
  forget()
  for (let i = 0; i < 3; i++) towards[i] = record[NORMAL + i]
  tilted[GAP] = record[DISTANCE]
  support(moved, 0, towards, 1, farPoint, 0, 0)
  tilted[START] = 0
  tilted[CLOSING] = 0
  tilted[CURVE] = Math.sqrt(bx * bx + by * by + bz * bz) * tilted[POINTS_CARRIED]
  for (let i = 0; i < 3; i++) {
    tilted[START] += record[NORMAL + i] * (farPoint[i] - pose[i])
    tilted[CLOSING] += record[NORMAL + i] * turning[TURN_MOTION + i]
  }
  if (q[b] !== PLANE) {
    // Of a normal with few digits the two are not as far apart along it.
    let along = -q[b + RADIUS] - moved[RADIUS]
    support(q, b, towards, -1, nearPoint, 0, 1)
    for (let i = 0; i < 3; i++) along += record[NORMAL + i] * (nearPoint[i] - pose[i])
    if (along - tilted[START] < tilted[GAP]) tilted[GAP] = along - tilted[START]
    if (tilted[GAP] <= 0) {
      tilted[STEP] = 0
      return
    }
  }
  let low = 0
  let lowLeft = tilted[GAP]
  leftAfter()
  for (let round = 0; round < TANGENTS && tilted[LEFT] < 0; round++) {
    const high = tilted[STEP]
    const left = tilted[LEFT]
    const tangent = high - left / tilted[SLOPE]
    low += (lowLeft * (high - low)) / (lowLeft - left)
    tilted[STEP] = low
    if (!(tangent > low) || tangent - low < NARROW * low) return
    leftAfter()
    lowLeft = tilted[LEFT]
    // By rounding alone.
    if (lowLeft <= 0) return
    tilted[STEP] = tangent
    leftAfter()
  }
  if (tilted[LEFT] < 0) tilted[STEP] = low
}

/** Writes what is left of the gap after the step in `tilted`, at least, and how fast it becomes less there. */
function leftAfter(): void {
  const h = tilted[STEP]
  for (let i = 0; i < 3; i++) towards[i] = record[NORMAL + i] + h * tilt[i]
  support(moved, 0, towards, 1, farPoint, 0, 0)
  let reach = 0
  let slope = 0
  for (let i = 0; i < 3; i++) {
    const r = farPoint[i] - pose[i]
    reach += towards[i] * r
    slope += tilt[i] * r
  }
  tilted[LEFT] = tilted[GAP] - (reach - tilted[START]) - h * tilted[CLOSING] - (h * h * tilted[CURVE]) / 2
  tilted[SLOPE] = -slope - tilted[CLOSING] - h * tilted[CURVE]
}

/** Whether the gap has grown a little after the start. Keeps the record of the start. */
function leaves(body: Float64Array, q: Float64Array, b: number, turning: Float64Array, before: number): boolean {
  time[0] = NUDGE
  gapAt(body, turning, q, b)
  const grown = record[DISTANCE] >= before
  time[0] = 0
  gapAt(body, turning, q, b)
  return grown
}
