/** The questions "whom does this standing shape overlap?" and "who is nearest to it?" in 3D. */

import { type NearestResults, newNearestResults } from '../../core/query/batch.ts'
import { type NearestHit, newNearestHit, newOverlapHit, type OverlapHit } from '../../core/query/hits.ts'
import { NearestModes } from '../../core/query/nearest.ts'
import { OverlapModes } from '../../core/query/overlap.ts'
import type { AnyKinds, Kinds } from '../../core/state/handle.ts'
import { onlyFields } from '../../core/util/checks.ts'
import type { Body3 } from '../body.ts'
import type { Collider3 } from '../collider.ts'
import type { Geometry } from '../geometry.ts'
import { meet } from '../narrow/gap.ts'
import { DISTANCE, NORMAL, POINT_B } from '../narrow/records.ts'
import { gapToPiece, triangleMet } from '../narrow/surfaceGap.ts'
import { BODY, PLANE } from '../shapes/layout.ts'
import { checkVec, type MutableVec3, type Rotation, VECTORS, type Vec3 } from '../vector.ts'
import type { AskingShape3 } from './queryShape.ts'
import { HIT_NORMAL, HIT_POINT, HIT_TRIANGLE, KEY, type Pool3, type Scratch } from './scratch.ts'

/** A standing shape. */
export interface ShapePlace3 {
  /** The shape that asks. */
  readonly shape: AskingShape3
  /** Where its origin is. */
  readonly at: Vec3
  /** Default none. */
  readonly rotation?: Rotation | undefined
  /** Ask for depth, normal and point too. */
  readonly depth?: boolean | undefined
}

/** What an overlap meets. */
export type OverlapHit3<K extends Kinds = AnyKinds> = OverlapHit<Body3<K>, Collider3<K>, MutableVec3>

/** A point, or a standing shape, and how far to look. */
export type NearestPlace3 =
  | { readonly point: Vec3; readonly reach?: number | undefined }
  | {
      readonly shape: AskingShape3
      readonly at: Vec3
      readonly rotation?: Rotation | undefined
      readonly reach?: number | undefined
    }

/** What is nearest. */
export type NearestHit3<K extends Kinds = AnyKinds> = NearestHit<Body3<K>, Collider3<K>, MutableVec3>

/** An object that `overlap.first` can write into instead of making one. */
export function overlapHit<K extends Kinds = AnyKinds>(): OverlapHit3<K> {
  return newOverlapHit()
}

/** An object that `nearest.first` can write into instead of making one. */
export function nearestHit<K extends Kinds = AnyKinds>(): NearestHit3<K> {
  return newNearestHit(VECTORS)
}

/**
 * Results of `nearest.batch` for up to `count` points.
 * @throws KeenError `bad-number`
 */
export function nearestResults(count: number): NearestResults {
  return newNearestResults(count, 3)
}

const PLACE_FIELDS = ['shape', 'at', 'rotation', 'depth'] as const
const SHAPE_FIELDS = ['shape', 'at', 'rotation', 'reach'] as const

/** How far triangles are searched for where only overlaps count. */
const TOUCHING = new Float64Array(1)

/** The least distance of the pieces that ask and one piece, into `scratch.record` as key, normal towards the asker, point. */
function leastGap<K extends Kinds>(geometry: Geometry, scratch: Scratch<K>, piece: number, within: Float64Array): void {
  const { queryShape, gap, record } = scratch
  const { world } = geometry
  const offset = geometry.offsetOf(piece)
  const surface = geometry.surfaces[piece]
  record[KEY] = Infinity
  for (let i = 0; i < queryShape.pieces; i++) {
    const triangle = gapToPiece(
      queryShape.placed,
      queryShape.offset[i],
      queryShape.bounds,
      0,
      world,
      offset,
      surface,
      within,
      gap,
    )
    if (gap[DISTANCE] >= record[KEY]) continue
    record[KEY] = gap[DISTANCE]
    record[HIT_TRIANGLE] = triangle
    for (let k = 0; k < 3; k++) {
      record[HIT_NORMAL + k] = -gap[NORMAL + k]
      record[HIT_POINT + k] = gap[POINT_B + k]
    }
  }
}

