/** The geometry without a world: plain functions on shapes and poses. They allocate; a world does not. */

import { GRAZE_SIZE, Seams } from '../core/query/seams.ts'
import { record as checkRecord, finite, onlyFields } from '../core/util/checks.ts'
import { KeenError } from '../core/util/errors.ts'
import { ANGLE, COORDINATE } from '../core/util/limits.ts'
import { CAST_DEPTH, CAST_POINT, CAST_SIZE, castAgainst, turnAgainst } from './narrow/cast.ts'
import { grazeOf, ROUNDING } from './narrow/graze.ts'
import {
  FIRST_POINT,
  GAP,
  MANIFOLD_NORMAL,
  MANIFOLD_SIZE,
  manifoldOfPieces,
  POINT_COUNT,
  POINT_SIZE,
  WITHIN,
} from './narrow/manifold.ts'
import { gapOfPieces } from './narrow/pair.ts'
import { rayAgainst } from './narrow/ray.ts'
import {
  DISTANCE,
  FRACTION,
  GAP_SIZE,
  INSIDE,
  MISS,
  NORMAL,
  POINT_A,
  POINT_B,
  RAY_NORMAL,
  RAY_SIZE,
} from './narrow/records.ts'
import { Asked } from './query/asked.ts'
import { SHAPE_MOTION_FIELDS, type ShapeMotion2 } from './query/cast.ts'
import { type Ray2, readRay } from './query/ray.ts'
import { CONVEX, HEAD, PLANE } from './shapes/layout.ts'
import { placed, writePose } from './shapes/place.ts'
import { type Piece, refuseNoShape, type Shape2 } from './shapes/shape.ts'
import { checkVec, type Pose2, type Vec2 } from './vector.ts'

interface Placed {
  readonly piece: Piece
  readonly block: Float64Array
}

function place(shape: Shape2, pose: Pose2, what: string): Placed[] {
  refuseNoShape(shape, what)
  const at = checkVec(pose?.at, `'at' of the pose of ${what}`)
  const numbers = new Float64Array(5)
  writePose(at, finite(pose.angle, `'angle' of the pose of ${what}`, ANGLE), numbers)
  return shape.pieces.map((piece) => ({ piece, block: placed(piece.block, numbers) }))
}

/** How far apart two shapes are, and where. */
export interface Distance2 {
  /** Metres; negative is the depth. */
  readonly distance: number
  /** The nearest point of each; when they overlap, the deepest. */
  readonly pointA: Vec2
  readonly pointB: Vec2
  /** Unit, from a to b. */
  readonly normal: Vec2
}

/**
 * The signed distance of two shapes. Cost: the product of their numbers of pieces.
 * @throws KeenError `bad-shape`, `bad-number`, `bad-argument`
 */
export function distance(shapeA: Shape2, poseA: Pose2, shapeB: Shape2, poseB: Pose2): Distance2 {
  const record = new Float64Array(GAP_SIZE)
  const best = new Float64Array(GAP_SIZE)
  best[DISTANCE] = Infinity
  const others = place(shapeB, poseB, 'the second shape')
  for (const a of place(shapeA, poseA, 'the first shape')) {
    for (const b of others) {
      if (a.block[0] === PLANE && b.block[0] === PLANE)
        throw new KeenError('bad-shape', 'two halfspaces have no distance')
      gapOfPieces(a.block, HEAD, b.block, HEAD, record)
      if (record[DISTANCE] < best[DISTANCE]) best.set(record)
    }
  }
  return {
    distance: best[DISTANCE],
    pointA: { x: best[POINT_A], y: best[POINT_A + 1] },
    pointB: { x: best[POINT_B], y: best[POINT_B + 1] },
    normal: { x: best[NORMAL] + 0, y: best[NORMAL + 1] + 0 },
  }
}

/** Whether two shapes overlap; exact touch counts. */
export function overlaps(shapeA: Shape2, poseA: Pose2, shapeB: Shape2, poseB: Pose2): boolean {
  return distance(shapeA, poseA, shapeB, poseB).distance <= 0
}

/** Where two shapes press on each other: along one normal, at one point or at the two ends of a stretch. */
export interface Manifold2 {
  /** Unit, from a to b. */
  readonly normal: Vec2
  /** Halfway between the two surfaces, with how deep they overlap there (negative: apart). */
  readonly points: readonly { readonly x: number; readonly y: number; readonly depth: number }[]
}

/**
 * Where two shapes touch or overlap: a manifold for every two pieces of theirs that do (one, for shapes of one piece), the
 * deepest first; empty when they are apart.
 * @param within metres up to which they may be apart; default 0
 */
export function manifold(shapeA: Shape2, poseA: Pose2, shapeB: Shape2, poseB: Pose2, within = 0): Manifold2[] {
  finite(within, "'within' of a manifold", COORDINATE)
  const record = new Float64Array(MANIFOLD_SIZE)
  const found: Manifold2[] = []
  const others = place(shapeB, poseB, 'the second shape')
  for (const a of place(shapeA, poseA, 'the first shape')) {
    for (const b of others) {
      record[WITHIN] = within
      manifoldOfPieces(a.block, HEAD, b.block, HEAD, record)
      if (record[POINT_COUNT] > 0) found.push(readManifold(record))
    }
  }
  const depth = ({ points }: Manifold2): number => Math.max(...points.map((point) => point.depth))
  return found.sort((a, b) => depth(b) - depth(a))
}

