/** The geometry without a world: plain functions on shapes and poses. They allocate; a world does not. */

import { GRAZE_SIZE, Seams } from '../core/query/seams.ts'
import { record as checkRecord, onlyFields } from '../core/util/checks.ts'
import { KeenError } from '../core/util/errors.ts'
import { castAgainst, turnAgainst } from './narrow/cast.ts'
import { turnGap } from './narrow/gap.ts'
import { grazeOf, ROUNDING } from './narrow/graze.ts'
import { rayAgainst } from './narrow/ray.ts'
import {
  CAST_DEPTH,
  CAST_POINT,
  CAST_SIZE,
  DISTANCE,
  FRACTION,
  GAP_SIZE,
  INSIDE,
  MISS,
  NORMAL,
  POINT_A,
  POINT_B,
  RAY_BACK,
  RAY_NORMAL,
  RAY_SIZE,
  RAY_TRIANGLE,
  RAY_WEIGHTS,
  TURN_SIZE,
} from './narrow/records.ts'
import { gapToPiece } from './narrow/standing.ts'
import { Asked } from './query/asked.ts'
import { isTurning, SHAPE_MOTION_FIELDS, type ShapeMotion3, writeMotion } from './query/cast.ts'
import { type Ray3, readRay } from './query/ray.ts'
import { PLANE, POINTS, SURFACE, TRIANGLE_BLOCK } from './shapes/layout.ts'
import { boundsOf, placed as placeBlock } from './shapes/place.ts'
import { type Piece, refuseNoShape, type Shape3 } from './shapes/shape.ts'
import { triangleInto } from './surface/search.ts'
import type { Surface } from './surface/surface.ts'
import { checkVec, POSE_SIZE, type Pose3, type Vec3, writePose } from './vector.ts'

interface Placed {
  readonly piece: Piece
  readonly block: Float64Array
  readonly bounds: Float64Array
}

function placed(shape: Shape3, pose: Pose3, what: string): Placed[] {
  refuseNoShape(shape, what)
  const at = checkVec(pose?.at, `'at' of the pose of ${what}`)
  const numbers = new Float64Array(POSE_SIZE)
  writePose(at, pose.rotation, `'rotation' of the pose of ${what}`, numbers)
  return shape.pieces.map((piece) => {
    const block = placeBlock(piece.block, numbers)
    const bounds = new Float64Array(6)
    boundsOf(block, 0, piece.surface?.bounds ?? bounds, 0, bounds, 0)
    return { piece, block, bounds }
  })
}

const vec = (from: Float64Array, at: number): Vec3 => ({
  x: from[at] + 0,
  y: from[at + 1] + 0,
  z: from[at + 2] + 0,
})

/** How far apart two shapes are, and where. */
export interface Distance3 {
  /** Metres; negative is the depth. */
  readonly distance: number
  /** The nearest point of each; when they overlap, the deepest. */
  readonly pointA: Vec3
  readonly pointB: Vec3
  /** Unit, from a to b. */
  readonly normal: Vec3
}

const EVERYWHERE = Float64Array.of(Infinity)

/** The gap of two placed pieces, in whichever order it can be asked. */
function gapOf(a: Placed, b: Placed, out: Float64Array): void {
  const kinds = [a.block[0], b.block[0]]
  if (kinds[0] === PLANE && kinds[1] === PLANE) throw new KeenError('bad-shape', 'two halfspaces have no distance')
  const turned = kinds[0] === SURFACE && kinds[1] !== SURFACE
  const [one, other] = turned ? [b, a] : [a, b]
  if (one.block[0] === SURFACE) surfacesGap(one, other, out)
  else gapToPiece(one.block, 0, one.bounds, 0, other.block, 0, other.piece.surface, EVERYWHERE, out)
  if (turned) turnGap(out)
}

