/**
 * The signed distance of two pieces: closed forms where a point or a plane is one of them, otherwise the nearest points of
 * the cores, or their depth where they overlap. Radii are taken off at the end. Surfaces are asked triangle by triangle.
 */
import { swapRecord } from '../../core/step/distances.ts'
import type * as shape from '../shapes/layout.ts'
import { blendOrigin, DEPTH, DEPTH_A, DEPTH_B, DEPTH_NORMAL, DEPTH_SIZE, depthOf } from './depth.ts'
import { LIMIT, NEAR_A, NEAR_B, NEAR_SCALE, NEAR_SIZE, NEAR_SQUARE, NEAR_V, nearest, simplex } from './nearest.ts'
import { hasClosedForm, pointGap } from './pointGap.ts'
import type * as layout from './records.ts'
import { forget, support } from './support.ts'

const BODY: typeof shape.BODY = 4
const POINT_COUNT: typeof shape.POINT_COUNT = 1
const RADIUS: typeof shape.RADIUS = 3
const POINTS: typeof shape.POINTS = 0
const CYLINDER: typeof shape.CYLINDER = 2
const CONE: typeof shape.CONE = 3
const PLANE: typeof shape.PLANE = 5
const DISTANCE: typeof layout.DISTANCE = 0
const NORMAL: typeof layout.NORMAL = 1
const POINT_A: typeof layout.POINT_A = 4
const POINT_B: typeof layout.POINT_B = 7

/** Part of the coordinates by which a gap is rounded: by a closed form, and by a search. */
const ROUNDING = 1e-14
const SEARCHED = 2e-12

/** Rounding of the distance of two cores, as a part of the size of all. */
const LAST_BITS = 4e-16

/** Steps in which the direction of a gap is steadied, at most. */
const STEADYING = 32
/** Part of the size of all below which two places are one for that; and by which corners may lie behind at the end. */
const NEARLY = 1e-9
const UNSTEADY = 1e-11
/** Part of the size of all below which the direction between discs is rough. */
const TOUCHING = 1e-8

const near = new Float64Array(NEAR_SIZE)
const farA = new Float64Array(3)
const farB = new Float64Array(3)
const deep = new Float64Array(DEPTH_SIZE)
const dir = new Float64Array(3)
/** Whether the caller knows that pieces which meet only touch: then no depth is searched. */
const touching = { only: false }
/** Where one stands that is not moved. */
export const HERE = new Float64Array(3)

/**
 * Writes the gap of two pieces: signed distance, unit normal from A to B, nearest points. Two planes are never apart.
 * @param shift added to the first: where it would stand
 */
export function gap(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): void {
  const aKind = p[a]
  const bKind = q[b]
  if (bKind === PLANE || aKind === PLANE) {
    if (aKind !== PLANE) planeGap(p, a, shift, q, b, out)
    else if (bKind !== PLANE) {
      planeGap(q, b, HERE, p, a, out)
      swapRecord(out, 3)
    } else out[DISTANCE] = -Infinity
    return
  }
  if (aKind === POINTS && p[a + POINT_COUNT] === 1 && hasClosedForm(q, b)) {
    for (let i = 0; i < 3; i++) out[POINT_A + i] = p[a + BODY + i] + shift[i]
    pointGap(q, b, out)
    grow(p, a, q, b, out)
    return
  }
  if (bKind === POINTS && q[b + POINT_COUNT] === 1 && hasClosedForm(p, a)) {
    // The point stands still instead, and the other way round.
    for (let i = 0; i < 3; i++) out[POINT_A + i] = q[b + BODY + i] - shift[i]
    pointGap(p, a, out)
    for (let i = 0; i < 3; i++) {
      out[POINT_B + i] += shift[i]
      out[POINT_A + i] = q[b + BODY + i]
    }
    swapRecord(out, 3)
    grow(p, a, q, b, out)
    return
  }
  if (nearest(p, a, q, b, shift, near)) {
    const length = Math.sqrt(near[NEAR_SQUARE])
    const radii = p[a + RADIUS] + q[b + RADIUS]
    // A touch by the radii is one, whatever the last bit says.
    out[DISTANCE] = Math.abs(length - radii) <= LAST_BITS * near[NEAR_SCALE] ? radii : length
    for (let i = 0; i < 3; i++) {
      out[NORMAL + i] = -near[NEAR_V + i] / length
      out[POINT_A + i] = near[NEAR_A + i]
      out[POINT_B + i] = near[NEAR_B + i]
    }
    if (!simplex.sure) {
      const round = aKind === CYLINDER || aKind === CONE || bKind === CYLINDER || bKind === CONE
      // A disc has no corners to steady it by.
      if ((round || !steady(p, a, q, b, shift, out)) && length < TOUCHING * near[NEAR_SCALE]) {
        // The direction is searched as that of a depth, of less than nothing.
        depthOf(p, a, q, b, shift, near, deep)
        for (let i = 0; i < 3; i++) out[NORMAL + i] = deep[DEPTH_NORMAL + i]
      }
    }
  } else {
    if (touching.only && simplex.count < 4) {
      deep[DEPTH] = 0
      blendOrigin(deep)
    } else depthOf(p, a, q, b, shift, near, deep)
    out[DISTANCE] = 0 - deep[DEPTH]
    for (let i = 0; i < 3; i++) {
      out[NORMAL + i] = deep[DEPTH_NORMAL + i]
      out[POINT_A + i] = deep[DEPTH_A + i]
      out[POINT_B + i] = deep[DEPTH_B + i]
    }
  }
  grow(p, a, q, b, out)
}

