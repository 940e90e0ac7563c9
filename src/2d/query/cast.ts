/** The question "what does this moving shape meet?". */

import type { Kinds } from '../../core/state/handle.ts'
import { callable, record as checkRecord, finite, onlyFields } from '../../core/util/checks.ts'
import { ANGLE } from '../../core/util/limits.ts'
import { CAST_DEPTH, CAST_SIZE, castAgainst, turnAgainst } from '../narrow/cast.ts'
import { INSIDE, MISS } from '../narrow/records.ts'
import { checkVec, type Vec2 } from '../vector.ts'
import type { AskingShape2 } from './asked.ts'
import { dropTinyMotion, HIT_VECTORS, type RayHit2, rayHit } from './ray.ts'
import { type Desk, type Filter2, HIT_DEPTH, HIT_NORMAL, HIT_POINT, HIT_SIZE, KEY, type Scratch } from './scratch.ts'
import { castSeams } from './seams.ts'

/** A shape on its way: from one point to another, at an angle, turning by `turn` evenly on the way. */
export interface ShapeMotion2 {
  readonly shape: AskingShape2
  readonly from: Vec2
  readonly to: Vec2
  /** At the start; default 0. */
  readonly angle?: number
  /** By how much it turns on the way, not wrapped; default 0. */
  readonly turn?: number
}

export interface CastHit2<K extends Kinds> extends RayHit2<K> {
  /** At a start inside: how deep, along the normal, which is the way out. Otherwise 0. */
  depth: number
}

/** An object that `shapecast.first` can write into instead of making one. */
export function castHit<K extends Kinds = never>(): CastHit2<K> {
  return { ...rayHit<K>(), depth: 0 }
}

export const SHAPE_MOTION_FIELDS = ['shape', 'from', 'to', 'angle', 'turn'] as const
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
  first(motion: ShapeMotion2, filter?: Filter2<K>, out?: CastHit2<K>): CastHit2<K> | null {
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
  all(motion: ShapeMotion2, filter?: Filter2<K>): CastHit2<K>[] {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(motion, scratch, ALL)
      scratch.found.sort(true)
      const { order } = scratch.found
      const hits: CastHit2<K>[] = []
      for (let i = 0; i < order.length; i++) hits.push(this.fill(scratch, order.data[i], castHit<K>()))
      return hits
    } finally {
      this.desk.release()
    }
  }

  /** Whether it meets anything on its way. */
  any(motion: ShapeMotion2, filter?: Filter2<K>): boolean {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(motion, scratch, ANY)
      return scratch.found.colliders.length > 0
    } finally {
      this.desk.release()
    }
  }

  /** Visits the hits, one a collider, in no particular order until the visitor returns false. The hit is reused. */
  each(motion: ShapeMotion2, visit: (hit: CastHit2<K>) => unknown, filter?: Filter2<K>): void {
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

  private gather(motion: ShapeMotion2, scratch: Scratch<K>, mode: number): void {
    const { space } = this.desk
    const { geometry } = space
    const { along, compiled, asked, line, half, best, record, found, turning } = scratch
    readMotion(motion, scratch)
    const turns = turning[5] !== 0
    best[0] = 1
    // The walk follows the middle of the bounds; a shape that turns can be anywhere within its reach of its origin.
    const { bounds } = asked
    if (turns) {
      half[0] = asked.reach
      half[1] = asked.reach
    } else {
      line[0] = (bounds[0] + bounds[2]) / 2
      line[1] = (bounds[1] + bounds[3]) / 2
      half[0] = (bounds[2] - bounds[0]) / 2
      half[1] = (bounds[3] - bounds[1]) / 2
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
    if (turns) return
    for (let i = 0; i < asked.pieces; i++) {
      castSeams(space, scratch, asked.placed, asked.offset[i], mode !== ALL)
    }
  }

  /** The best of the asking pieces against one piece, into `out`. */
  private meet(scratch: Scratch<K>, piece: number, out: Float64Array): number {
    const { asked, line, castRecord, turning } = scratch
    const { world } = this.desk.space.geometry
    const offset = this.desk.space.geometry.offsetOf(piece)
    let result = MISS
    for (let i = 0; i < asked.pieces; i++) {
      const met =
        turning[5] === 0
          ? castAgainst(asked.placed, asked.offset[i], world, offset, line, castRecord)
          : turnAgainst(asked.own[i], world, offset, turning, castRecord)
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

  private fill(scratch: Scratch<K>, index: number, out: CastHit2<K>): CastHit2<K> {
    const { found, line } = scratch
    const { geometry } = this.desk.space
    const piece = found.pieces.data[index]
    const at = HIT_SIZE * index
    const { values } = found
    out.collider = this.desk.colliderOf(geometry.ownerOf(piece))
    out.body = out.collider.body
    out.point.x = values[at + HIT_POINT]
    out.point.y = values[at + HIT_POINT + 1]
    out.normal.x = values[at + HIT_NORMAL] + 0
    out.normal.y = values[at + HIT_NORMAL + 1] + 0
    out.fraction = values[at + KEY]
    out.distance = values[at + KEY] * line[4]
    out.startedInside = found.inside.data[index] !== 0
    out.depth = values[at + HIT_DEPTH]
    out.part = geometry.partOf(piece)
    out.child = geometry.childOf(piece)
    return out
  }
}

/** Checks a motion and writes it to the scratch. */
function readMotion<K extends Kinds>(motion: ShapeMotion2, scratch: Scratch<K>): void {
  checkRecord(motion, 'a shape cast')
  onlyFields(motion, SHAPE_MOTION_FIELDS, 'a shape cast')
  const from = checkVec(motion.from, "'from' of a shape cast")
  const to = checkVec(motion.to, "'to' of a shape cast")
  const { asked, line, turning } = scratch
  asked.set(motion.shape, from, motion.angle, 'a shape cast')
  line[0] = from.x
  line[1] = from.y
  line[2] = to.x - from.x
  line[3] = to.y - from.y
  dropTinyMotion(line)
  if (!Number.isFinite(line[2] + line[3])) finite(Number.NaN, 'the length of a shape cast')
  line[4] = Math.sqrt(line[2] * line[2] + line[3] * line[3])
  for (let i = 0; i < 4; i++) turning[i] = line[i]
  turning[4] = motion.angle ?? 0
  turning[5] = motion.turn === undefined ? 0 : finite(motion.turn, "'turn' of a shape cast", ANGLE)
}
