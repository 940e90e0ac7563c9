/**
 * A moving convex piece against a piece that stands still. On a straight way the distance of two convex shapes is a convex
 * function of the way, so a step to where its tangent comes to zero never goes too far (Newton's method, from one side):
 * between shapes with corners it ends after a few steps with the very features that meet. A turning motion advances
 * conservatively (Mirtich, 1996): it stops on the near side, at most {@link CLOSE} away.
 */
import { DONE } from '../../core/pieces.ts'
import { IntList } from '../../core/table.ts'
import { boundsOf, placeInto } from '../shapes/place.ts'
import { BODY, BOX, CONE, CYLINDER, PLANE, POINT_COUNT, RADIUS, SURFACE } from '../shapes/words.ts'
import { belongsToNeighbour } from '../surface/seams.ts'
import { boxInto, halfInto, lineInto, searchSurface, triangleInto } from '../surface/search.ts'
import type { Surface } from '../surface/surface.ts'
import { BoxWalk, LineWalk } from '../tree/walk.ts'
import { FRAME, multiply, normalise, POSE_SIZE, writeFrame, writeTurn } from '../vector.ts'
import { gap, meet, roundingOf } from './gap.ts'
import { forget, support } from './support.ts'
import {
  DISTANCE,
  FRACTION,
  GAP_SIZE,
  HIT,
  INSIDE,
  MISS,
  NORMAL,
  POINT_B,
  RAY_BACK,
  RAY_NORMAL,
  RAY_TRIANGLE,
  RAY_WEIGHTS,
} from './words.ts'

/** Metres from the target at which a turning cast is content. */
export const CLOSE = 1e-9
/** Where the steps have become tiny, the cast grazes the surface: metres from it within which that counts as met. */
const GRAZE = 1e-5
/** Steps after which a cast is taken to graze; and after which it is given up as having met. */
const MANY_STEPS = 500
const MAX_STEPS = 20_000
/** Part of the motion after which a start on the surface is looked at again. */
const NUDGE = 1e-6

/** Places in a cast record, behind those of a ray: point on the target, depth at a start inside. */
export const CAST_POINT = 9
export const CAST_DEPTH = 12
export const CAST_SIZE = 13

const record = new Float64Array(GAP_SIZE)
const shift = new Float64Array(3)
const normal = new Float64Array(3)
const triangle = new Float64Array(13)
const pieceRecord = new Float64Array(CAST_SIZE)

/**
 * A straight cast of one convex piece against another (or against a plane).
 * @param line its start and motion; only the motion is read
 * @param out a cast record; beyond its fraction nothing counts
 * @returns MISS, HIT or INSIDE
 */
function castConvex(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  line: Float64Array,
  out: Float64Array,
): number {
  const dx = line[3]
  const dy = line[4]
  const dz = line[5]
  const limit = out[FRACTION]
  measure(p, a, q, b, line, 0)
  if (record[DISTANCE] < 0) return finish(0, INSIDE, out)
  if (dx === 0 && dy === 0 && dz === 0) return record[DISTANCE] === 0 ? finish(0, HIT, out) : MISS
  let t = 0
  if (record[DISTANCE] === 0) {
    if (record[NORMAL] * dx + record[NORMAL + 1] * dy + record[NORMAL + 2] * dz <= 0) return MISS
    // On the surface: does it come nearer, or was it only this direction that said so?
    measure(p, a, q, b, line, NUDGE)
    const leaves = record[DISTANCE] >= 0
    if (!leaves) {
      measure(p, a, q, b, line, 0)
      return finish(0, HIT, out)
    }
    t = NUDGE
  }
  for (let step = 0; step < MANY_STEPS; step++) {
    const closing = record[NORMAL] * dx + record[NORMAL + 1] * dy + record[NORMAL + 2] * dz
    if (closing <= 0) return MISS
    const further = t + record[DISTANCE] / closing
    if (further > limit) return MISS
    if (further === t) break
    t = further
    for (let i = 0; i < 3; i++) normal[i] = record[NORMAL + i]
    measure(p, a, q, b, line, t)
    if (record[DISTANCE] > roundingOf(p, a, q, b, shift, record)) continue
    // The normal of the last place apart stays where rounding has carried it in.
    for (let i = 0; i < 3; i++) record[NORMAL + i] = normal[i]
    break
  }
  if (q[b] !== PLANE && grazes(p, a, q, b, line, roundingOf(p, a, q, b, shift, record))) return MISS
  return finish(t, HIT, out)
}

