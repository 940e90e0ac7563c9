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
import { IntList } from '../core/state/table.ts'
import { swapRecord } from '../core/step/distances.ts'
import { finite } from '../core/util/checks.ts'
import { KeenError } from '../core/util/errors.ts'
import { COORDINATE } from '../core/util/limits.ts'
import { castAgainst, turnAgainst } from './narrow/cast.ts'
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
import { rayAgainst } from './narrow/ray.ts'
import {
  CAST_DEPTH,
  CAST_POINT,
  CAST_SIZE,
  DISTANCE,
  FRACTION,
  GAP_SIZE,
  NORMAL,
  POINT_B,
  RAY_BACK,
  RAY_NORMAL,
  RAY_SIZE,
  RAY_TRIANGLE,
  RAY_WEIGHTS,
  TURN_SIZE,
} from './narrow/records.ts'
import { gapToPiece } from './narrow/surfaceGap.ts'
import { isTurning, readMotion, type ShapeMotion3 } from './query/cast.ts'
import { QueryShape } from './query/queryShape.ts'
import type { Ray3 } from './query/ray.ts'
import { PLANE, POINTS, SURFACE, TRIANGLE_BLOCK } from './shapes/layout.ts'
import { boundsOf, placeInto } from './shapes/place.ts'
import { type Piece, refuseNoShape, type Shape3 } from './shapes/shape.ts'
import { boxInto, searchSurface, triangleInto } from './surface/search.ts'
import type { Surface } from './surface/surface.ts'
import {
  checkVec,
  FRAME,
  type MutableVec3,
  POSE_SIZE,
  type Pose3,
  UPRIGHT,
  VECTORS,
  type Vec3,
  writePose,
} from './vector.ts'

/** Numbers of a pose as it is given: x, y, z of the place, then x, y, z, w of the rotation. */
const GIVEN = 7

interface Placed {
  readonly piece: Piece
  readonly block: Float64Array
  readonly bounds: Float64Array
}

const roomFor = ({ pieces }: Shape3): Placed[] =>
  pieces.map((piece) => ({ piece, block: new Float64Array(piece.block.length), bounds: new Float64Array(6) }))
const FIRST = new Forms<Shape3, Placed>(GIVEN, roomFor)
const SECOND = new Forms<Shape3, Placed>(GIVEN, roomFor)
const NO_BOUNDS = new Float64Array(6)
const numbers = new Float64Array(POSE_SIZE)
const record = new Float64Array(GAP_SIZE)
const best = new Float64Array(GAP_SIZE)
const pressed = new Float64Array(MANIFOLD_SIZE)

/** The pieces of a shape at a pose, until the next call with the same forms. */
function placed(forms: Forms<Shape3, Placed>, shape: Shape3, pose: Pose3, what: string): readonly Placed[] {
  const { placed, pose: last } = forms.of(shape, refuseNoShape, what)
  const given = pose?.at
  const rotation = pose?.rotation ?? UPRIGHT
  if (
    given?.x === last[0] &&
    given.y === last[1] &&
    given.z === last[2] &&
    rotation.x === last[3] &&
    rotation.y === last[4] &&
    rotation.z === last[5] &&
    rotation.w === last[6]
  )
    return placed
  const { x, y, z } = checkVec(given, `'at' of the pose of ${what}`)
  writePose({ x, y, z }, pose.rotation, `'rotation' of the pose of ${what}`, numbers)
  for (const { piece, block, bounds } of placed) {
    placeInto(piece.block, 0, numbers, 0, numbers, FRAME, block, 0)
    boundsOf(block, 0, piece.surface?.bounds ?? NO_BOUNDS, 0, bounds, 0)
  }
  last.set([x, y, z, rotation.x, rotation.y, rotation.z, rotation.w])
  return placed
}

const vec = (from: Float64Array, at: number): Vec3 => ({
  x: from[at] + 0,
  y: from[at + 1] + 0,
  z: from[at + 2] + 0,
})

/** How far apart two shapes are, and where. */
export type Distance3 = PlainDistance<Vec3>

/** An object that `distance` can write into instead of making one. */
export function distanceResult(): Distance3 {
  return newDistance<MutableVec3>(VECTORS)
}

const EVERYWHERE = Float64Array.of(Infinity)

