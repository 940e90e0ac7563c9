/** The question "what does this ray meet?". */

import { findSeams, putSeams } from '../../core/query/seamHits.ts'
import type { Kinds } from '../../core/state/handle.ts'
import {
  callable,
  finite,
  notNegative,
  onlyFields,
  type ResultArray,
  record,
  resultArrays,
} from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { COORDINATE } from '../../core/util/limits.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import { rayAgainst } from '../narrow/ray.ts'
import { FRACTION, INSIDE, MISS, RAY_NORMAL } from '../narrow/records.ts'
import { checkDirection, checkVec, type MutableVec2, type Vec2 } from '../vector.ts'
import { type Desk, type Filter2, HIT_DEPTH, HIT_NORMAL, HIT_SIZE, KEY, type Scratch } from './scratch.ts'
import { nearestOnRay, startsInside } from './walk.ts'

/** A ray: from one point to another, by a motion, or in a direction as far as a reach (default: {@link ENDLESS}). */
export type Ray2 =
  | { readonly from: Vec2; readonly to: Vec2 }
  | { readonly from: Vec2; readonly by: Vec2 }
  | { readonly from: Vec2; readonly direction: Vec2; readonly reach?: number }

export interface RayHit2<K extends Kinds> {
  collider: Collider2<K>
  body: Body2<K>
  point: MutableVec2
  /** Unit, towards the asker. */
  normal: MutableVec2
  /** 0..1 of the whole length. */
  fraction: number
  /** Metres from the start. */
  distance: number
  startedInside: boolean
  /** The edge of a polyline, in the user's own numbering; -1 for other shapes. */
  part: number
  /** Index in the compound; -1 for other shapes. */
  child: number
}

/** The fields of a hit that hold vectors. */
export const HIT_VECTORS = ['point', 'normal'] as const

/** An object that `raycast.first` and `shapecast.first` can write into instead of making one. */
export function rayHit<K extends Kinds = never>(): RayHit2<K> {
  return {
    collider: null as never,
    body: null as never,
    point: { x: 0, y: 0 },
    normal: { x: 0, y: 0 },
    fraction: 0,
    distance: 0,
    startedInside: false,
    part: -1,
    child: -1,
  }
}

/** The length in metres of a ray to which no end was given. */
export const ENDLESS = 1e9

/** Where `raycast.batch` writes to: a place a ray. */
export interface RayResults2 {
  /** 0..1, or -1 where nothing was met. */
  readonly fraction: Float64Array
  /** x, y of each. */
  readonly normal: Float64Array
  /** For `world.colliderAt`, until the next removal; -1 for none. */
  readonly collider: Int32Array
  readonly part: Int32Array
  readonly child: Int32Array
}

/** More than fit into the memory of one array. */
const MOST_RESULTS = 2 ** 26

/** Results for up to `count` rays. */
export function rayResults(count: number): RayResults2 {
  if (!Number.isInteger(count) || count < 0 || count > MOST_RESULTS) {
    throw new KeenError('bad-number', `rayResults takes a whole number from 0 to ${MOST_RESULTS}, got ${show(count)}`)
  }
  return {
    fraction: new Float64Array(count),
    normal: new Float64Array(2 * count),
    collider: new Int32Array(count),
    part: new Int32Array(count),
    child: new Int32Array(count),
  }
}

export class Raycast<K extends Kinds> {
  private readonly desk: Desk<K>

  /** @internal */
  constructor(desk: Desk<K>) {
    this.desk = desk
  }

  /**
   * The nearest hit, or null. Of several at the same distance the oldest collider.
   * @param out a hit of {@link rayHit} to write into; then nothing is allocated
   */
  first(ray: Ray2, filter?: Filter2<K>, out?: RayHit2<K>): RayHit2<K> | null {
    this.desk.checkHit(out, 'rayHit', HIT_VECTORS)
    const { desk } = this
    const scratch = desk.acquire(filter)
    try {
      readRay(ray, scratch.line)
      if (!nearestOnRay(desk.space, scratch, false)) return null
      const { best, bestPiece, bestInside } = scratch
      return fill(desk, scratch, bestPiece, best, 0, bestInside, out ?? rayHit<K>())
    } finally {
      desk.release()
    }
  }