/** Every triangle of the one against the other. */
function surfacesGap(one: Placed, other: Placed, out: Float64Array): void {
  const surface = one.piece.surface as Surface
  const triangle = new Float64Array(TRIANGLE_BLOCK)
  const bounds = new Float64Array(6)
  const within = Float64Array.of(Infinity)
  const record = new Float64Array(GAP_SIZE)
  out[DISTANCE] = Infinity
  for (let i = 0; i < surface.count; i++) {
    triangleInto(surface, i, one.block, 0, triangle)
    boundsOf(triangle, 0, bounds, 0, bounds, 0)
    gapToPiece(triangle, 0, bounds, 0, other.block, 0, other.piece.surface, within, record)
    if (record[DISTANCE] >= out[DISTANCE]) continue
    out.set(record)
    within[0] = Math.max(0, record[DISTANCE])
  }
}

/**
 * The signed distance of two shapes. Cost: the product of their numbers of pieces, each with the logarithm of its triangles;
 * between two surfaces with all triangles of the first.
 * @throws KeenError `bad-shape`, `bad-number`, `bad-argument`
 */
export function distance(shapeA: Shape3, poseA: Pose3, shapeB: Shape3, poseB: Pose3): Distance3 {
  const record = new Float64Array(GAP_SIZE)
  const best = new Float64Array(GAP_SIZE)
  best[DISTANCE] = Infinity
  const others = placed(shapeB, poseB, 'the second shape')
  for (const a of placed(shapeA, poseA, 'the first shape')) {
    for (const b of others) {
      gapOf(a, b, record)
      if (record[DISTANCE] < best[DISTANCE]) best.set(record)
    }
  }
  return {
    distance: best[DISTANCE],
    pointA: vec(best, POINT_A),
    pointB: vec(best, POINT_B),
    normal: vec(best, NORMAL),
  }
}

/** Whether two shapes overlap; exact touch counts. */
export function overlaps(shapeA: Shape3, poseA: Pose3, shapeB: Shape3, poseB: Pose3): boolean {
  return distance(shapeA, poseA, shapeB, poseB).distance <= 0
}

/** A hit on one shape. */
export interface PlainHit3 {
  readonly point: Vec3
  readonly normal: Vec3
  readonly fraction: number
  readonly distance: number
  readonly startedInside: boolean
  readonly part: number
  readonly child: number
  readonly back: boolean
}

function partOf({ surface }: Piece, triangle: number): number {
  return surface === null || triangle < 0 ? -1 : surface.parts[triangle]
}

/** What a ray meets of one shape at a pose, or null: as `world.raycast.first`. */
export function raycast(shape: Shape3, pose: Pose3, ray: Ray3): (PlainHit3 & { readonly barycentric: Vec3 }) | null {
  const line = new Float64Array(7)
  readRay(ray, line)
  const record = new Float64Array(RAY_SIZE)
  const pieces = placed(shape, pose, 'the shape')
  const seams = new Seams()
  const graze = new Float64Array(GRAZE_SIZE)
  seams.clear((8 * ROUNDING * (Math.abs(line[0]) + Math.abs(line[1]) + Math.abs(line[2]))) / line[6])
  let best: (PlainHit3 & { readonly barycentric: Vec3 }) | null = null
  const take = (piece: Piece, startedInside: boolean): void => {
    const fraction = record[FRACTION]
    if (best !== null && !better(fraction, startedInside, best)) return
    best = {
      point: { x: line[0] + fraction * line[3], y: line[1] + fraction * line[4], z: line[2] + fraction * line[5] },
      normal: vec(record, RAY_NORMAL),
      fraction,
      distance: fraction * line[6],
      startedInside,
      part: partOf(piece, record[RAY_TRIANGLE]),
      child: piece.child,
      back: record[RAY_BACK] !== 0,
      barycentric: vec(record, RAY_WEIGHTS),
    }
  }
  for (const [index, { piece, block }] of pieces.entries()) {
    record[FRACTION] = 1
    const met = rayAgainst(block, 0, piece.surface, line, record)
    if (met > MISS) take(piece, met === INSIDE)
    else if (met !== MISS && grazeOf(block, 0, line, graze)) seams.add(index, graze)
  }
  // Between pieces that touch.
  seams.sort()
  if (seams.count > 1 && seams.advance(Float64Array.of(1))) {
    record.fill(0)
    record[FRACTION] = seams.fraction
    record[RAY_TRIANGLE] = -1
    const back = Float64Array.of(-line[3] / line[6], -line[4] / line[6], -line[5] / line[6])
    seams.readNormal(seams.active.data[0], back, record, RAY_NORMAL)
    take(pieces[seams.pieceOf(seams.active.data[0])].piece, seams.inside)
  }
  return best
}

