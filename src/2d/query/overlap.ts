/** The questions "whom does this standing shape overlap?" and "who is nearest to it?" in 2D. */

import { type NearestResults, newNearestResults } from '../../core/query/batch.ts'
import { type NearestHit, newNearestHit, newOverlapHit, type OverlapHit } from '../../core/query/hits.ts'
import { NearestModes } from '../../core/query/nearest.ts'
import { OverlapModes } from '../../core/query/overlap.ts'
import type { AnyKinds, Kinds } from '../../core/state/handle.ts'
import { onlyFields } from '../../core/util/checks.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import type { Geometry } from '../geometry.ts'
import type { Kernel2 } from '../kernel.ts'
import { gapOfPieces, piecesMeet } from '../narrow/pair.ts'
import { DISTANCE, NORMAL, POINT_B } from '../narrow/records.ts'
import { COUNT, KIND, PLANE } from '../shapes/layout.ts'
import { type OnTile, onTile } from '../shapes/shape.ts'
import { WAY, WAY_NORMAL, WAY_POINT } from '../tiles/wayOut.ts'
import { checkVec, type MutableVec2, VECTORS, type Vec2 } from '../vector.ts'
import type { AskingShape2, QueryShape } from './queryShape.ts'
import { HIT_NORMAL, HIT_POINT, KEY, type Pool2, type Scratch } from './scratch.ts'

/** A standing shape. */
export interface ShapePlace2 {
  /** The shape that asks. */
  readonly shape: AskingShape2
  /** Where its origin is. */
  readonly at: Vec2
  /** Default 0. */
  readonly angle?: number | undefined
  /** Ask for depth, normal and point too. */
  readonly depth?: boolean | undefined
}

/** What an overlap meets. */
export interface OverlapHit2<K extends Kinds = AnyKinds>
  extends OverlapHit<Body2<K>, Collider2<K>, MutableVec2>,
    OnTile {}

/** A point, or a standing shape, and how far to look. */
export type NearestPlace2 =
  | { readonly point: Vec2; readonly reach?: number | undefined }
  | {
      readonly shape: AskingShape2
      readonly at: Vec2
      readonly angle?: number | undefined
      readonly reach?: number | undefined
    }

/** What is nearest. */
export interface NearestHit2<K extends Kinds = AnyKinds>
  extends NearestHit<Body2<K>, Collider2<K>, MutableVec2>,
    OnTile {}

/** An object that `overlap.first` can write into instead of making one. */
export function overlapHit<K extends Kinds = AnyKinds>(): OverlapHit2<K> {
  return onTile(newOverlapHit<Body2<K>, Collider2<K>, MutableVec2>())
}

/** An object that `nearest.first` can write into instead of making one. */
export function nearestHit<K extends Kinds = AnyKinds>(): NearestHit2<K> {
  return onTile(newNearestHit<Body2<K>, Collider2<K>, MutableVec2>(VECTORS))
}

/**
 * Results of `nearest.batch` for up to `count` points.
 * @throws KeenError `bad-number`
 */
export function nearestResults(count: number): NearestResults {
  return newNearestResults(count, 2)
}

const PLACE_FIELDS = ['shape', 'at', 'angle', 'depth'] as const
const SHAPE_FIELDS = ['shape', 'at', 'angle', 'reach'] as const

/** The least distance of the pieces that ask and one piece, into `scratch.record` as key, normal towards the asker, point. */
function leastGap<K extends Kinds>(kernel: Kernel2, scratch: Scratch<K>, piece: number): void {
  const { queryShape, gap, record, way } = scratch
  const { geometry } = kernel
  const { world } = geometry
  record[KEY] = Infinity
  for (let i = 0; i < queryShape.pieces; i++) {
    gapOfPieces(queryShape.placed, queryShape.offset[i], world, geometry.offsetOf(piece), gap)
    if (gap[DISTANCE] >= record[KEY]) continue
    record[KEY] = gap[DISTANCE]
    record[HIT_NORMAL] = -gap[NORMAL]
    record[HIT_NORMAL + 1] = -gap[NORMAL + 1]
    record[HIT_POINT] = gap[POINT_B]
    record[HIT_POINT + 1] = gap[POINT_B + 1]
  }
  if (record[KEY] >= 0) return
  const { placed, offset, pieces } = queryShape
  if (!kernel.leadOut(geometry.ownerOf(piece), placed, offset, pieces, way)) return
  record[KEY] = -way[WAY]
  for (let k = 0; k < 2; k++) {
    record[HIT_NORMAL + k] = way[WAY_NORMAL + k]
    record[HIT_POINT + k] = way[WAY_POINT + k]
  }
}

const UNKNOWN = -1

/** Part of the coordinates by which a touch is left to the exact test: it must not say otherwise, nor the one with the depth. */
const DOUBT = 4e-15