  /** Every hit, nearest first, at most one a collider. */
  all(ray: Ray2, filter?: Filter2<K>): RayHit2<K>[] {
    const { desk } = this
    const scratch = desk.acquire(filter)
    try {
      readRay(ray, scratch.line)
      this.gather(scratch)
      scratch.found.sort(true)
      const { found } = scratch
      const hits: RayHit2<K>[] = []
      for (let i = 0; i < found.order.length; i++) {
        const at = found.order.data[i]
        const inside = found.inside.data[at] !== 0
        hits.push(fill(desk, scratch, found.pieces.data[at], found.values, HIT_SIZE * at, inside, rayHit<K>()))
      }
      return hits
    } finally {
      desk.release()
    }
  }

  /** Whether it meets anything. The cheapest of the four. */
  any(ray: Ray2, filter?: Filter2<K>): boolean {
    const scratch = this.desk.acquire(filter)
    try {
      readRay(ray, scratch.line)
      return nearestOnRay(this.desk.space, scratch, true)
    } finally {
      this.desk.release()
    }
  }

  /** Visits the hits, one a collider, in no particular order until the visitor returns false. The hit is reused. */
  each(ray: Ray2, visit: (hit: RayHit2<K>) => unknown, filter?: Filter2<K>): void {
    callable(visit, 'what `each` calls for each hit')
    const { desk } = this
    const scratch = desk.acquire(filter)
    try {
      readRay(ray, scratch.line)
      this.gather(scratch)
      const { found } = scratch
      const hit = rayHit<K>()
      for (let i = 0; i < found.colliders.length; i++) {
        fill(desk, scratch, found.pieces.data[i], found.values, HIT_SIZE * i, found.inside.data[i] !== 0, hit)
        if (visit(hit) === false) return
      }
    } finally {
      desk.release()
    }
  }

  /**
   * The nearest hit of many rays at once, without an object made.
   * @param rays x, y, x, y (from, to) a ray, one behind the other
   * @param out results for at least as many, from {@link rayResults}
   * @returns how many rays hit
   * @throws KeenError `bad-argument`, `bad-number`, and what the filter throws
   */
  batch(rays: Float64Array, out: RayResults2, filter?: Filter2<K>): number {
    if (!(rays instanceof Float64Array) || rays.length % 4 !== 0) {
      throw new KeenError(
        'bad-argument',
        "'rays' of a batch must be a Float64Array of four numbers a ray: from x, y, to x, y",
      )
    }
    const count = rays.length / 4
    resultArrays(out, count, RESULT_ARRAYS)
    const { desk } = this
    const { space } = desk
    const scratch = desk.acquire(filter)
    const { line, best } = scratch
    const { fraction, normal, collider } = out
    let hits = 0
    try {
      for (let i = 0; i < count; i++) {
        const at = 4 * i
        line[0] = rays[at]
        line[1] = rays[at + 1]
        line[2] = rays[at + 2] - rays[at]
        line[3] = rays[at + 3] - rays[at + 1]
        if (!Number.isFinite(line[2] + line[3])) throw notFinite(rays, i)
        dropTinyMotion(line)
        if (!nearestOnRay(space, scratch, false)) {
          fraction[i] = -1
          collider[i] = -1
          out.part[i] = -1
          out.child[i] = -1
          normal[2 * i] = 0
          normal[2 * i + 1] = 0
          continue
        }
        hits++
        const piece = scratch.bestPiece
        fraction[i] = best[FRACTION]
        normal[2 * i] = best[RAY_NORMAL]
        normal[2 * i + 1] = best[RAY_NORMAL + 1]
        collider[i] = space.geometry.ownerOf(piece)
        out.part[i] = space.geometry.partOf(piece)
        out.child[i] = space.geometry.childOf(piece)
      }
    } finally {
      desk.release()
    }
    return hits
  }

