/**
 * A convex piece that goes straight, against another that stands still. The distance of two convex shapes is a convex function of
 * the way, so a step to where its tangent comes to zero never goes too far (Newton's method, from one side): between shapes with
 * corners it ends after a few steps with the very features that meet.
 */
import { PLANE, RADIUS } from '../shapes/layout.ts'
import { gap, gapOutside, roundingOf } from './gap.ts'
import { writeAcross } from './graze.ts'
import {
  CAST_DEPTH,
  CAST_POINT,
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
} from './records.ts'
import { forget, support } from './support.ts'

/** Steps after which it is given up as having met. */
const MANY_STEPS = 2000

/** The least part of a motion that is checked. */
const LEAST_STEP = 1e-15

const record = new Float64Array(GAP_SIZE)
const shift = new Float64Array(3)
const normal = new Float64Array(3)

/**
 * A straight cast of one convex piece against another (or against a plane).
 * @param line its start and motion; only the motion is read
 * @param out a cast record; beyond its fraction nothing counts
 * @returns MISS, HIT or INSIDE
 */
export function castConvex(
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
  if (dx === 0 && dy === 0 && dz === 0) {
    if (record[DISTANCE] > 0) return MISS
    return finish(record, 0, record[DISTANCE] < 0 ? INSIDE : HIT, out)
  }
  const slack = roundingOf(p, a, q, b, shift, record)
  if (record[DISTANCE] < -slack) return finish(record, 0, INSIDE, out)
  if (record[DISTANCE] <= slack) {
    if (!comesNearer(p, a, q, b, line, slack)) return MISS
    measure(p, a, q, b, line, 0)
    return finish(record, 0, HIT, out)
  }
  let t = 0
  for (let step = 0; step < MANY_STEPS; step++) {
    const closing = record[NORMAL] * dx + record[NORMAL + 1] * dy + record[NORMAL + 2] * dz
    if (closing <= 0) return MISS
    const further = t + record[DISTANCE] / closing
    if (further > limit) return MISS
    if (further === t) break
    t = further
    for (let i = 0; i < 3; i++) {
      normal[i] = record[NORMAL + i]
      shift[i] = t * line[3 + i]
    }
    gapOutside(p, a, q, b, shift, record)
    if (record[DISTANCE] > roundingOf(p, a, q, b, shift, record)) continue
    // The normal of the last place apart stays where rounding has carried it in.
    for (let i = 0; i < 3; i++) record[NORMAL + i] = normal[i]
    break
  }
  if (q[b] !== PLANE && grazes(p, a, q, b, line)) return MISS
  return finish(record, t, HIT, out)
}

/**
 * Whether a way that begins on a surface, to rounding, leads in. The distance is a convex function of the way: what leads in is in at
 * one of a few places soon after, or is never farther in than a few thousand times the rounding.
 */
function comesNearer(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  line: Float64Array,
  slack: number,
): boolean {
  const length = Math.sqrt(line[3] * line[3] + line[4] * line[4] + line[5] * line[5])
  for (let t = Math.max((1000 * slack) / length, LEAST_STEP); t < 1; t *= 1000) {
    measure(p, a, q, b, line, t)
    if (record[DISTANCE] < -2 * slack) return true
    // By now it is well away.
    if (record[DISTANCE] > 100 * slack) return false
  }
  measure(p, a, q, b, line, 1)
  return record[DISTANCE] < -2 * slack
}

/**
 * Whether a straight way only grazes what it has come to, at `shift` and with the gap in `record`: seen along the way, the two
 * overlap by no more than rounding. What slides over the seam of two boxes in one plane must not be held by it. A polygon of
 * farthest points of their difference, seen so, is grown at the side nearest to the origin, until the origin lies well inside of
 * all, or a side lies on the rim.
 */
function grazes(p: Float64Array, a: number, q: Float64Array, b: number, line: Float64Array): boolean {
  const rounding = roundingOf(p, a, q, b, shift, record)
  writeAcross(line, seen)
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
const towards = new Float64Array(3)
const farA = new Float64Array(3)
const farB = new Float64Array(3)

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

/** Writes a hit at a part of the way, from the gap there. */
export function finish(record: Float64Array, t: number, kind: number, out: Float64Array): number {
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
