/** The question "what does this moving shape meet?" in 2D. */

import { finishLine } from '../../core/query/lines.ts'
import { ShapecastModes } from '../../core/query/shapecast.ts'
import type { AnyKinds, Kinds } from '../../core/state/handle.ts'
import { finite, onlyFields } from '../../core/util/checks.ts'
import { ANGLE } from '../../core/util/limits.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import type { Geometry } from '../geometry.ts'
import type { Kernel2 } from '../kernel.ts'
import { CAST_DEPTH, CAST_POINT, castAgainst, turnAgainst } from '../narrow/cast.ts'
import { INSIDE, RAY_NORMAL } from '../narrow/records.ts'
import { WAY, WAY_NORMAL, WAY_POINT } from '../tiles/wayOut.ts'
import { checkVec, type MutableVec2, type Vec2 } from '../vector.ts'
import type { AskingShape2, QueryShape } from './queryShape.ts'
import { HIT_VECTORS, type RayHit2, rayHit } from './ray.ts'
import type { Pool2, Scratch } from './scratch.ts'
import { castSeams } from './seams.ts'

/** A shape on its way: from one point to another, at an angle, turning by `turn` evenly on the way. */
export interface ShapeMotion2 {
  /** The shape that moves. */
  readonly shape: AskingShape2
  /** Where its origin is at the start. */
  readonly from: Vec2
  /** Where its origin is at the end. */
  readonly to: Vec2
  /** At the start; default 0. */
  readonly angle?: number | undefined
  /** By how much it turns on the way, not wrapped; default 0. */
  readonly turn?: number | undefined
}

/** What a moving shape meets. */
export interface CastHit2<K extends Kinds = AnyKinds> extends RayHit2<K> {
  /** At a start inside: how deep, along the normal, which is the way out. Otherwise 0. */
  depth: number
}

/** An object that `shapecast.first` can write into instead of making one. */
export function castHit<K extends Kinds = AnyKinds>(): CastHit2<K> {
  return { ...rayHit<K>(), depth: 0 }
}

const SHAPE_MOTION_FIELDS = ['shape', 'from', 'to', 'angle', 'turn'] as const

/** The question "what does this moving shape meet?": `world.shapecast`. */
export class Shapecast<K extends Kinds> extends ShapecastModes<
  K,
  Body2<K>,
  Collider2<K>,
  MutableVec2,
  ShapeMotion2,
  CastHit2<K>,
  Scratch<K>
> {
  declare protected readonly kernel: Kernel2
  declare protected readonly geometry: Geometry

  /** @internal */
  constructor(pool: Pool2<K>) {
    super(pool, HIT_VECTORS)
  }

  protected override newHit(): CastHit2<K> {
    return castHit<K>()
  }

  protected override readMotion(motion: ShapeMotion2, { queryShape, line, turning }: Scratch<K>): boolean {
    readMotion(motion, queryShape, line, turning)
    return turning[5] !== 0
  }

  protected override castPiece(scratch: Scratch<K>, own: number, piece: number): number {
    const { queryShape, line, castRecord, turning, way } = scratch
    const { geometry } = this
    const offset = geometry.offsetOf(piece)
    const met =
      turning[5] === 0
        ? castAgainst(queryShape.placed, queryShape.offset[own], geometry.world, offset, line, castRecord)
        : turnAgainst(queryShape.own[own], geometry.world, offset, turning, castRecord)
    if (met !== INSIDE) return met
    const { placed, offset: offsets, pieces } = queryShape
    if (this.kernel.leadOut(geometry.ownerOf(piece), placed, offsets, pieces, way)) writeWay(way, castRecord)
    return met
  }

  protected override castSeams(scratch: Scratch<K>, once: boolean): void {
    const { queryShape } = scratch
    for (let i = 0; i < queryShape.pieces; i++) {
      castSeams(this.kernel, scratch, queryShape.placed, queryShape.offset[i], once)
    }
  }
}

/** Checks a motion and writes it as numbers: the shape that asks, the line of its origin with its length, and how it turns. */
export function readMotion(
  motion: ShapeMotion2,
  queryShape: QueryShape,
  line: Float64Array,
  turning: Float64Array,
): void {
  onlyFields(motion, SHAPE_MOTION_FIELDS, 'a shape cast')
  const from = checkVec(motion.from, "'from' of a shape cast")
  const to = checkVec(motion.to, "'to' of a shape cast")
  queryShape.set(motion.shape, from, motion.angle, 'a shape cast')
  line[0] = from.x
  line[1] = from.y
  line[2] = to.x - from.x
  line[3] = to.y - from.y
  finishLine(line, 2, 'a shape cast')
  for (let i = 0; i < 4; i++) turning[i] = line[i]
  turning[4] = motion.angle ?? 0
  turning[5] = motion.turn === undefined ? 0 : finite(motion.turn, "'turn' of a shape cast", ANGLE)
}

/** Takes a way out of tiles over into the record of a cast that starts inside. */
export function writeWay(way: Float64Array, record: Float64Array): void {
  record[CAST_DEPTH] = way[WAY]
  for (let k = 0; k < 2; k++) {
    record[RAY_NORMAL + k] = way[WAY_NORMAL + k]
    record[CAST_POINT + k] = way[WAY_POINT + k]
  }
}