/**
 * Whether a straight way only grazes what it comes to: seen along the way, the two overlap by no more than rounding. What slides
 * over the seam of two boxes in one plane must not be held by it. A polygon of farthest points of their difference, seen so, is
 * grown at the side nearest to the origin, until the origin lies well inside of all, or a side lies on the rim.
 * @param rounding how far inside is none
 */
function grazes(p: Float64Array, a: number, q: Float64Array, b: number, line: Float64Array, rounding: number): boolean {
  writeAcross(line)
  forget()
  rimCorners = 0
  for (let third = 0; third < 3; third++) {
    towards2[0] = THIRDS[2 * third]
    towards2[1] = THIRDS[2 * third + 1]
    seeFarthest(p, a, q, b)
    if (towards2[2] <= rounding) return true
    insertCorner(rimCorners)
  }
  while (rimCorners < MAX_RIM) {
    let side = 0
    let least = Infinity
    for (let k = 0; k < rimCorners; k++) {
      const from = 2 * k
      const to = k + 1 === rimCorners ? 0 : from + 2
      const ex = rim[to] - rim[from]
      const ey = rim[to + 1] - rim[from + 1]
      const edge = Math.sqrt(ex * ex + ey * ey)
      const inside = (rim[from] * ey - rim[from + 1] * ex) / edge
      // Two corners in one place have no side.
      if (!(inside < least)) continue
      least = inside
      side = k
      towards2[0] = ey / edge
      towards2[1] = -ex / edge
    }
    if (least > rounding) return false
    seeFarthest(p, a, q, b)
    if (towards2[2] <= rounding) return true
    insertCorner(side + 1)
  }
  return false
}

/** Corners of the polygon that is seen along a way, at most. */
const MAX_RIM = 24
/** Three directions that are as far from each other as can be. */
const THIRDS = [1, 0, -0.5, 0.8660254, -0.5, -0.8660254]
const rim = new Float64Array(2 * MAX_RIM)
let rimCorners = 0
/** Two unit directions across a way. */
const seen = new Float64Array(6)
/** A direction as it is seen along the way, and how far the difference reaches along it; the farthest point. */
const towards2 = new Float64Array(3)
const farSeen = new Float64Array(2)
const farA = new Float64Array(3)
const farB = new Float64Array(3)

/** Writes two unit directions across a motion. */
function writeAcross(line: Float64Array): void {
  const x = line[3]
  const y = line[4]
  const z = line[5]
  const whole = Math.sqrt(x * x + y * y + z * z)
  // Across it and the axis that it leads least along, of two.
  const flat = Math.abs(x) < Math.abs(y) ? Math.sqrt(y * y + z * z) : Math.sqrt(x * x + z * z)
  seen[0] = Math.abs(x) < Math.abs(y) ? 0 : -z / flat
  seen[1] = Math.abs(x) < Math.abs(y) ? z / flat : 0
  seen[2] = Math.abs(x) < Math.abs(y) ? -y / flat : x / flat
  seen[3] = (y * seen[2] - z * seen[1]) / whole
  seen[4] = (z * seen[0] - x * seen[2]) / whole
  seen[5] = (x * seen[1] - y * seen[0]) / whole
}

/** Writes the farthest point of the difference along a direction across the way, and how far it is. */
function seeFarthest(p: Float64Array, a: number, q: Float64Array, b: number): void {
  for (let i = 0; i < 3; i++) towards[i] = towards2[0] * seen[i] + towards2[1] * seen[3 + i]
  support(p, a, towards, 1, farA, 0, 0)
  support(q, b, towards, -1, farB, 0, 1)
  const radius = p[a + RADIUS] + q[b + RADIUS]
  farSeen[0] = radius * towards2[0]
  farSeen[1] = radius * towards2[1]
  for (let i = 0; i < 3; i++) {
    const apart = farA[i] + shift[i] - farB[i]
    farSeen[0] += apart * seen[i]
    farSeen[1] += apart * seen[3 + i]
  }
  towards2[2] = farSeen[0] * towards2[0] + farSeen[1] * towards2[1]
}