/** The gap of two placed pieces, in whichever order it can be asked. */
function gapOf(a: Placed, b: Placed, out: Float64Array): void {
  const kindA = a.block[0]
  const kindB = b.block[0]
  if (kindA === PLANE && kindB === PLANE) throw new KeenError('bad-shape', 'two halfspaces have no distance')
  const turned = kindA === SURFACE && kindB !== SURFACE
  const one = turned ? b : a
  const other = turned ? a : b
  if (one.block[0] === SURFACE) surfacesGap(one, other, out)
  else gapToPiece(one.block, 0, one.bounds, 0, other.block, 0, other.piece.surface, EVERYWHERE, out)
  if (turned) swapRecord(out, 3)
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
 * @param out an answer of `distanceResult()` to write into; then nothing is allocated
 * @throws KeenError `bad-shape`, `bad-number`, `bad-argument`
 */
export function distance(shapeA: Shape3, poseA: Pose3, shapeB: Shape3, poseB: Pose3, out?: Distance3): Distance3 {
  checkDistance(out)
  const others = placed(SECOND, shapeB, poseB, 'the second shape')
  leastDistance(placed(FIRST, shapeA, poseA, 'the first shape'), others, gapOf, record, best)
  return writeDistance<MutableVec3>(best, VECTORS, out ?? distanceResult())
}

/** Whether two shapes overlap; exact touch counts. */
export function overlaps(shapeA: Shape3, poseA: Pose3, shapeB: Shape3, poseB: Pose3): boolean {
  const others = placed(SECOND, shapeB, poseB, 'the second shape')
  leastDistance(placed(FIRST, shapeA, poseA, 'the first shape'), others, gapOf, record, best)
  return best[DISTANCE] <= 0
}

/** Where two shapes press on each other: along one normal, at up to four points. */
export interface Manifold3 {
  /** Unit, from a to b. */
  readonly normal: Vec3
  /** Halfway between the two surfaces, with how deep they overlap there (negative: apart). */
  readonly points: readonly { readonly x: number; readonly y: number; readonly z: number; readonly depth: number }[]
}

/**
 * Where two shapes touch or overlap: a manifold for every two pieces of theirs that do (one, for shapes of one piece), the
 * deepest first; empty when they are apart. Of meshes and heightfields each triangle is a piece. Of the rim of a disc stand twelve corners
 * and the lowest.
 * @param within metres up to which they may be apart; default 0
 * @throws KeenError `bad-shape`, `bad-number`, `bad-argument`
 */
export function manifold(shapeA: Shape3, poseA: Pose3, shapeB: Shape3, poseB: Pose3, within = 0): Manifold3[] {
  finite(within, "'within' of a manifold", COORDINATE)
  const found: Manifold3[] = []
  const all = placed(SECOND, shapeB, poseB, 'the second shape')
  for (const a of placed(FIRST, shapeA, poseA, 'the first shape')) {
    for (const b of all) {
      for (const own of convexNear(a, b.bounds, within)) {
        for (const other of convexNear(b, own.bounds, within)) {
          pressed[WITHIN] = within
          manifoldOfPieces(own.block, 0, other.block, 0, pressed)
          if (pressed[POINT_COUNT] > 0) found.push(readManifold(pressed))
        }
      }
    }
  }
  if (found.length < 2) return found
  const depth = ({ points }: Manifold3): number => Math.max(...points.map((point) => point.depth))
  return found.sort((a, b) => depth(b) - depth(a))
}

/** What of a piece is convex and may come as near as that to a box: itself, or triangles. */
function convexNear(
  each: Placed,
  bounds: Float64Array,
  within: number,
): { block: Float64Array; bounds: Float64Array }[] {
  const { surface } = each.piece
  if (surface === null) return [each]
  const wide = bounds.map((bound, i) => bound + (i < 3 ? -1 : 1) * Math.max(0, within))
  const own = new Float64Array(6)
  boxInto(each.block, 0, wide, 0, own)
  const near = new IntList()
  searchSurface(surface, own, near)
  return [...near.data.subarray(0, near.length)].map((index) => {
    const block = new Float64Array(TRIANGLE_BLOCK)
    triangleInto(surface, index, each.block, 0, block)
    const box = new Float64Array(6)
    boundsOf(block, 0, box, 0, box, 0)
    return { block, bounds: box }
  })
}

function readManifold(record: Float64Array): Manifold3 {
  const points: { x: number; y: number; z: number; depth: number }[] = []
  for (let index = 0; index < record[POINT_COUNT]; index++) {
    const at = FIRST_POINT + POINT_SIZE * index
    const { x, y, z } = vec(record, at)
    points.push({ x, y, z, depth: 0 - record[at + GAP] })
  }
  return { normal: vec(record, MANIFOLD_NORMAL), points }
}

/** A hit on one shape. */
export interface PlainHit3 extends PlainHit<Vec3> {
  /** Whether the back of the triangle was met. */
  readonly back: boolean
}

function partOf({ surface }: Piece, triangle: number): number {
  return surface === null || triangle < 0 ? -1 : surface.parts[triangle]
}

/**
 * What a ray meets of one shape at a pose, or null: as `world.raycast.first`. Cost: the number of its pieces, each with the logarithm
 * of its triangles.
 * @throws KeenError `bad-shape`, `bad-number`, `bad-argument`
 */
export function raycast(shape: Shape3, pose: Pose3, ray: Ray3): (PlainHit3 & { readonly barycentric: Vec3 }) | null {
  const line = new Float64Array(7)
  readRay(ray, VECTORS, line)
  const pieces = placed(FIRST, shape, pose, 'the shape')
  const blank = new Float64Array(RAY_SIZE)
  blank[RAY_TRIANGLE] = -1
  const hit = firstOnRay(line, {
    axes: 3,
    count: pieces.length,
    blank,
    rounding: 8 * ROUNDING,
    meet: (index, record) => rayAgainst(pieces[index].block, 0, pieces[index].piece.surface, line, record),
    graze: (index, out) => grazeOf(pieces[index].block, 0, line, out),
  })
  if (hit === null) return null
  const fraction = hit.record[FRACTION]
  const [x, y, z] = [0, 1, 2].map((k) => line[k] + fraction * line[3 + k])
  return { ...plainHit(hit, pieces[hit.piece].piece, { x, y, z }, line[6]), barycentric: vec(hit.record, RAY_WEIGHTS) }
}

function plainHit({ record, startedInside }: PlainRecord, piece: Piece, point: Vec3, length: number): PlainHit3 {
  const fraction = record[FRACTION]
  return {
    point,
    normal: vec(record, RAY_NORMAL),
    fraction,
    distance: fraction * length,
    startedInside,
    part: partOf(piece, record[RAY_TRIANGLE]),
    child: piece.child,
    back: record[RAY_BACK] !== 0,
  }
}

/**
 * What a moving shape meets of one target, or null: as `world.shapecast.first`. Cost: the product of their numbers of pieces, each
 * with the triangles near the way.
 * @throws KeenError `bad-shape`, `bad-number`, `bad-argument`
 */
export function shapecast(
  motion: ShapeMotion3,
  target: Shape3,
  targetPose: Pose3,
): (PlainHit3 & { depth: number }) | null {
  const own = new QueryShape()
  const line = new Float64Array(7)
  const turning = new Float64Array(TURN_SIZE)
  readMotion(motion, own, line, turning)
  const turns = isTurning(turning)
  const middle = line.slice()
  const half = new Float64Array(3)
  for (let i = 0; i < 3; i++) {
    if (!turns) middle[i] = (own.bounds[i] + own.bounds[3 + i]) / 2
    half[i] = turns ? own.reach : (own.bounds[3 + i] - own.bounds[i]) / 2
  }
  const moving = { line: middle, half }
  const pieces = placed(FIRST, target, targetPose, 'the target')
  const hit = firstOfCast(own.pieces, pieces.length, { size: CAST_SIZE, depth: CAST_DEPTH }, (i, index, record) => {
    const { block, piece } = pieces[index]
    return turns
      ? turnAgainst(own.own[i], block, 0, piece.surface, turning, moving, record)
      : castAgainst(own.placed, own.offset[i], block, 0, piece.surface, line, moving, record)
  })
  if (hit === null) return null
  const { record } = hit
  return { ...plainHit(hit, pieces[hit.piece].piece, vec(record, CAST_POINT), line[6]), depth: record[CAST_DEPTH] }
}

/**
 * The point of a shape's surface nearest to a point, with the signed distance (negative inside) and the unit normal out
 * of the shape there.
 */
export function closestPoint(shape: Shape3, pose: Pose3, point: Vec3): { point: Vec3; distance: number; normal: Vec3 } {
  const { x, y, z } = checkVec(point, 'the point')
  const block = Float64Array.of(POINTS, 1, 0, 0, x, y, z)
  const bounds = Float64Array.of(x, y, z, x, y, z)
  leastDistance(
    placed(FIRST, shape, pose, 'the shape'),
    [block],
    ({ piece, block: other }, at, out) => gapToPiece(at, 0, bounds, 0, other, 0, piece.surface, EVERYWHERE, out),
    record,
    best,
  )
  for (let i = 0; i < 3; i++) best[NORMAL + i] = -best[NORMAL + i]
  return { point: vec(best, POINT_B), distance: best[DISTANCE], normal: vec(best, NORMAL) }
}