/**
 * Whether a piece overlaps any of the pieces that ask, or touches one.
 * @returns a triangle of a surface that does, 0 for other pieces, -1 for none
 */
function meets<K extends Kinds>(geometry: Geometry, scratch: Scratch<K>, piece: number): number {
  const { queryShape, gap } = scratch
  const q = geometry.world
  const at = geometry.offsetOf(piece)
  const surface = geometry.surfaces[piece]
  for (let i = 0; i < queryShape.pieces; i++) {
    if (surface !== null) {
      const triangle = triangleMet(queryShape.placed, queryShape.offset[i], queryShape.bounds, 0, q, at, surface, gap)
      if (triangle >= 0) return triangle
    } else if (queryShape.fills && holdsPoint(queryShape.bounds, q, at)) return 0
    else if (meet(queryShape.placed, queryShape.offset[i], q, at, gap)) return 0
  }
  return -1
}

/** Whether the one shape that asks, a box along the axes, holds the middle of a piece well inside: then the two overlap. */
function holdsPoint(bounds: Float64Array, q: Float64Array, at: number): boolean {
  // Of a plane it is no point; everything else begins with one that lies in it.
  if (q[at] === PLANE) return false
  for (let i = 0; i < 3; i++) {
    const value = q[at + BODY + i]
    if (!(value > bounds[i] && value < bounds[3 + i])) return false
  }
  return true
}

/** The question "whom does this standing shape overlap?": `world.overlap`. */
export class Overlap<K extends Kinds> extends OverlapModes<
  K,
  Body3<K>,
  Collider3<K>,
  MutableVec3,
  ShapePlace3,
  Scratch<K>
> {
  declare protected readonly geometry: Geometry

  protected override readPlace(place: ShapePlace3, { queryShape }: Scratch<K>): void {
    onlyFields(place, PLACE_FIELDS, 'an overlap')
    queryShape.set(place.shape, checkVec(place.at, "'at' of an overlap"), place.rotation, 'an overlap')
  }

  protected override sift(scratch: Scratch<K>, certain: number, any: boolean): void {
    const { geometry } = this
    const { compiled, near, record, found } = scratch
    record[KEY] = 0
    for (let i = 0; i < near.length; i++) {
      const piece = near.data[i]
      const c = geometry.ownerOf(piece)
      if (i >= certain && !compiled.accepts(c)) continue
      const triangle = meets(geometry, scratch, piece)
      if (triangle < 0) continue
      record[HIT_TRIANGLE] = triangle
      found.put(c, piece, false, record)
      if (any) return
    }
  }

  protected override measure(scratch: Scratch<K>, piece: number): void {
    leastGap(this.geometry, scratch, piece, TOUCHING)
  }
}

/** The question "who is nearest?": `world.nearest`. */
export class Nearest<K extends Kinds> extends NearestModes<
  K,
  Body3<K>,
  Collider3<K>,
  MutableVec3,
  NearestPlace3,
  Scratch<K>
> {
  declare protected readonly geometry: Geometry

  /** @internal */
  constructor(pool: Pool3<K>) {
    super(pool, SHAPE_FIELDS)
  }

  protected override readPoint(point: unknown, what: string, { queryShape }: Scratch<K>): void {
    queryShape.setPoint(checkVec(point, what))
  }

  protected override readShape(place: NearestPlace3, what: string, { queryShape }: Scratch<K>): void {
    const { shape, at, rotation } = place as Extract<NearestPlace3, { readonly shape: AskingShape3 }>
    queryShape.set(shape, checkVec(at, `'at' of ${what}`), rotation, what)
  }

  protected override measure(scratch: Scratch<K>, piece: number): void {
    leastGap(this.geometry, scratch, piece, scratch.best)
  }
}