/** Puts the farthest point among the corners of the polygon. */
function insertCorner(at: number): void {
  for (let k = 2 * rimCorners - 1; k >= 2 * at; k--) rim[k + 2] = rim[k]
  rim[2 * at] = farSeen[0]
  rim[2 * at + 1] = farSeen[1]
  rimCorners++
}

function measure(p: Float64Array, a: number, q: Float64Array, b: number, line: Float64Array, t: number): void {
  for (let i = 0; i < 3; i++) shift[i] = t * line[3 + i]
  gap(p, a, q, b, shift, record)
}

function finish(t: number, kind: number, out: Float64Array): number {
  out[FRACTION] = t
  for (let i = 0; i < 3; i++) {
    out[RAY_NORMAL + i] = -record[NORMAL + i]
    out[RAY_WEIGHTS + i] = 0
    out[CAST_POINT + i] = record[POINT_B + i]
  }
  out[RAY_TRIANGLE] = -1
  out[RAY_BACK] = 0
  out[CAST_DEPTH] = kind === INSIDE && record[DISTANCE] < 0 ? -record[DISTANCE] : 0
  return kind
}

/** What a cast goes along: the bounds of what moves, for the tree of a surface. */
export interface Moving {
  /** Start and motion of the middle of its bounds. */
  readonly line: Float64Array
  /** Half the size of what moves; of what turns, its reach in all directions. */
  readonly half: Float64Array
}

const ownLine = new Float64Array(6)
const ownHalf = new Float64Array(3)
const best = new Float64Array(1)
const alongTriangles = new LineWalk()
const aroundTriangles = new BoxWalk()

/**
 * A straight cast of a convex piece against any piece.
 * @param moving the bounds of what moves; read for surfaces only
 * @param out a cast record; it is read first: beyond its fraction nothing counts
 */
export function castAgainst(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  surface: Surface | null,
  line: Float64Array,
  moving: Moving,
  out: Float64Array,
): number {
  if (q[b] !== SURFACE) return castConvex(p, a, q, b, line, out)
  return overTriangles(p, a, null, surface!, q, b, line, moving, out)
}

/** Metres within which what starts on a surface rests on it; and the part of a motion along a plane that is none. */
const RESTS = 1e-9
const ALONG = 1e-9
const UNKNOWN = 2

/**
 * Whether a motion goes into the plane of the triangle that stands in `triangle`, from a side of the surface. If it does, the
 * normal of the hit becomes that of the plane: an inner edge by itself is no obstacle.
 */
function goesInto(line: Float64Array, side: number, hit: Float64Array): boolean {
  faceNormal()
  let into = 0
  let square = 0
  for (let i = 0; i < 3; i++) {
    into -= side * face[i] * line[3 + i]
    square += line[3 + i] * line[3 + i]
  }
  if (into <= ALONG * Math.sqrt(square)) return false
  for (let i = 0; i < 3; i++) hit[RAY_NORMAL + i] = side * face[i]
  return true
}

/** On which side of a surface a piece rests where it starts: 1 on the front, -1 on the back, 0 where it does not. */
function sideOf(p: Float64Array, a: number, surface: Surface, q: Float64Array, b: number): number {
  boundsOf(p, a, startBounds, 0, startBounds, 0)
  reach[0] = RESTS
  const index = gapToPiece(p, a, startBounds, 0, q, b, surface, reach, record)
  if (index < 0 || record[DISTANCE] > RESTS) return 0
  triangleInto(surface, index, q, b, triangle)
  faceNormal()
  // The gap's normal leads from the piece to the surface.
  return record[NORMAL] * face[0] + record[NORMAL + 1] * face[1] + record[NORMAL + 2] * face[2] < 0 ? 1 : -1
}

const face = new Float64Array(3)
const startBounds = new Float64Array(6)
const reach = new Float64Array(1)

/**
 * The best of the triangles on the way of a piece.
 * @param turning how it turns, or null where it does not
 */
