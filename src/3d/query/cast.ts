/** The question "what does this moving shape meet?" in 3D. */

import { finishLine } from '../../core/query/lines.ts'
import { ShapecastModes } from '../../core/query/shapecast.ts'
import type { AnyKinds, Kinds } from '../../core/state/handle.ts'
import { onlyFields } from '../../core/util/checks.ts'
import type { Body3 } from '../body.ts'
import type { Collider3 } from '../collider.ts'
import type { Geometry } from '../geometry.ts'
import { castAgainst, turnAgainst } from '../narrow/cast.ts'
import { TURN_BY, TURN_FROM, TURN_START } from '../narrow/records.ts'
import { checkVec, type MutableVec3, ORIGIN, type Rotation, type Vec3 } from '../vector.ts'
import type { AskingShape3, QueryShape } from './queryShape.ts'
import { HIT_VECTORS, type RayHit3, rayHit } from './ray.ts'
import { HIT_BACK, type Pool3, type Scratch } from './scratch.ts'

/** A shape on its way: from one point to another, at a rotation, turning by `turn` evenly on the way. */
export interface ShapeMotion3 {
  /** The shape that moves. */
  readonly shape: AskingShape3
  /** Where its origin is at the start. */
  readonly from: Vec3
  /** Where its origin is at the end. */
  readonly to: Vec3
  /** At the start; default none. */
  readonly rotation?: Rotation | undefined
  /** By how much it turns on the way: the axis, as long as the radians (right-handed), not wrapped; default zero. */
  readonly turn?: Vec3 | undefined
}

/** What a moving shape meets. */
export interface CastHit3<K extends Kinds = AnyKinds> extends RayHit3<K> {
  /** At a start inside: how deep, along the normal, which is the way out. Otherwise 0. */
  depth: number
}

/** An object that `shapecast.first` can write into instead of making one. */
export function castHit<K extends Kinds = AnyKinds>(): CastHit3<K> {
  return { ...rayHit<K>(), depth: 0 }
}

const SHAPE_MOTION_FIELDS = ['shape', 'from', 'to', 'rotation', 'turn'] as const

/** The question "what does this moving shape meet?": `world.shapecast`. */
export class Shapecast<K extends Kinds> extends ShapecastModes<
  K,
  Body3<K>,
  Collider3<K>,
  MutableVec3,
  ShapeMotion3,
  CastHit3<K>,
  Scratch<K>
> {
  declare protected readonly geometry: Geometry

  /** @internal */
  constructor(pool: Pool3<K>) {
    super(pool, HIT_VECTORS)
  }

  protected override newHit(): CastHit3<K> {
    return castHit<K>()
  }

  protected override readMotion(motion: ShapeMotion3, { queryShape, line, turning }: Scratch<K>): boolean {
    readMotion(motion, queryShape, line, turning)
    return isTurning(turning)
  }

  protected override castPiece(scratch: Scratch<K>, own: number, piece: number): number {
    const { queryShape, line, castRecord, turning } = scratch
    const { geometry } = this
    const { world } = geometry
    const offset = geometry.offsetOf(piece)
    const surface = geometry.surfaces[piece]
    return isTurning(turning)
      ? turnAgainst(queryShape.own[own], world, offset, surface, turning, scratch, castRecord)
      : castAgainst(queryShape.placed, queryShape.offset[own], world, offset, surface, line, scratch, castRecord)
  }

  protected override writeOwn(values: Float64Array, at: number, out: CastHit3<K>): void {
    out.back = values[at + HIT_BACK] !== 0
  }
}

/** Checks a motion and writes it as numbers: the shape that asks, the line of its origin with its length, and how it turns. */
export function readMotion(
  motion: ShapeMotion3,
  queryShape: QueryShape,
  line: Float64Array,
  turning: Float64Array,
): void {
  onlyFields(motion, SHAPE_MOTION_FIELDS, 'a shape cast')
  const from = checkVec(motion.from, "'from' of a shape cast")
  const to = checkVec(motion.to, "'to' of a shape cast")
  queryShape.set(motion.shape, from, motion.rotation, 'a shape cast')
  line[0] = from.x
  line[1] = from.y
  line[2] = from.z
  line[3] = to.x - from.x
  line[4] = to.y - from.y
  line[5] = to.z - from.z
  finishLine(line, 3, 'a shape cast')
  for (let i = 0; i < 6; i++) turning[TURN_START + i] = line[i]
  for (let i = 0; i < 4; i++) turning[TURN_FROM + i] = queryShape.quaternion[i]
  const turn = motion.turn === undefined ? ORIGIN : checkVec(motion.turn, "'turn' of a shape cast")
  turning[TURN_BY] = turn.x
  turning[TURN_BY + 1] = turn.y
  turning[TURN_BY + 2] = turn.z
}

/** Whether a motion turns at all. */
export function isTurning(turning: Float64Array): boolean {
  return turning[TURN_BY] !== 0 || turning[TURN_BY + 1] !== 0 || turning[TURN_BY + 2] !== 0
}
