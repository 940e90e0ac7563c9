/** The questions "whom does this standing shape overlap?" and "who is nearest to it?". */

import type { Kinds } from '../../core/state/handle.ts'
import { MOVERS, RESTING_SENSORS, STATICS } from '../../core/step/broadPhase.ts'
import { callable, record as checkRecord, notNegative, onlyFields } from '../../core/util/checks.ts'
import { KeenError } from '../../core/util/errors.ts'
import type { Body3 } from '../body.ts'
import type { Collider3 } from '../collider.ts'
import { meet } from '../narrow/gap.ts'
import { DISTANCE, NORMAL, POINT_B } from '../narrow/records.ts'
import { gapToPiece, triangleMet } from '../narrow/standing.ts'
import { BODY, PLANE } from '../shapes/layout.ts'
import { checkVec, type MutableVec3, type Rotation, type Vec3 } from '../vector.ts'
import type { AskingShape3 } from './asked.ts'
import { writeVec } from './cast.ts'
import { type Desk, type Filter3, HIT_NORMAL, HIT_POINT, HIT_SIZE, HIT_TRIANGLE, KEY, type Scratch } from './scratch.ts'

/** A standing shape. */
export interface ShapePlace3 {
  readonly shape: AskingShape3
  readonly at: Vec3
  /** Default none. */
  readonly rotation?: Rotation
  /** Ask for depth, normal and point too. */
  readonly depth?: boolean
}

export interface OverlapHit3<K extends Kinds> {
  collider: Collider3<K>
  body: Body3<K>
  /** The triangle of a mesh or a heightfield, in the user's own numbering; -1 for other shapes. */
  part: number
  /** Index in the compound; -1 for other shapes. */
  child: number
  /** How deep they overlap along the normal; 0 unless asked for. */
  depth: number
  /** The way out, unit; null unless asked for. */
  normal: MutableVec3 | null
  /** On the surface of what was met; null unless asked for. */
  point: MutableVec3 | null
}

/** A point, or a standing shape, and how far to look. */
export type NearestPlace3 =
  | { readonly point: Vec3; readonly reach?: number }
  | { readonly shape: AskingShape3; readonly at: Vec3; readonly rotation?: Rotation; readonly reach?: number }

export interface NearestHit3<K extends Kinds> {
  collider: Collider3<K>
  body: Body3<K>
  /** The nearest point of what was met. */
  point: MutableVec3
  /** Unit, towards the asker; inside, the way out. */
  normal: MutableVec3
  /** Metres; negative inside. */
  distance: number
  part: number
  child: number
}

/** An object that `overlap.first` can write into instead of making one. */
export function overlapHit<K extends Kinds = never>(): OverlapHit3<K> {
  return { collider: null as never, body: null as never, part: -1, child: -1, depth: 0, normal: null, point: null }
}

/** An object that `nearest.first` can write into instead of making one. */
export function nearestHit<K extends Kinds = never>(): NearestHit3<K> {
  return {
    collider: null as never,
    body: null as never,
    point: { x: 0, y: 0, z: 0 },
    normal: { x: 0, y: 0, z: 0 },
    distance: 0,
    part: -1,
    child: -1,
  }
}

const NEAREST_VECTORS = ['point', 'normal'] as const
const PLACE_FIELDS = ['shape', 'at', 'rotation', 'depth'] as const
const POINT_FIELDS = ['point', 'reach'] as const
const SHAPE_FIELDS = ['shape', 'at', 'rotation', 'reach'] as const

/** How far triangles are looked for where only overlaps count. */
const TOUCHING = new Float64Array(1)

