/** The geometry without a world: plain functions on shapes and poses. A shape is placed once for each pose (see core/query/forms.ts); results are new objects, but for a distance that is given one to write into. */

import { Forms } from '../core/query/forms.ts'
import type { PlainDistance, PlainHit } from '../core/query/hits.ts'
import { readRay } from '../core/query/lines.ts'
import {
  checkDistance,
  firstOfCast,
  firstOnRay,
  leastDistance,
  newDistance,
  type PlainRecord,
  writeDistance,
} from '../core/query/plainQueries.ts'
import { finite } from '../core/util/checks.ts'
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
import { DISTANCE, FRACTION, GAP_SIZE, NORMAL, POINT_A, RAY_NORMAL, RAY_SIZE } from './narrow/records.ts'
import { readMotion, type ShapeMotion2 } from './query/cast.ts'
import { QueryShape } from './query/queryShape.ts'
import type { Ray2 } from './query/ray.ts'
import { CONVEX, HEAD, PLANE } from './shapes/layout.ts'
import { placeInto, writePose } from './shapes/place.ts'
import { type Piece, refuseNoShape, type Shape2 } from './shapes/shape.ts'
import { checkVec, type MutableVec2, type Pose2, VECTORS, type Vec2 } from './vector.ts'

/** Numbers of a pose: x, y, angle. */
const POSE = 3

interface Placed {
  readonly piece: Piece
  readonly block: Float64Array
}

const roomFor = ({ pieces }: Shape2): Placed[] =>
  pieces.map((piece) => ({ piece, block: new Float64Array(piece.block.length) }))
const FIRST = new Forms<Shape2, Placed>(POSE, roomFor)
const SECOND = new Forms<Shape2, Placed>(POSE, roomFor)
const numbers = new Float64Array(5)
const record = new Float64Array(GAP_SIZE)
const best = new Float64Array(GAP_SIZE)
const pressed = new Float64Array(MANIFOLD_SIZE)

/** The pieces of a shape at a pose, until the next call with the same forms. */
function place(forms: Forms<Shape2, Placed>, shape: Shape2, pose: Pose2, what: string): readonly Placed[] {
  const { placed, pose: last } = forms.of(shape, refuseNoShape, what)
  const given = pose?.at
  if (given?.x === last[0] && given.y === last[1] && pose.angle === last[2]) return placed
  const at = checkVec(given, `'at' of the pose of ${what}`)
  writePose(at, finite(pose.angle, `'angle' of the pose of ${what}`, ANGLE), numbers)
  for (const { piece, block } of placed) placeInto(piece.block, HEAD, numbers, block, HEAD)
  for (let k = 0; k < POSE; k++) last[k] = numbers[k]
  return placed
}

/** Writes the gap of two placed pieces. Throws `bad-shape` for two halfspaces. */
function gapOf(a: Placed, b: Placed, out: Float64Array): void {
  if (a.block[0] === PLANE && b.block[0] === PLANE) throw new KeenError('bad-shape', 'two halfspaces have no distance')
  gapOfPieces(a.block, HEAD, b.block, HEAD, out)
}

/** How far apart two shapes are, and where. */
export type Distance2 = PlainDistance<Vec2>

/** An object that `distance` can write into instead of making one. */
export function distanceResult(): Distance2 {
  return newDistance<MutableVec2>(VECTORS)
}

/**
 * The signed distance of two shapes. Cost: the product of their numbers of pieces.
 * @param out an answer of `distanceResult()` to write into; then nothing is allocated
 * @throws KeenError `bad-shape`, `bad-number`, `bad-argument`
 */
export function distance(shapeA: Shape2, poseA: Pose2, shapeB: Shape2, poseB: Pose2, out?: Distance2): Distance2 {
  checkDistance(out)
  const others = place(SECOND, shapeB, poseB, 'the second shape')
  leastDistance(place(FIRST, shapeA, poseA, 'the first shape'), others, gapOf, record, best)
  return writeDistance<MutableVec2>(best, VECTORS, out ?? distanceResult())
}

/** Whether two shapes overlap; exact touch counts. */
export function overlaps(shapeA: Shape2, poseA: Pose2, shapeB: Shape2, poseB: Pose2): boolean {
  const others = place(SECOND, shapeB, poseB, 'the second shape')
  leastDistance(place(FIRST, shapeA, poseA, 'the first shape'), others, gapOf, record, best)
  return best[DISTANCE] <= 0
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
  const found: Manifold2[] = []
  const others = place(SECOND, shapeB, poseB, 'the second shape')
  for (const a of place(FIRST, shapeA, poseA, 'the first shape')) {
    for (const b of others) {
      pressed[WITHIN] = within
      manifoldOfPieces(a.block, HEAD, b.block, HEAD, pressed)
      if (pressed[POINT_COUNT] > 0) found.push(readManifold(pressed))
    }
  }
  if (found.length < 2) return found
  const depth = ({ points }: Manifold2): number => Math.max(...points.map((point) => point.depth))
  return found.sort((a, b) => depth(b) - depth(a))
}

