/** The questions "whom does this standing shape overlap?" and "who is nearest to it?". */

import type { Kinds } from '../../core/state/handle.ts'
import { MOVERS, RESTING_SENSORS, STATICS } from '../../core/step/broadPhase.ts'
import { callable, record as checkRecord, notNegative, onlyFields } from '../../core/util/checks.ts'
import { KeenError } from '../../core/util/errors.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import type { Geometry } from '../geometry.ts'
import { gapOfPieces, piecesMeet } from '../narrow/pair.ts'
import { DISTANCE, NORMAL, POINT_B } from '../narrow/records.ts'
import { COUNT, KIND, PLANE } from '../shapes/layout.ts'
import { checkVec, type MutableVec2, type Vec2 } from '../vector.ts'
import type { Asked, AskingShape2 } from './asked.ts'
import { type Desk, type Filter2, HIT_NORMAL, HIT_POINT, HIT_SIZE, KEY, type Scratch } from './scratch.ts'

/** A standing shape. */
export interface ShapePlace2 {
  readonly shape: AskingShape2
  readonly at: Vec2
  /** Default 0. */
  readonly angle?: number
  /** Ask for depth, normal and point too. */
  readonly depth?: boolean
}

export interface OverlapHit2<K extends Kinds> {
  collider: Collider2<K>
  body: Body2<K>
  /** The edge of a polyline, in the user's own numbering; -1 for other shapes. */
  part: number
  /** Index in the compound; -1 for other shapes. */
  child: number
  /** How deep they overlap along the normal; 0 unless asked for. */
  depth: number
  /** The way out, unit; null unless asked for. */
  normal: MutableVec2 | null
  /** On the surface of what was met; null unless asked for. */
  point: MutableVec2 | null
}

/** A point, or a standing shape, and how far to look. */
export type NearestPlace2 =
  | { readonly point: Vec2; readonly reach?: number }
  | { readonly shape: AskingShape2; readonly at: Vec2; readonly angle?: number; readonly reach?: number }

export interface NearestHit2<K extends Kinds> {
  collider: Collider2<K>
  body: Body2<K>
  /** The nearest point of what was met. */
  point: MutableVec2
  /** Unit, towards the asker; inside, the way out. */
  normal: MutableVec2
  /** Metres; negative inside. */
  distance: number
  part: number
  child: number
}

/** An object that `overlap.first` can write into instead of making one. */
export function overlapHit<K extends Kinds = never>(): OverlapHit2<K> {
  return { collider: null as never, body: null as never, part: -1, child: -1, depth: 0, normal: null, point: null }
}

/** An object that `nearest.first` can write into instead of making one. */
export function nearestHit<K extends Kinds = never>(): NearestHit2<K> {
  return {
    collider: null as never,
    body: null as never,
    point: { x: 0, y: 0 },
    normal: { x: 0, y: 0 },
    distance: 0,
    part: -1,
    child: -1,
  }
}

const NEAREST_VECTORS = ['point', 'normal'] as const
const PLACE_FIELDS = ['shape', 'at', 'angle', 'depth'] as const
const POINT_FIELDS = ['point', 'reach'] as const
const SHAPE_FIELDS = ['shape', 'at', 'angle', 'reach'] as const

/** The least gap of the asking pieces and one piece, into `scratch.record` as key, normal towards the asker, point. */
function leastGap<K extends Kinds>(desk: Desk<K>, scratch: Scratch<K>, piece: number): void {
  const { asked, gap, record } = scratch
  const { world } = desk.space.geometry
  record[KEY] = Infinity
  for (let i = 0; i < asked.pieces; i++) {
    gapOfPieces(asked.placed, asked.offset[i], world, desk.space.geometry.offsetOf(piece), gap)
    if (gap[DISTANCE] >= record[KEY]) continue
    record[KEY] = gap[DISTANCE]
    record[HIT_NORMAL] = -gap[NORMAL]
    record[HIT_NORMAL + 1] = -gap[NORMAL + 1]
    record[HIT_POINT] = gap[POINT_B]
    record[HIT_POINT + 1] = gap[POINT_B + 1]
  }
}

const UNKNOWN = -1

/** Part of the coordinates by which a touch is left to the exact test: it must not say otherwise, nor the one with the depth. */
const DOUBT = 4e-15