/**
 * Whether the one shape that asks, a box along the axes, overlaps a piece: 1, 0 or UNKNOWN. It does when any core point of
 * the piece is within its radius; of a circle that is the whole answer. A touch is not known.
 */
function boxMeets(bounds: Float64Array, q: Float64Array, at: number): number {
  const n = q[at + COUNT] | 0
  const minX = bounds[0]
  const minY = bounds[1]
  const maxX = bounds[2]
  const maxY = bounds[3]
  const r = q[at]
  let known = n === 1 ? 0 : UNKNOWN
  for (let i = at + 1; i <= at + 2 * n; i += 2) {
    const x = q[i]
    const y = q[i + 1]
    // Beyond the nearer side of each axis; below 0 within.
    const dx = x + x < minX + maxX ? minX - x : x - maxX
    const dy = y + y < minY + maxY ? minY - y : y - maxY
    const beyond = dx <= 0 || dy <= 0 ? (dx > dy ? dx : dy) : Math.sqrt(dx * dx + dy * dy)
    const doubt = DOUBT * ((x < 0 ? -x : x) + (y < 0 ? -y : y) + r)
    if (beyond < r - doubt) return 1
    if (beyond <= r + doubt) known = UNKNOWN
  }
  return known
}

/** Whether a piece overlaps any of the pieces that ask, or touches one. */
function meets(geometry: Geometry, queryShape: QueryShape, piece: number): boolean {
  const q = geometry.world
  const at = geometry.offsetOf(piece)
  if (queryShape.fills && q[at + KIND] !== PLANE) {
    const known = boxMeets(queryShape.bounds, q, at)
    if (known !== UNKNOWN) return known === 1
  }
  for (let i = 0; i < queryShape.pieces; i++) {
    if (piecesMeet(queryShape.placed, queryShape.offset[i], q, at)) return true
  }
  return false
}

/** The question "whom does this standing shape overlap?": `world.overlap`. */
export class Overlap<K extends Kinds> extends OverlapModes<
  K,
  Body2<K>,
  Collider2<K>,
  MutableVec2,
  ShapePlace2,
  Scratch<K>,
  OverlapHit2<K>
> {
  declare protected readonly kernel: Kernel2
  declare protected readonly geometry: Geometry

  protected override newHit(): OverlapHit2<K> {
    return overlapHit<K>()
  }

  protected override readPlace(place: ShapePlace2, { queryShape }: Scratch<K>): void {
    onlyFields(place, PLACE_FIELDS, 'an overlap')
    queryShape.set(place.shape, checkVec(place.at, "'at' of an overlap"), place.angle, 'an overlap')
  }

  protected override sift({ queryShape, compiled, near, found }: Scratch<K>, certain: number, any: boolean): void {
    const { geometry } = this
    const { fills, bounds: box } = queryShape
    const bounds = geometry.bounds.data
    const minX = box[0]
    const minY = box[1]
    const maxX = box[2]
    const maxY = box[3]
    for (let i = 0; i < near.length; i++) {
      const piece = near.data[i]
      const c = geometry.ownerOf(piece)
      if (i >= certain && !compiled.accepts(c)) continue
      const at = 4 * piece
      // A box holds whatever has its bounds within it.
      const within =
        fills && bounds[at] >= minX && bounds[at + 1] >= minY && bounds[at + 2] <= maxX && bounds[at + 3] <= maxY
      if (!within && !meets(geometry, queryShape, piece)) continue
      found.add(c, piece, geometry.hasSiblings(piece))
      if (any) return
    }
  }

  protected override measure(scratch: Scratch<K>, piece: number): void {
    leastGap(this.kernel, scratch, piece)
  }
}

/** The question "who is nearest?": `world.nearest`. */
export class Nearest<K extends Kinds> extends NearestModes<
  K,
  Body2<K>,
  Collider2<K>,
  MutableVec2,
  NearestPlace2,
  Scratch<K>,
  NearestHit2<K>
> {
  declare protected readonly kernel: Kernel2
  declare protected readonly geometry: Geometry

  protected override newHit(): NearestHit2<K> {
    return nearestHit<K>()
  }

  /** @internal */
  constructor(pool: Pool2<K>) {
    super(pool, SHAPE_FIELDS)
  }

  protected override readPoint(point: unknown, what: string, { queryShape }: Scratch<K>): void {
    queryShape.setPoint(checkVec(point, what))
  }

  protected override readShape(place: NearestPlace2, what: string, { queryShape }: Scratch<K>): void {
    const { shape, at, angle } = place as Extract<NearestPlace2, { readonly shape: AskingShape2 }>
    queryShape.set(shape, checkVec(at, `'at' of ${what}`), angle, what)
  }

  protected override measure(scratch: Scratch<K>, piece: number): void {
    leastGap(this.kernel, scratch, piece)
  }
}