function overTriangles(
  p: Float64Array,
  a: number,
  turning: Float64Array | null,
  surface: Surface,
  q: Float64Array,
  b: number,
  line: Float64Array,
  moving: Moving,
  out: Float64Array,
): number {
  lineInto(q, b, moving.line, ownLine)
  halfInto(q, b, moving.half, ownHalf)
  best[0] = out[FRACTION]
  let result = MISS
  let side = UNKNOWN
  alongTriangles.begin(ownLine, ownHalf, best)
  alongTriangles.enter(surface.f32, surface.i32, null, surface.depth)
  for (let leaf = alongTriangles.next(); leaf !== DONE; leaf = alongTriangles.next()) {
    const first = ~leaf >> 3
    const last = first + (~leaf & 7)
    for (let index = first; index <= last; index++) {
      triangleInto(surface, index, q, b, triangle)
      pieceRecord[FRACTION] = best[0]
      let met = MISS
      if (turning !== null) met = turnConvex(p, triangle, 0, turning, pieceRecord)
      else if (!surface.front || !facesAlong(line)) met = castConvex(p, a, triangle, 0, line, pieceRecord)
      if (met === MISS) continue
      if (met === HIT && belongsToNeighbour(surface, index, q, b, pieceRecord, CAST_POINT, RAY_NORMAL)) {
        if (side === UNKNOWN) {
          side = turning === null ? sideOf(p, a, surface, q, b) : 0
          triangleInto(surface, index, q, b, triangle)
        }
        if (side !== 0 && !goesInto(line, side, pieceRecord)) continue
      }
      const nearer = result === MISS || pieceRecord[FRACTION] < out[FRACTION]
      const same = pieceRecord[FRACTION] === out[FRACTION]
      const deeper = same && met === INSIDE && (result !== INSIDE || pieceRecord[CAST_DEPTH] > out[CAST_DEPTH])
      if (!nearer && !deeper) continue
      result = met
      for (let i = 0; i < CAST_SIZE; i++) out[i] = pieceRecord[i]
      out[RAY_TRIANGLE] = index
      out[RAY_BACK] = facesAlong(line) ? 1 : 0
      best[0] = out[FRACTION]
    }
  }
  return result
}

/** Writes the unit normal of the triangle that stands in `triangle`, out of its front. */
function faceNormal(): void {
  const ex = triangle[7] - triangle[4]
  const ey = triangle[8] - triangle[5]
  const ez = triangle[9] - triangle[6]
  const fx = triangle[10] - triangle[4]
  const fy = triangle[11] - triangle[5]
  const fz = triangle[12] - triangle[6]
  const nx = ey * fz - ez * fy
  const ny = ez * fx - ex * fz
  const nz = ex * fy - ey * fx
  const length = Math.sqrt(nx * nx + ny * ny + nz * nz)
  face[0] = nx / length
  face[1] = ny / length
  face[2] = nz / length
}

/** Whether a motion goes out of the front of the triangle that stands in `triangle`. */
function facesAlong(line: Float64Array): boolean {
  faceNormal()
  return line[3] * face[0] + line[4] * face[1] + line[5] * face[2] > 0
}

/** Places in a turning motion: start, motion, start quaternion, whole turn as a vector. */
export const TURN_START = 0
export const TURN_MOTION = 3
export const TURN_FROM = 6
export const TURN_BY = 10
export const TURN_SIZE = 13

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

let moved = new Float64Array(64)
/** The part of the motion that is looked at. */
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

const STILL = new Float64Array(3)

/** The gap at the part of the motion in `time`. */
function gapAt(body: Float64Array, turning: Float64Array, q: Float64Array, b: number): void {
  poseAt(body, turning)
  gap(moved, 0, q, b, STILL, record)
}

/**
 * A turning cast of a convex piece, given about the asker's origin, against any piece.
 * @param turning see above
 */
