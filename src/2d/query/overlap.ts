/** The questions "whom does this standing shape overlap?" and "who is nearest to it?". */
import { record as checkRecord, notNegative, onlyFields } from '../../core/checks.ts'
import { KeenError } from '../../core/errors.ts'
import type { Kinds } from '../../core/handle.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import { DISTANCE, NORMAL, POINT_B } from '../narrow/gap.ts'
import { gapOfPieces } from '../narrow/pair.ts'
import { PLANE } from '../shapes/shape.ts'
import { MOVERS, RESTING_SENSORS, STATICS } from '../space.ts'
import { checkVec, type MutableVec2, type Vec2 } from '../vector.ts'
import type { AskingShape2 } from './asked.ts'
import { type Desk, type Filter2, HIT_NORMAL, HIT_POINT, HIT_SIZE, KEY, type Scratch } from './scratch.ts'
import { aroundBox } from './walk.ts'

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

const PLACE_FIELDS = ['shape', 'at', 'angle', 'depth'] as const
const POINT_FIELDS = ['point', 'reach'] as const
const SHAPE_FIELDS = ['shape', 'at', 'angle', 'reach'] as const

/** The least gap of the asking pieces and one piece, into `scratch.record` as key, normal towards the asker, point. */
function leastGap<K extends Kinds>(desk: Desk<K>, scratch: Scratch<K>, piece: number): void {
  const { asked, gap, record } = scratch
  const { world, offset, count, kind } = desk.space.geometry
  record[KEY] = Infinity
  for (let i = 0; i < asked.pieces; i++) {
    gapOfPieces(
      asked.placed,
      asked.offset[i],
      asked.count[i],
      0,
      world,
      offset.data[piece],
      count.data[piece],
      kind.data[piece],
      gap,
    )
    if (gap[DISTANCE] >= record[KEY]) continue
    record[KEY] = gap[DISTANCE]
    record[HIT_NORMAL] = -gap[NORMAL]
    record[HIT_NORMAL + 1] = -gap[NORMAL + 1]
    record[HIT_POINT] = gap[POINT_B]
    record[HIT_POINT + 1] = gap[POINT_B + 1]
  }
}