/**
 * Whether the one asking shape, a box along the axes, overlaps a piece: 1, 0 or UNKNOWN. It does when any core point of
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

/** Whether a piece overlaps any of the asking pieces, or touches one. */
function meets(geometry: Geometry, asked: Asked, piece: number): boolean {
  const q = geometry.world
  const at = geometry.offsetOf(piece)
  if (asked.fills && q[at + KIND] !== PLANE) {
    const known = boxMeets(asked.bounds, q, at)
    if (known !== UNKNOWN) return known === 1
  }
  for (let i = 0; i < asked.pieces; i++) {
    if (piecesMeet(asked.placed, asked.offset[i], q, at)) return true
  }
  return false
}

export class Overlap<K extends Kinds> {
  private readonly desk: Desk<K>

  /** @internal */
  constructor(desk: Desk<K>) {
    this.desk = desk
  }

  /** The oldest collider that it overlaps, or null. Exact touch counts. */
  first(place: ShapePlace2, filter?: Filter2<K>, out?: OverlapHit2<K>): OverlapHit2<K> | null {
    this.desk.checkHit(out, 'overlapHit', NEAREST_VECTORS, true)
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(place, scratch, false)
      if (scratch.found.colliders.length === 0) return null
      scratch.found.sort(false)
      return this.fill(scratch, scratch.found.order.data[0], place.depth === true, out ?? overlapHit<K>())
    } finally {
      this.desk.release()
    }
  }

  /** Everything that it overlaps, one hit a collider, by age. */
  all(place: ShapePlace2, filter?: Filter2<K>): OverlapHit2<K>[] {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(place, scratch, false)
      scratch.found.sort(false)
      const { order } = scratch.found
      const hits: OverlapHit2<K>[] = []
      for (let i = 0; i < order.length; i++) {
        hits.push(this.fill(scratch, order.data[i], place.depth === true, overlapHit<K>()))
      }
      return hits
    } finally {
      this.desk.release()
    }
  }

  /** Whether it overlaps anything. */
  any(place: ShapePlace2, filter?: Filter2<K>): boolean {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(place, scratch, true)
      return scratch.found.colliders.length > 0
    } finally {
      this.desk.release()
    }
  }

  /** Visits what it overlaps, in no particular order until the visitor returns false. The hit is reused. */
  each(place: ShapePlace2, visit: (hit: OverlapHit2<K>) => unknown, filter?: Filter2<K>): void {
    callable(visit, 'what `each` calls for each hit')
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(place, scratch, false)
      const hit = overlapHit<K>()
      for (let i = 0; i < scratch.found.colliders.length; i++) {
        if (visit(this.fill(scratch, i, place.depth === true, hit)) === false) return
      }
    } finally {
      this.desk.release()
    }
  }

  private gather(place: ShapePlace2, scratch: Scratch<K>, any: boolean): void {
    checkRecord(place, 'an overlap')
    onlyFields(place, PLACE_FIELDS, 'an overlap')
    const at = checkVec(place.at, "'at' of an overlap")
    const { space } = this.desk
    const { compiled, asked, near, stack } = scratch
    const { planes, trees } = space
    const depth = place.depth === true
    asked.set(place.shape, at, place.angle, 'an overlap')
    if (trees[STATICS].count > 0) trees[STATICS].search(asked.bounds, 0, compiled.mask, near, stack)
    const certain = compiled.plain ? near.length : 0
    if (trees[MOVERS].count > 0) trees[MOVERS].search(asked.bounds, 0, compiled.mask, near, stack)
    if (compiled.sensors) trees[RESTING_SENSORS].search(asked.bounds, 0, compiled.mask, near, stack)
    for (let i = 0; i < planes.length; i++) near.push(planes.data[i])
    this.sift(scratch, certain, depth, any)
  }

  /** Puts what overlaps, of the pieces near by, among the found; of the first `certain` no filter need be asked. */
  private sift(scratch: Scratch<K>, certain: number, depth: boolean, any: boolean): void {
    const { space } = this.desk
    const { compiled, asked, near, found, record } = scratch
    const { geometry } = space
    for (let i = 0; i < near.length; i++) {
      const piece = near.data[i]
      const c = geometry.ownerOf(piece)
      if (i >= certain && !compiled.accepts(c)) continue
      if (depth) {
        leastGap(this.desk, scratch, piece)
        if (!(record[KEY] <= 0)) continue
        found.put(c, piece, false, record)
      } else {
        if (!meets(geometry, asked, piece)) continue
        found.add(c, piece, geometry.hasSiblings(piece))
      }
      if (any) return
    }
  }

  private fill(scratch: Scratch<K>, index: number, depth: boolean, out: OverlapHit2<K>): OverlapHit2<K> {
    const { found } = scratch
    const { geometry } = this.desk.space
    const piece = found.pieces.data[index]
    const at = HIT_SIZE * index
    const { values } = found
    const c = found.colliders.data[index]
    out.collider = this.desk.colliderOf(c)
    out.body = this.desk.bodyOf(c)
    out.part = geometry.partOf(piece)
    out.child = geometry.childOf(piece)
    out.depth = depth ? 0 - values[at + KEY] : 0
    if (!depth) {
      out.normal = null
      out.point = null
      return out
    }
    out.normal ??= { x: 0, y: 0 }
    out.point ??= { x: 0, y: 0 }
    out.normal.x = values[at + HIT_NORMAL] + 0
    out.normal.y = values[at + HIT_NORMAL + 1] + 0
    out.point.x = values[at + HIT_POINT]
    out.point.y = values[at + HIT_POINT + 1]
    return out
  }
}