function better(fraction: number, inside: boolean, than: PlainHit3): boolean {
  return fraction < than.fraction || (fraction === than.fraction && inside && !than.startedInside)
}

/** What a moving shape meets of one target, or null: as `world.shapecast.first`. */
export function shapecast(
  motion: ShapeMotion3,
  target: Shape3,
  targetPose: Pose3,
): (PlainHit3 & { depth: number }) | null {
  checkRecord(motion, 'a shape cast')
  onlyFields(motion, SHAPE_MOTION_FIELDS, 'a shape cast')
  const from = checkVec(motion.from, "'from' of a shape cast")
  const to = checkVec(motion.to, "'to' of a shape cast")
  const asked = new Asked()
  const line = new Float64Array(7)
  const turning = new Float64Array(TURN_SIZE)
  writeMotion(motion, from, to, asked, line, turning)
  const turns = isTurning(turning)
  const middle = line.slice()
  const half = new Float64Array(3)
  for (let i = 0; i < 3; i++) {
    if (!turns) middle[i] = (asked.bounds[i] + asked.bounds[3 + i]) / 2
    half[i] = turns ? asked.reach : (asked.bounds[3 + i] - asked.bounds[i]) / 2
  }
  const moving = { line: middle, half }
  const record = new Float64Array(CAST_SIZE)
  let best: (PlainHit3 & { depth: number }) | null = null
  for (const { piece, block } of placed(target, targetPose, 'the target')) {
    for (let i = 0; i < asked.pieces; i++) {
      record[FRACTION] = 1
      const met = turns
        ? turnAgainst(asked.own[i], block, 0, piece.surface, turning, moving, record)
        : castAgainst(asked.placed, asked.offset[i], block, 0, piece.surface, line, moving, record)
      if (met === MISS) continue
      const fraction = record[FRACTION]
      const startedInside = met === INSIDE
      const deeper = best !== null && startedInside && best.startedInside && record[CAST_DEPTH] > best.depth
      if (best !== null && !deeper && !better(fraction, startedInside, best)) continue
      best = {
        point: vec(record, CAST_POINT),
        normal: vec(record, RAY_NORMAL),
        fraction,
        distance: fraction * line[6],
        startedInside,
        depth: record[CAST_DEPTH],
        part: partOf(piece, record[RAY_TRIANGLE]),
        child: piece.child,
        back: record[RAY_BACK] !== 0,
      }
    }
  }
  return best
}

/**
 * The point of a shape's surface nearest to a point, with the signed distance (negative inside) and the unit normal out
 * of the shape there.
 */
export function closestPoint(shape: Shape3, pose: Pose3, point: Vec3): { point: Vec3; distance: number; normal: Vec3 } {
  const { x, y, z } = checkVec(point, 'the point')
  const block = Float64Array.of(POINTS, 1, 0, 0, x, y, z)
  const bounds = Float64Array.of(x, y, z, x, y, z)
  const record = new Float64Array(GAP_SIZE)
  const best = new Float64Array(GAP_SIZE)
  best[DISTANCE] = Infinity
  for (const { piece, block: other } of placed(shape, pose, 'the shape')) {
    gapToPiece(block, 0, bounds, 0, other, 0, piece.surface, EVERYWHERE, record)
    if (record[DISTANCE] < best[DISTANCE]) best.set(record)
  }
  for (let i = 0; i < 3; i++) best[NORMAL + i] = -best[NORMAL + i]
  return { point: vec(best, POINT_B), distance: best[DISTANCE], normal: vec(best, NORMAL) }
}