function readManifold(record: Float64Array): Manifold2 {
  const points = Array.from({ length: record[POINT_COUNT] }, (_, index) => {
    const at = FIRST_POINT + POINT_SIZE * index
    return { x: record[at], y: record[at + 1], depth: 0 - record[at + GAP] }
  })
  return { normal: { x: record[MANIFOLD_NORMAL] + 0, y: record[MANIFOLD_NORMAL + 1] + 0 }, points }
}

/** A hit on one shape. */
export interface PlainHit2 {
  readonly point: Vec2
  readonly normal: Vec2
  readonly fraction: number
  readonly distance: number
  readonly startedInside: boolean
  readonly part: number
  readonly child: number
}

/** What a ray meets of one shape at a pose, or null: as `world.raycast.first`. */
export function raycast(shape: Shape2, pose: Pose2, ray: Ray2): PlainHit2 | null {
  const line = new Float64Array(6)
  readRay(ray, line)
  const record = new Float64Array(RAY_SIZE)
  const pieces = place(shape, pose, 'the shape')
  const seams = new Seams()
  const graze = new Float64Array(GRAZE_SIZE)
  seams.clear((8 * ROUNDING * (Math.abs(line[0]) + Math.abs(line[1]))) / line[4])
  let best: PlainHit2 | null = null
  const take = ({ part, child }: Piece, startedInside: boolean): void => {
    const fraction = record[FRACTION]
    if (best !== null && !better(fraction, startedInside, best)) return
    best = {
      point: { x: line[0] + fraction * line[2], y: line[1] + fraction * line[3] },
      normal: { x: record[RAY_NORMAL] + 0, y: record[RAY_NORMAL + 1] + 0 },
      fraction,
      distance: fraction * line[4],
      startedInside,
      part,
      child,
    }
  }
  for (const [index, { piece, block }] of pieces.entries()) {
    record[FRACTION] = 1
    const met = rayAgainst(block, HEAD, line, record)
    if (met > MISS) take(piece, met === INSIDE)
    else if (met !== MISS && grazeOf(block, HEAD, line, graze)) seams.add(index, graze)
  }
  // Between two pieces that touch.
  seams.sort()
  if (seams.count > 1 && seams.advance(Float64Array.of(1))) {
    record[FRACTION] = seams.fraction
    const back = Float64Array.of(-line[2] / line[4], -line[3] / line[4])
    seams.readNormal(seams.active.data[0], back, record, RAY_NORMAL)
    take(pieces[seams.pieceOf(seams.active.data[0])].piece, seams.inside)
  }
  return best
}

function better(fraction: number, inside: boolean, than: PlainHit2): boolean {
  return fraction < than.fraction || (fraction === than.fraction && inside && !than.startedInside)
}

/** What a moving shape meets of one target, or null: as `world.shapecast.first`. */
export function shapecast(
  motion: ShapeMotion2,
  target: Shape2,
  targetPose: Pose2,
): (PlainHit2 & { depth: number }) | null {
  checkRecord(motion, 'a shape cast')
  onlyFields(motion, SHAPE_MOTION_FIELDS, 'a shape cast')
  const from = checkVec(motion.from, "'from' of a shape cast")
  const to = checkVec(motion.to, "'to' of a shape cast")
  const asked = new Asked()
  asked.set(motion.shape, from, motion.angle, 'a shape cast')
  const line = Float64Array.of(from.x, from.y, to.x - from.x, to.y - from.y)
  const turn = finite(motion.turn ?? 0, "'turn' of a shape cast", ANGLE)
  const turning = Float64Array.of(...line, motion.angle ?? 0, turn)
  const length = Math.sqrt(line[2] * line[2] + line[3] * line[3])
  const record = new Float64Array(CAST_SIZE)
  let best: (PlainHit2 & { depth: number }) | null = null
  for (const { piece, block } of place(target, targetPose, 'the target')) {
    for (let i = 0; i < asked.pieces; i++) {
      const met =
        turn === 0
          ? castAgainst(asked.placed, asked.offset[i], block, HEAD, line, record)
          : turnAgainst(asked.own[i], block, HEAD, turning, record)
      if (met === MISS) continue
      const fraction = record[FRACTION]
      const startedInside = met === INSIDE
      const deeper = best !== null && startedInside && best.startedInside && record[CAST_DEPTH] > best.depth
      if (best !== null && !deeper && !better(fraction, startedInside, best)) continue
      best = {
        point: { x: record[CAST_POINT], y: record[CAST_POINT + 1] },
        normal: { x: record[RAY_NORMAL] + 0, y: record[RAY_NORMAL + 1] + 0 },
        fraction,
        distance: fraction * length,
        startedInside,
        depth: record[CAST_DEPTH],
        part: piece.part,
        child: piece.child,
      }
    }
  }
  return best
}

/**
 * The point of a shape's surface nearest to a point, with the signed distance (negative inside) and the unit normal out
 * of the shape there.
 */
export function closestPoint(shape: Shape2, pose: Pose2, point: Vec2): { point: Vec2; distance: number; normal: Vec2 } {
  const { x, y } = checkVec(point, 'the point')
  const block = Float64Array.of(CONVEX, 1, 0, x, y)
  const record = new Float64Array(GAP_SIZE)
  const best = new Float64Array(GAP_SIZE)
  best[DISTANCE] = Infinity
  for (const each of place(shape, pose, 'the shape')) {
    gapOfPieces(each.block, HEAD, block, HEAD, record)
    if (record[DISTANCE] < best[DISTANCE]) best.set(record)
  }
  return {
    point: { x: best[POINT_A], y: best[POINT_A + 1] },
    distance: best[DISTANCE],
    normal: { x: best[NORMAL] + 0, y: best[NORMAL + 1] + 0 },
  }
}