export class Nearest<K extends Kinds> {
  private readonly desk: Desk<K>

  /** @internal */
  constructor(desk: Desk<K>) {
    this.desk = desk
  }

  /** The nearest collider within reach, or null. Of several equally near the oldest. */
  first(place: NearestPlace2, filter?: Filter2<K>, out?: NearestHit2<K>): NearestHit2<K> | null {
    this.desk.checkHit(out, 'nearestHit', NEAREST_VECTORS)
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(place, scratch, true)
      if (scratch.found.colliders.length === 0) return null
      scratch.found.sort(true)
      return this.fill(scratch, scratch.found.order.data[0], out ?? nearestHit<K>())
    } finally {
      this.desk.release()
    }
  }

  /** Every collider within reach, nearest first. */
  all(place: NearestPlace2, filter?: Filter2<K>): NearestHit2<K>[] {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(place, scratch, false)
      scratch.found.sort(true)
      const { order } = scratch.found
      const hits: NearestHit2<K>[] = []
      for (let i = 0; i < order.length; i++) hits.push(this.fill(scratch, order.data[i], nearestHit<K>()))
      return hits
    } finally {
      this.desk.release()
    }
  }

  private gather(place: NearestPlace2, scratch: Scratch<K>, first: boolean): void {
    checkRecord(place, 'a question for the nearest')
    const { around, asked, compiled, best, record, found } = scratch
    if ('point' in place) {
      onlyFields(place, POINT_FIELDS, "a question for the nearest with 'point'")
      asked.setPoint(checkVec(place.point, "'point' of a question for the nearest"))
    } else if ('shape' in place) {
      onlyFields(place, SHAPE_FIELDS, "a question for the nearest with 'shape'")
      const at = checkVec(place.at, "'at' of a question for the nearest")
      asked.set(place.shape, at, place.angle, 'a question for the nearest')
    } else throw new KeenError('bad-argument', "a question for the nearest needs 'point', or 'shape' and 'at'")
    const endless = place.reach === undefined || place.reach === Infinity
    const reach = endless ? Infinity : notNegative(place.reach, "'reach' of a question for the nearest")
    best[0] = reach
    around.walk.begin(asked.bounds, best)
    around.begin(this.desk.space, compiled.mask, compiled.sensors)
    for (let piece = around.next(); piece >= 0; piece = around.next()) {
      const c = this.desk.space.geometry.ownerOf(piece)
      if (!compiled.accepts(c)) continue
      leastGap(this.desk, scratch, piece)
      if (record[KEY] > best[0]) continue
      found.put(c, piece, false, record)
      if (first) best[0] = record[KEY]
    }
  }

  private fill(scratch: Scratch<K>, index: number, out: NearestHit2<K>): NearestHit2<K> {
    const { found } = scratch
    const { geometry } = this.desk.space
    const piece = found.pieces.data[index]
    const at = HIT_SIZE * index
    const { values } = found
    out.collider = this.desk.colliderOf(geometry.ownerOf(piece))
    out.body = out.collider.body
    out.distance = values[at + KEY]
    out.normal.x = values[at + HIT_NORMAL] + 0
    out.normal.y = values[at + HIT_NORMAL + 1] + 0
    out.point.x = values[at + HIT_POINT]
    out.point.y = values[at + HIT_POINT + 1]
    out.part = geometry.partOf(piece)
    out.child = geometry.childOf(piece)
    return out
  }
}
