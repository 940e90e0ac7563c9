/** The question "what does this moving shape meet?". */

import type { Kinds } from '../../core/state/handle.ts'
import { callable, record as checkRecord, onlyFields } from '../../core/util/checks.ts'
import { castAgainst, turnAgainst } from '../narrow/cast.ts'
import { CAST_DEPTH, CAST_SIZE, INSIDE, MISS, TURN_BY, TURN_FROM, TURN_START } from '../narrow/records.ts'
import { checkVec, type MutableVec3, ORIGIN, type Rotation, type Vec3 } from '../vector.ts'
import type { Asked, AskingShape3 } from './asked.ts'
import { finishLine, HIT_VECTORS, type RayHit3, rayHit } from './ray.ts'
import {
  type Desk,
  type Filter3,
  HIT_BACK,
  HIT_DEPTH,
  HIT_NORMAL,
  HIT_POINT,
  HIT_SIZE,
  HIT_TRIANGLE,
  KEY,
  type Scratch,
} from './scratch.ts'

/** A shape on its way: from one point to another, at a rotation, turning by `turn` evenly on the way. */
export interface ShapeMotion3 {
  readonly shape: AskingShape3
  readonly from: Vec3
  readonly to: Vec3
  /** At the start; default none. */
  readonly rotation?: Rotation
  /** By how much it turns on the way: the axis, as long as the radians (right-handed), not wrapped; default zero. */
  readonly turn?: Vec3
}

export interface CastHit3<K extends Kinds> extends RayHit3<K> {
  /** At a start inside: how deep, along the normal, which is the way out. Otherwise 0. */
  depth: number
}

/** An object that `shapecast.first` can write into instead of making one. */
export function castHit<K extends Kinds = never>(): CastHit3<K> {
  return { ...rayHit<K>(), depth: 0 }
}

export const SHAPE_MOTION_FIELDS = ['shape', 'from', 'to', 'rotation', 'turn'] as const
const FIRST = 0
const ALL = 1
const ANY = 2

export class Shapecast<K extends Kinds> {
  private readonly desk: Desk<K>

  /** @internal */
  constructor(desk: Desk<K>) {
    this.desk = desk
  }