  private gather(scratch: Scratch<K>): void {
    const { space } = this.desk
    const { world } = space.geometry
    const { along, compiled, line, record, found, half, best } = scratch
    half[0] = 0
    half[1] = 0
    best[0] = 1
    record[HIT_DEPTH] = 0
    let grazed = 0
    along.walk.begin(line, half, best)
    along.begin(space, compiled.mask, compiled.sensors)
    for (let piece = along.next(); piece >= 0; piece = along.next()) {
      const c = space.geometry.ownerOf(piece)
      if (!compiled.accepts(c)) continue
      record[FRACTION] = 1
      const met = rayAgainst(world, space.geometry.offsetOf(piece), line, record)
      if (met <= MISS) {
        grazed -= met
        continue
      }
      if (compiled.skipInside && startsInside(space, scratch, c, met, piece)) continue
      found.put(c, piece, met === INSIDE, record)
    }
    if (grazed < 2) return
    findSeams(space, scratch, line, 0)
    putSeams(space, scratch, line, 0, best, false)
  }
}

const RESULT_ARRAYS: readonly ResultArray[] = [
  ['fraction', Float64Array, 1],
  ['normal', Float64Array, 2],
  ['collider', Int32Array, 1],
  ['part', Int32Array, 1],
  ['child', Int32Array, 1],
]

function notFinite(rays: Float64Array, index: number): KeenError {
  const values = rays.subarray(4 * index, 4 * index + 4).join(', ')
  return new KeenError('bad-number', `ray ${index} of a batch must have finite numbers, got ${values}`)
}

/** Writes a hit from the numbers at `values[at]`. */
function fill<K extends Kinds>(
  desk: Desk<K>,
  scratch: Scratch<K>,
  piece: number,
  values: Float64Array,
  at: number,
  inside: boolean,
  out: RayHit2<K>,
): RayHit2<K> {
  const { geometry } = desk.space
  const { line } = scratch
  const fraction = values[at + KEY]
  out.collider = desk.colliderOf(geometry.ownerOf(piece))
  out.body = out.collider.body
  out.point.x = line[0] + fraction * line[2]
  out.point.y = line[1] + fraction * line[3]
  // Adding 0 turns -0 into 0.
  out.normal.x = values[at + HIT_NORMAL] + 0
  out.normal.y = values[at + HIT_NORMAL + 1] + 0
  out.fraction = fraction
  out.distance = fraction * line[4]
  out.startedInside = inside
  out.part = geometry.partOf(piece)
  out.child = geometry.childOf(piece)
  return out
}

const TO = ['from', 'to'] as const
const BY = ['from', 'by'] as const
const DIRECTION = ['from', 'direction', 'reach'] as const

/** Square of the length in metres below which a motion is none: its products would have no digits left. */
const NO_MOTION = 1e-300

/** Makes a motion that is too short to be computed with a standing still. */
export function dropTinyMotion(line: Float64Array): void {
  if (line[2] * line[2] + line[3] * line[3] < NO_MOTION) {
    line[2] = 0
    line[3] = 0
  }
}

/** Checks a ray and writes start, motion and length. */
export function readRay(ray: Ray2, line: Float64Array): void {
  record(ray, 'a ray')
  const from = checkVec(ray.from, "'from' of a ray")
  line[0] = from.x
  line[1] = from.y
  if ('to' in ray) {
    onlyFields(ray, TO, "a ray with 'to'")
    const to = checkVec(ray.to, "'to' of a ray")
    line[2] = to.x - from.x
    line[3] = to.y - from.y
  } else if ('by' in ray) {
    onlyFields(ray, BY, "a ray with 'by'")
    const by = checkVec(ray.by, "'by' of a ray")
    line[2] = by.x
    line[3] = by.y
  } else if ('direction' in ray) {
    onlyFields(ray, DIRECTION, "a ray with 'direction'")
    const { x, y } = checkDirection(ray.direction, "'direction' of a ray")
    const endless = ray.reach === undefined || ray.reach === Infinity
    const reach = endless ? ENDLESS : notNegative(ray.reach, "'reach' of a ray", COORDINATE)
    line[2] = x * reach
    line[3] = y * reach
  } else {
    throw new KeenError('bad-argument', "a ray needs 'to', 'by' or 'direction' besides 'from'")
  }
  if (!Number.isFinite(line[2] + line[3])) finite(Number.NaN, 'the length of a ray')
  dropTinyMotion(line)
  line[4] = Math.sqrt(line[2] * line[2] + line[3] * line[3])
}