function readManifold(record: Float64Array): Manifold2 {
  const points: { x: number; y: number; depth: number }[] = []
  for (let index = 0; index < record[POINT_COUNT]; index++) {
    const at = FIRST_POINT + POINT_SIZE * index
    points.push({ x: record[at], y: record[at + 1], depth: 0 - record[at + GAP] })
  }
  return { normal: { x: record[MANIFOLD_NORMAL] + 0, y: record[MANIFOLD_NORMAL + 1] + 0 }, points }
}

/** A hit on one shape. */
export type PlainHit2 = PlainHit<Vec2>

/**
 * What a ray meets of one shape at a pose, or null: as `world.raycast.first`. Cost: the number of its pieces.
 * @throws KeenError `bad-shape`, `bad-number`, `bad-argument`
 */
export function raycast(shape: Shape2, pose: Pose2, ray: Ray2): PlainHit2 | null {
  const line = new Float64Array(6)
  readRay(ray, VECTORS, line)
  const pieces = place(FIRST, shape, pose, 'the shape')
  const hit = firstOnRay(line, {
    axes: 2,
    count: pieces.length,
    blank: new Float64Array(RAY_SIZE),
    rounding: 8 * ROUNDING,
    meet: (index, record) => rayAgainst(pieces[index].block, HEAD, line, record),
    graze: (index, out) => grazeOf(pieces[index].block, HEAD, line, out),
  })
  if (hit === null) return null
  const fraction = hit.record[FRACTION]
  const point = { x: line[0] + fraction * line[2], y: line[1] + fraction * line[3] }
  return plainHit(hit, pieces[hit.piece].piece, point, line[4])
}

function plainHit(
  { record, startedInside }: PlainRecord,
  { part, child }: Piece,
  point: Vec2,
  length: number,
): PlainHit2 {
  const fraction = record[FRACTION]
  const normal = { x: record[RAY_NORMAL] + 0, y: record[RAY_NORMAL + 1] + 0 }
  return { point, normal, fraction, distance: fraction * length, startedInside, part, child }
}

/**
 * What a moving shape meets of one target, or null: as `world.shapecast.first`. Cost: the product of their numbers of pieces.
 * @throws KeenError `bad-shape`, `bad-number`, `bad-argument`
 */
export function shapecast(
  motion: ShapeMotion2,
  target: Shape2,
  targetPose: Pose2,
): (PlainHit2 & { depth: number }) | null {
  const own = new QueryShape()
  const line = new Float64Array(6)
  const turning = new Float64Array(6)
  readMotion(motion, own, line, turning)
  const pieces = place(FIRST, target, targetPose, 'the target')
  const hit = firstOfCast(own.pieces, pieces.length, { size: CAST_SIZE, depth: CAST_DEPTH }, (i, index, record) =>
    turning[5] === 0
      ? castAgainst(own.placed, own.offset[i], pieces[index].block, HEAD, line, record)
      : turnAgainst(own.own[i], pieces[index].block, HEAD, turning, record),
  )
  if (hit === null) return null
  const { record } = hit
  const point = { x: record[CAST_POINT], y: record[CAST_POINT + 1] }
  return { ...plainHit(hit, pieces[hit.piece].piece, point, line[4]), depth: record[CAST_DEPTH] }
}

/**
 * The point of a shape's surface nearest to a point, with the signed distance (negative inside) and the unit normal out
 * of the shape there.
 */
export function closestPoint(shape: Shape2, pose: Pose2, point: Vec2): { point: Vec2; distance: number; normal: Vec2 } {
  const { x, y } = checkVec(point, 'the point')
  const block = Float64Array.of(CONVEX, 1, 0, x, y)
  leastDistance(
    place(FIRST, shape, pose, 'the shape'),
    [block],
    (each, at, out) => gapOfPieces(each.block, HEAD, at, HEAD, out),
    record,
    best,
  )
  return {
    point: { x: best[POINT_A], y: best[POINT_A + 1] },
    distance: best[DISTANCE],
    normal: { x: best[NORMAL] + 0, y: best[NORMAL + 1] + 0 },
  }
}