  /** The first hit on the way, or null. Of several at the same time the oldest collider. */
  first(motion: ShapeMotion3, filter?: Filter3<K>, out?: CastHit3<K>): CastHit3<K> | null {
    this.desk.checkHit(out, 'castHit', HIT_VECTORS)
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(motion, scratch, FIRST)
      if (scratch.found.colliders.length === 0) return null
      scratch.found.sort(true)
      return this.fill(scratch, scratch.found.order.data[0], out ?? castHit<K>())
    } finally {
      this.desk.release()
    }
  }

  /** Every hit, the first on the way first, at most one a collider. */
  all(motion: ShapeMotion3, filter?: Filter3<K>): CastHit3<K>[] {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(motion, scratch, ALL)
      scratch.found.sort(true)
      const { order } = scratch.found
      const hits: CastHit3<K>[] = []
      for (let i = 0; i < order.length; i++) hits.push(this.fill(scratch, order.data[i], castHit<K>()))
      return hits
    } finally {
      this.desk.release()
    }
  }

  /** Whether it meets anything on its way. */
  any(motion: ShapeMotion3, filter?: Filter3<K>): boolean {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(motion, scratch, ANY)
      return scratch.found.colliders.length > 0
    } finally {
      this.desk.release()
    }
  }

  /** Visits the hits, one a collider, in no particular order until the visitor returns false. The hit is reused. */
  each(motion: ShapeMotion3, visit: (hit: CastHit3<K>) => unknown, filter?: Filter3<K>): void {
    callable(visit, 'what `each` calls for each hit')
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(motion, scratch, ALL)
      const hit = castHit<K>()
      for (let i = 0; i < scratch.found.colliders.length; i++) if (visit(this.fill(scratch, i, hit)) === false) return
    } finally {
      this.desk.release()
    }
  }

  private gather(motion: ShapeMotion3, scratch: Scratch<K>, mode: number): void {
    const { space } = this.desk
    const { geometry } = space
    const { along, compiled, asked, line, half, best, record, found, turning } = scratch
    readMotion(motion, scratch)
    best[0] = 1
    // The walk follows the middle of the bounds; a shape that turns can be anywhere within its reach of its origin.
    const { bounds } = asked
    const turns = isTurning(turning)
    for (let i = 0; i < 3; i++) {
      if (!turns) line[i] = (bounds[i] + bounds[3 + i]) / 2
      half[i] = turns ? asked.reach : (bounds[3 + i] - bounds[i]) / 2
    }
    along.walk.begin(line, half, best)
    along.begin(space, compiled.mask, compiled.sensors)
    for (let piece = along.next(); piece >= 0; piece = along.next()) {
      const c = geometry.ownerOf(piece)
      if (!compiled.accepts(c)) continue
      if (compiled.skipInside && this.startsInside(scratch, c)) continue
      const met = this.meet(scratch, piece, record)
      if (met === MISS) continue
      found.put(c, piece, met === INSIDE, record)
      if (mode === FIRST && record[KEY] < best[0]) best[0] = record[KEY]
      if (mode === ANY) return
    }
  }

  /** The best of the asking pieces against one piece, into `out`. */
  private meet(scratch: Scratch<K>, piece: number, out: Float64Array): number {
    const { asked, line, castRecord, turning, best } = scratch
    const { geometry } = this.desk.space
    const { world } = geometry
    const offset = geometry.offsetOf(piece)
    const surface = geometry.surfaces[piece]
    const turns = isTurning(turning)
    let result = MISS
    for (let i = 0; i < asked.pieces; i++) {
      castRecord[KEY] = best[0]
      const met = turns
        ? turnAgainst(asked.own[i], world, offset, surface, turning, scratch, castRecord)
        : castAgainst(asked.placed, asked.offset[i], world, offset, surface, line, scratch, castRecord)
      if (met === MISS) continue
      const nearer = result === MISS || castRecord[KEY] < out[KEY]
      const deeper = castRecord[KEY] === out[KEY] && met === INSIDE && castRecord[CAST_DEPTH] > out[HIT_DEPTH]
      if (!nearer && !deeper) continue
      result = met
      for (let k = 0; k < CAST_SIZE; k++) out[k] = castRecord[k]
    }
    return result
  }

  private startsInside(scratch: Scratch<K>, c: number): boolean {
    const { geometry } = this.desk.space
    for (let piece = geometry.first.data[c]; piece >= 0; piece = geometry.after(piece)) {
      if (this.meet(scratch, piece, scratch.record) === INSIDE) return true
    }
    return false
  }

  private fill(scratch: Scratch<K>, index: number, out: CastHit3<K>): CastHit3<K> {
    const { found, line } = scratch
    const { geometry } = this.desk.space
    const piece = found.pieces.data[index]
    const at = HIT_SIZE * index
    const { values } = found
    out.collider = this.desk.colliderOf(geometry.ownerOf(piece))
    out.body = out.collider.body
    writeVec(out.point, values, at + HIT_POINT)
    writeVec(out.normal, values, at + HIT_NORMAL)
    out.fraction = values[at + KEY]
    out.distance = values[at + KEY] * line[6]
    out.startedInside = found.inside.data[index] !== 0
    out.depth = values[at + HIT_DEPTH]
    out.part = geometry.partOf(piece, values[at + HIT_TRIANGLE])
    out.back = values[at + HIT_BACK] !== 0
    out.child = geometry.childOf(piece)
    return out
  }
}

/** Checks a motion and writes it to the scratch. */
function readMotion<K extends Kinds>(motion: ShapeMotion3, scratch: Scratch<K>): void {
  checkRecord(motion, 'a shape cast')
  onlyFields(motion, SHAPE_MOTION_FIELDS, 'a shape cast')
  const from = checkVec(motion.from, "'from' of a shape cast")
  const to = checkVec(motion.to, "'to' of a shape cast")
  writeMotion(motion, from, to, scratch.asked, scratch.line, scratch.turning)
}

/** Writes a checked motion as numbers: the asking shape, the line of its origin with its length, and how it turns. */
export function writeMotion(
  motion: ShapeMotion3,
  from: Vec3,
  to: Vec3,
  asked: Asked,
  line: Float64Array,
  turning: Float64Array,
): void {
  asked.set(motion.shape, from, motion.rotation, 'a shape cast')
  line[0] = from.x
  line[1] = from.y
  line[2] = from.z
  line[3] = to.x - from.x
  line[4] = to.y - from.y
  line[5] = to.z - from.z
  finishLine(line, 'a shape cast')
  for (let i = 0; i < 6; i++) turning[TURN_START + i] = line[i]
  for (let i = 0; i < 4; i++) turning[TURN_FROM + i] = asked.quaternion[i]
  const turn = motion.turn === undefined ? ORIGIN : checkVec(motion.turn, "'turn' of a shape cast")
  turning[TURN_BY] = turn.x
  turning[TURN_BY + 1] = turn.y
  turning[TURN_BY + 2] = turn.z
}

/** Whether a motion turns at all. */
export function isTurning(turning: Float64Array): boolean {
  return turning[TURN_BY] !== 0 || turning[TURN_BY + 1] !== 0 || turning[TURN_BY + 2] !== 0
}

/** Writes three numbers as a vector; adding 0 turns -0 into 0. */
export function writeVec(out: MutableVec3, from: Float64Array, at: number): void {
  out.x = from[at] + 0
  out.y = from[at + 1] + 0
  out.z = from[at + 2] + 0
}