/** The least gap of the asking pieces and one piece, into `scratch.record` as key, normal towards the asker, point. */
function leastGap<K extends Kinds>(desk: Desk<K>, scratch: Scratch<K>, piece: number, within: Float64Array): void {
  const { asked, gap, record } = scratch
  const { geometry } = desk.space
  const { world } = geometry
  const offset = geometry.offsetOf(piece)
  const surface = geometry.surfaces[piece]
  record[KEY] = Infinity
  for (let i = 0; i < asked.pieces; i++) {
    const triangle = gapToPiece(asked.placed, asked.offset[i], asked.bounds, 0, world, offset, surface, within, gap)
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
 * Whether a piece overlaps any of the asking pieces, or touches one.
 * @returns a triangle of a surface that does, 0 for other pieces, -1 for none
 */
function meets<K extends Kinds>(desk: Desk<K>, scratch: Scratch<K>, piece: number): number {
  const { asked, gap } = scratch
  const { geometry } = desk.space
  const q = geometry.world
  const at = geometry.offsetOf(piece)
  const surface = geometry.surfaces[piece]
  for (let i = 0; i < asked.pieces; i++) {
    if (surface !== null) {
      const triangle = triangleMet(asked.placed, asked.offset[i], asked.bounds, 0, q, at, surface, gap)
      if (triangle >= 0) return triangle
    } else if (asked.fills && holdsPoint(asked.bounds, q, at)) return 0
    else if (meet(asked.placed, asked.offset[i], q, at, gap)) return 0
  }
  return -1
}

/** Whether the one asking shape, a box along the axes, holds the middle of a piece well inside: then the two overlap. */
function holdsPoint(bounds: Float64Array, q: Float64Array, at: number): boolean {
  // Of a plane it is no point; everything else begins with one that lies in it.
  if (q[at] === PLANE) return false
  for (let i = 0; i < 3; i++) {
    const value = q[at + BODY + i]
    if (!(value > bounds[i] && value < bounds[3 + i])) return false
  }
  return true
}

export class Overlap<K extends Kinds> {
  private readonly desk: Desk<K>

  /** @internal */
  constructor(desk: Desk<K>) {
    this.desk = desk
  }

  /** The oldest collider that it overlaps, or null. Exact touch counts. */
  first(place: ShapePlace3, filter?: Filter3<K>, out?: OverlapHit3<K>): OverlapHit3<K> | null {
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
  all(place: ShapePlace3, filter?: Filter3<K>): OverlapHit3<K>[] {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(place, scratch, false)
      scratch.found.sort(false)
      const { order } = scratch.found
      const hits: OverlapHit3<K>[] = []
      for (let i = 0; i < order.length; i++) {
        hits.push(this.fill(scratch, order.data[i], place.depth === true, overlapHit<K>()))
      }
      return hits
    } finally {
      this.desk.release()
    }
  }

  /** Whether it overlaps anything. */
  any(place: ShapePlace3, filter?: Filter3<K>): boolean {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(place, scratch, true)
      return scratch.found.colliders.length > 0
    } finally {
      this.desk.release()
    }
  }

  /** Visits what it overlaps, in no particular order until the visitor returns false. The hit is reused. */
  each(place: ShapePlace3, visit: (hit: OverlapHit3<K>) => unknown, filter?: Filter3<K>): void {
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

  private gather(place: ShapePlace3, scratch: Scratch<K>, any: boolean): void {
    checkRecord(place, 'an overlap')
    onlyFields(place, PLACE_FIELDS, 'an overlap')
    const at = checkVec(place.at, "'at' of an overlap")
    const { space } = this.desk
    const { compiled, asked, near, stack } = scratch
    const { planes, trees } = space
    const depth = place.depth === true
    asked.set(place.shape, at, place.rotation, 'an overlap')
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
    const { compiled, near, found, record } = scratch
    const { geometry } = space
    for (let i = 0; i < near.length; i++) {
      const piece = near.data[i]
      const c = geometry.ownerOf(piece)
      if (i >= certain && !compiled.accepts(c)) continue
      if (depth) {
        leastGap(this.desk, scratch, piece, TOUCHING)
        if (!(record[KEY] <= 0)) continue
        found.put(c, piece, false, record)
      } else {
        const triangle = meets(this.desk, scratch, piece)
        if (triangle < 0) continue
        record[KEY] = 0
        record[HIT_TRIANGLE] = triangle
        found.put(c, piece, false, record)
      }
      if (any) return
    }
  }

  private fill(scratch: Scratch<K>, index: number, depth: boolean, out: OverlapHit3<K>): OverlapHit3<K> {
    const { found } = scratch
    const { geometry } = this.desk.space
    const piece = found.pieces.data[index]
    const at = HIT_SIZE * index
    const { values } = found
    const c = found.colliders.data[index]
    out.collider = this.desk.colliderOf(c)
    out.body = this.desk.bodyOf(c)
    out.part = geometry.partOf(piece, values[at + HIT_TRIANGLE])
    out.child = geometry.childOf(piece)
    out.depth = depth ? 0 - values[at + KEY] : 0
    if (!depth) {
      out.normal = null
      out.point = null
      return out
    }
    out.normal ??= { x: 0, y: 0, z: 0 }
    out.point ??= { x: 0, y: 0, z: 0 }
    writeVec(out.normal, values, at + HIT_NORMAL)
    writeVec(out.point, values, at + HIT_POINT)
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
  first(place: NearestPlace3, filter?: Filter3<K>, out?: NearestHit3<K>): NearestHit3<K> | null {
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
  all(place: NearestPlace3, filter?: Filter3<K>): NearestHit3<K>[] {
    const scratch = this.desk.acquire(filter)
    try {
      this.gather(place, scratch, false)
      scratch.found.sort(true)
      const { order } = scratch.found
      const hits: NearestHit3<K>[] = []
      for (let i = 0; i < order.length; i++) hits.push(this.fill(scratch, order.data[i], nearestHit<K>()))
      return hits
    } finally {
      this.desk.release()
    }
  }

  private gather(place: NearestPlace3, scratch: Scratch<K>, first: boolean): void {
    checkRecord(place, 'a question for the nearest')
    const { around, asked, compiled, best, record, found } = scratch
    if ('point' in place) {
      onlyFields(place, POINT_FIELDS, "a question for the nearest with 'point'")
      asked.setPoint(checkVec(place.point, "'point' of a question for the nearest"))
    } else if ('shape' in place) {
      onlyFields(place, SHAPE_FIELDS, "a question for the nearest with 'shape'")
      const at = checkVec(place.at, "'at' of a question for the nearest")
      asked.set(place.shape, at, place.rotation, 'a question for the nearest')
    } else throw new KeenError('bad-argument', "a question for the nearest needs 'point', or 'shape' and 'at'")
    const endless = place.reach === undefined || place.reach === Infinity
    const reach = endless ? Infinity : notNegative(place.reach, "'reach' of a question for the nearest")
    best[0] = reach
    around.walk.begin(asked.bounds, best)
    around.begin(this.desk.space, compiled.mask, compiled.sensors)
    for (let piece = around.next(); piece >= 0; piece = around.next()) {
      const c = this.desk.space.geometry.ownerOf(piece)
      if (!compiled.accepts(c)) continue
      leastGap(this.desk, scratch, piece, best)
      if (record[KEY] > best[0]) continue
      found.put(c, piece, false, record)
      if (first) best[0] = record[KEY]
    }
  }

  private fill(scratch: Scratch<K>, index: number, out: NearestHit3<K>): NearestHit3<K> {
    const { found } = scratch
    const { geometry } = this.desk.space
    const piece = found.pieces.data[index]
    const at = HIT_SIZE * index
    const { values } = found
    out.collider = this.desk.colliderOf(geometry.ownerOf(piece))
    out.body = out.collider.body
    out.distance = values[at + KEY]
    writeVec(out.normal, values, at + HIT_NORMAL)
    writeVec(out.point, values, at + HIT_POINT)
    out.part = geometry.partOf(piece, values[at + HIT_TRIANGLE])
    out.child = geometry.childOf(piece)
    return out
  }
}