/** Whether the first core point of a piece lies in an asking piece: then they overlap, and no gap need be searched. */
function holdsPoint<K extends Kinds>(desk: Desk<K>, scratch: Scratch<K>, piece: number): boolean {
  const { asked } = scratch
  const { world, offset, kind } = desk.space.geometry
  if (kind.data[piece] === PLANE) return false
  const at = offset.data[piece]
  const x = world[at + 1]
  const y = world[at + 2]
  const { placed } = asked
  for (let i = 0; i < asked.pieces; i++) {
    const from = asked.offset[i]
    const n = asked.count[i]
    if (n < 3) continue
    let inside = true
    let px = placed[from + 2 * n - 1]
    let py = placed[from + 2 * n]
    for (let k = from + 1; inside && k <= from + 2 * n; k += 2) {
      inside = (placed[k] - px) * (y - py) - (placed[k + 1] - py) * (x - px) >= 0
      px = placed[k]
      py = placed[k + 1]
    }
    if (inside) return true
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
    const scratch = this.desk.take(filter)
    try {
      this.gather(place, scratch, false)
      if (scratch.found.colliders.length === 0) return null
      scratch.sort(false)
      return this.fill(scratch, scratch.found.order.data[0], place.depth === true, out ?? overlapHit<K>())
    } finally {
      this.desk.give()
    }
  }

  /** Everything that it overlaps, one hit a collider, by age. */
  all(place: ShapePlace2, filter?: Filter2<K>): OverlapHit2<K>[] {
    const scratch = this.desk.take(filter)
    try {
      this.gather(place, scratch, false)
      scratch.sort(false)
      const { order } = scratch.found
      const hits: OverlapHit2<K>[] = []
      for (let i = 0; i < order.length; i++) {
        hits.push(this.fill(scratch, order.data[i], place.depth === true, overlapHit<K>()))
      }
      return hits
    } finally {
      this.desk.give()
    }
  }

  /** Whether it overlaps anything. */
  any(place: ShapePlace2, filter?: Filter2<K>): boolean {
    const scratch = this.desk.take(filter)
    try {
      this.gather(place, scratch, true)
      return scratch.found.colliders.length > 0
    } finally {
      this.desk.give()
    }
  }

  /** Visits what it overlaps, in no particular order until the visitor returns false. The hit is reused. */
  each(place: ShapePlace2, visit: (hit: OverlapHit2<K>) => unknown, filter?: Filter2<K>): void {
    const scratch = this.desk.take(filter)
    try {
      this.gather(place, scratch, false)
      const hit = overlapHit<K>()
      for (let i = 0; i < scratch.found.colliders.length; i++) {
        if (visit(this.fill(scratch, i, place.depth === true, hit)) === false) return
      }
    } finally {
      this.desk.give()
    }
  }

  private gather(place: ShapePlace2, scratch: Scratch<K>, any: boolean): void {
    checkRecord(place, 'an overlap')
    onlyFields(place, PLACE_FIELDS, 'an overlap')
    const at = checkVec(place.at, "'at' of an overlap")
    const { space } = this.desk
    const { asking, asked, near, stack, found, record } = scratch
    asked.set(place.shape, at.x, at.y, place.angle, 'an overlap')
    for (let i = 0; i < space.planes.length; i++) near.push(space.planes.data[i])
    space.trees[STATICS].search(asked.bounds, 0, asking.mask, near, stack)
    space.trees[MOVERS].search(asked.bounds, 0, asking.mask, near, stack)
    if (asking.sensors) space.trees[RESTING_SENSORS].search(asked.bounds, 0, asking.mask, near, stack)
    const { owner } = space.geometry
    for (let i = 0; i < near.length; i++) {
      const piece = near.data[i]
      const c = owner.data[piece]
      if (!asking.accepts(c)) continue
      if (place.depth !== true && holdsPoint(this.desk, scratch, piece)) record[KEY] = 0
      else {
        leastGap(this.desk, scratch, piece)
        if (!(record[KEY] <= 0)) continue
      }
      found.put(c, piece, false, record)
      if (any) return
    }
  }

  private fill(scratch: Scratch<K>, index: number, depth: boolean, out: OverlapHit2<K>): OverlapHit2<K> {
    const { found } = scratch
    const { geometry } = this.desk.space
    const piece = found.pieces.data[index]
    const at = HIT_SIZE * index
    const { values } = found
    out.collider = this.desk.colliderOf(geometry.owner.data[piece])
    out.body = out.collider.body
    out.part = geometry.part.data[piece]
    out.child = geometry.child.data[piece]
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
    const scratch = this.desk.take(filter)
    try {
      this.gather(place, scratch, true)
      if (scratch.found.colliders.length === 0) return null
      scratch.sort(true)
      return this.fill(scratch, scratch.found.order.data[0], out ?? nearestHit<K>())
    } finally {
      this.desk.give()
    }
  }

  /** Every collider within reach, nearest first. */
  all(place: NearestPlace2, filter?: Filter2<K>): NearestHit2<K>[] {
    const scratch = this.desk.take(filter)
    try {
      this.gather(place, scratch, false)
      scratch.sort(true)
      const { order } = scratch.found
      const hits: NearestHit2<K>[] = []
      for (let i = 0; i < order.length; i++) hits.push(this.fill(scratch, order.data[i], nearestHit<K>()))
      return hits
    } finally {
      this.desk.give()
    }
  }

  private gather(place: NearestPlace2, scratch: Scratch<K>, first: boolean): void {
    checkRecord(place, 'a question for the nearest')
    const { asked, asking, best, record, found } = scratch
    if ('point' in place) {
      onlyFields(place, POINT_FIELDS, "a question for the nearest with 'point'")
      const { x, y } = checkVec(place.point, "'point' of a question for the nearest")
      asked.setPoint(x, y)
    } else if ('shape' in place) {
      onlyFields(place, SHAPE_FIELDS, "a question for the nearest with 'shape'")
      const { x, y } = checkVec(place.at, "'at' of a question for the nearest")
      asked.set(place.shape, x, y, place.angle, 'a question for the nearest')
    } else throw new KeenError('bad-argument', "a question for the nearest needs 'point', or 'shape' and 'at'")
    const endless = place.reach === undefined || place.reach === Infinity
    const reach = endless ? Infinity : notNegative(place.reach, "'reach' of a question for the nearest")
    const { owner } = this.desk.space.geometry
    best[0] = reach
    aroundBox(this.desk.space, scratch, asked.bounds, (piece) => {
      const c = owner.data[piece]
      if (!asking.accepts(c)) return true
      leastGap(this.desk, scratch, piece)
      if (record[KEY] > best[0]) return true
      found.put(c, piece, false, record)
      if (first) best[0] = record[KEY]
      return true
    })
  }

  private fill(scratch: Scratch<K>, index: number, out: NearestHit2<K>): NearestHit2<K> {
    const { found } = scratch
    const { geometry } = this.desk.space
    const piece = found.pieces.data[index]
    const at = HIT_SIZE * index
    const { values } = found
    out.collider = this.desk.colliderOf(geometry.owner.data[piece])
    out.body = out.collider.body
    out.distance = values[at + KEY]
    out.normal.x = values[at + HIT_NORMAL] + 0
    out.normal.y = values[at + HIT_NORMAL + 1] + 0
    out.point.x = values[at + HIT_POINT]
    out.point.y = values[at + HIT_POINT + 1]
    out.part = geometry.part.data[piece]
    out.child = geometry.child.data[piece]
    return out
  }
}