/** The same for a piece that stands apart from the other or only touches it: no depth is searched, and at a touch the normal says nothing. */
export function gapOutside(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): void {
  touching.only = true
  gap(p, a, q, b, shift, out)
  touching.only = false
}

/**
 * The same up to a limit: of two that are further apart the distance is less than the true one, but beyond the limit, the normal is one along
 * which they are so far apart, and the points say nothing.
 */
export function gapWithin(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  within: Float64Array,
  out: Float64Array,
): void {
  const far = within[0] + p[a + RADIUS] + q[b + RADIUS]
  if (far > 0) LIMIT[0] = far
  gap(p, a, q, b, HERE, out)
  LIMIT[0] = Infinity
}

/**
 * Where cores nearly touch, or faces are nearly parallel, the nearest points have all their digits while the direction from
 * one to the other has few. The right one has all of the difference ahead of its nearest point: as long as a corner lies
 * behind, the direction gives way to it (Kaczmarz's projections).
 * @returns whether no corner lies behind any more, by more than a little; where directions are pressed from both sides they
 *   go to and fro
 */
function steady(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): boolean {
  const rounding = 1e-15 * near[NEAR_SCALE]
  const tiny = NEARLY * near[NEAR_SCALE]
  let best = -Infinity
  for (let i = 0; i < 3; i++) dir[i] = -out[NORMAL + i]
  for (let step = 0; step < STEADYING; step++) {
    support(p, a, dir, -1, farA, 0, 0)
    support(q, b, dir, 1, farB, 0, 1)
    let behind = 0
    let square = 0
    for (let i = 0; i < 3; i++) {
      farA[i] += shift[i] - farB[i] - near[NEAR_V + i]
      behind += dir[i] * farA[i]
      square += farA[i] * farA[i]
    }
    if (behind > best) {
      best = behind
      for (let i = 0; i < 3; i++) out[NORMAL + i] = -dir[i]
    }
    // A corner that is all but the nearest point says nothing of a direction.
    if (behind >= -rounding || square <= tiny * tiny) break
    let length = 0
    for (let i = 0; i < 3; i++) {
      dir[i] -= (behind / square) * farA[i]
      length += dir[i] * dir[i]
    }
    length = Math.sqrt(length)
    for (let i = 0; i < 3; i++) dir[i] /= length
  }
  return best >= -UNSTEADY * near[NEAR_SCALE]
}

/** Whether two pieces overlap or touch. */
export function meet(p: Float64Array, a: number, q: Float64Array, b: number, record: Float64Array): boolean {
  const radius = p[a + RADIUS] + q[b + RADIUS]
  const aKind = p[a]
  const bKind = q[b]
  const aPoint = aKind === POINTS && p[a + POINT_COUNT] === 1
  const bPoint = bKind === POINTS && q[b + POINT_COUNT] === 1
  if (!(aPoint || bPoint || aKind === PLANE || bKind === PLANE)) {
    // No need to know how deep.
    if (nearest(p, a, q, b, HERE, near)) {
      return Math.sqrt(near[NEAR_SQUARE]) <= radius + LAST_BITS * near[NEAR_SCALE]
    }
    if (near[NEAR_SQUARE] === 0 || radius > 0) return true
  }
  gap(p, a, q, b, HERE, record)
  return record[DISTANCE] <= 0
}

/** Takes both radii off. */
export function grow(p: Float64Array, a: number, q: Float64Array, b: number, out: Float64Array): void {
  const ra = p[a + RADIUS]
  const rb = q[b + RADIUS]
  if (ra === 0 && rb === 0) return
  out[DISTANCE] -= ra + rb
  for (let i = 0; i < 3; i++) {
    out[POINT_A + i] += ra * out[NORMAL + i]
    out[POINT_B + i] -= rb * out[NORMAL + i]
  }
}

function planeGap(
  p: Float64Array,
  a: number,
  shift: Float64Array,
  q: Float64Array,
  b: number,
  out: Float64Array,
): void {
  const nx = q[b + BODY + 1]
  const ny = q[b + BODY + 2]
  const nz = q[b + BODY + 3]
  dir[0] = -nx
  dir[1] = -ny
  dir[2] = -nz
  forget()
  support(p, a, dir, 1, out, POINT_A, 0)
  for (let i = 0; i < 3; i++) out[POINT_A + i] += shift[i]
  const height = nx * out[POINT_A] + ny * out[POINT_A + 1] + nz * out[POINT_A + 2] - q[b + BODY]
  const r = p[a + RADIUS]
  out[DISTANCE] = height - r
  for (let i = 0; i < 3; i++) {
    const n = q[b + BODY + 1 + i]
    out[NORMAL + i] = -n
    out[POINT_B + i] = out[POINT_A + i] - n * height
    out[POINT_A + i] -= n * r
  }
}

/**
 * The distance below which a gap of two pieces is rounding, and its direction with it.
 * @param record their gap
 */
export function roundingOf(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  record: Float64Array,
): number {
  let size = 0
  for (let i = 0; i < 3; i++) {
    size += Math.abs(record[POINT_A + i]) + Math.abs(p[a + BODY + i] + shift[i])
    if (q[b] !== PLANE) size += Math.abs(q[b + BODY + i])
  }
  return (p[a] === POINTS && p[a + POINT_COUNT] === 1 ? ROUNDING : SEARCHED) * size
}