export function turnAgainst(
  body: Float64Array,
  q: Float64Array,
  b: number,
  surface: Surface | null,
  turning: Float64Array,
  moving: Moving,
  out: Float64Array,
): number {
  time[0] = 0
  poseAt(body, turning)
  writeCarried(turning)
  // What is round about the axis goes straight.
  if (tilted[SPIN] === 0) return castAgainst(moved, 0, q, b, surface, moving.line, moving, out)
  if (q[b] !== SURFACE) return turnConvex(body, q, b, turning, out)
  return overTriangles(body, 0, turning, surface!, q, b, moving.line, moving, out)
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

function turnConvex(body: Float64Array, q: Float64Array, b: number, turning: Float64Array, out: Float64Array): number {
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
    if (t === 0 && left < 0) return finish(0, INSIDE, out)
    const closing = dx * record[NORMAL] + dy * record[NORMAL + 1] + dz * record[NORMAL + 2] + spin
    if (left <= CLOSE || (step >= MANY_STEPS && left <= GRAZE) || step === MAX_STEPS) {
      if (t > 0 || !leaves(body, q, b, turning, left)) return finish(t, HIT, out)
      // On the surface and moving off it: go on from a little further.
      time[0] = NUDGE
      continue
    }
    if (closing <= 0) return MISS
    const even = left / closing
    if (t + even > limit) return MISS
    tilted[STEP] = limit - t
    lengthenStep(q, b, turning)
    const further = t + (tilted[STEP] > even ? tilted[STEP] : even)
    if (further >= limit) return MISS
    time[0] = further === t ? t + 1e-16 : further
  }
}

/**
 * Writes how far a turning piece, as it stands in `moved` with its gap in `record`, can go on before it may come to the plane
 * across its gap: the step in `tilted`, which holds the part of the motion that is left when it begins. Of a turn by h about ω a point at r moves by h ω x r, and beyond that by no more than h² |ω| |ω x r| / 2;
 * so the farthest of all along the normal n is that along n + h n x ω, and what is left of the gap is a concave function of h. Its zero is come to
 * from both sides: from below by chords, from above by tangents.
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

const own = new Float64Array(6)
const limit = new Float64Array(1)
const found = new IntList()
const pieceGap = new Float64Array(GAP_SIZE)

/**
 * The gap of a convex piece and any other one; of a surface the least of its triangles within reach, else Infinity.
 * @param bounds of the first, six numbers at `at`
 * @param within how far triangles are looked for
 * @returns the triangle, -1 for none
 */
export function gapToPiece(
  p: Float64Array,
  a: number,
  bounds: Float64Array,
  at: number,
  q: Float64Array,
  b: number,
  surface: Surface | null,
  within: Float64Array,
  out: Float64Array,
): number {
  if (q[b] !== SURFACE) {
    gap(p, a, q, b, STILL, out)
    return -1
  }
  boxInto(q, b, bounds, at, own)
  limit[0] = within[0]
  out[DISTANCE] = Infinity
  let nearest = -1
  aroundTriangles.begin(own, limit)
  aroundTriangles.enter(surface!.f32, surface!.i32, null, surface!.depth)
  for (let leaf = aroundTriangles.next(); leaf !== DONE; leaf = aroundTriangles.next()) {
    const first = ~leaf >> 3
    const last = first + (~leaf & 7)
    for (let index = first; index <= last; index++) {
      triangleInto(surface!, index, q, b, triangle)
      gap(p, a, triangle, 0, STILL, pieceGap)
      if (pieceGap[DISTANCE] >= out[DISTANCE]) continue
      for (let i = 0; i < GAP_SIZE; i++) out[i] = pieceGap[i]
      nearest = index
      if (pieceGap[DISTANCE] < limit[0]) limit[0] = pieceGap[DISTANCE]
    }
  }
  return nearest
}

/** The first triangle of a surface that a convex piece overlaps or touches, or -1. Parameters as {@link gapToPiece}. */
export function triangleMet(
  p: Float64Array,
  a: number,
  bounds: Float64Array,
  at: number,
  q: Float64Array,
  b: number,
  surface: Surface,
  record: Float64Array,
): number {
  boxInto(q, b, bounds, at, own)
  found.clear()
  searchSurface(surface, own, found)
  for (let k = 0; k < found.length; k++) {
    triangleInto(surface, found.data[k], q, b, triangle)
    if (meet(p, a, triangle, 0, record)) return found.data[k]
  }
  return -1
}
