/**
 * The questions without a world, as far as they know no dimension: over the pieces of two shapes that are placed. A record begins with
 * its key (distance or fraction), then the unit normal.
 */
import { hitObject } from '../util/checks.ts'
import { INSIDE, MISS, NEAR, type PlainDistance } from './hits.ts'
import type { Vectors } from './lines.ts'
import { GRAZE_SIZE, Seams } from './seams.ts'

const KEY = 0
const NORMAL = 1

/** The best of several hits: its numbers, the piece that was met, and whether the start lay inside. */
export interface PlainRecord {
  readonly record: Float64Array
  readonly piece: number
  readonly startedInside: boolean
}

/**
 * Writes the record of the least distance of any of the one and any of the others to `best`.
 * @param between writes the record of two
 * @param record room for one
 */
export function leastDistance<A, B>(
  own: readonly A[],
  others: readonly B[],
  between: (a: A, b: B, record: Float64Array) => void,
  record: Float64Array,
  best: Float64Array,
): void {
  if (own.length === 1 && others.length === 1) {
    between(own[0], others[0], best)
    return
  }
  best[KEY] = Infinity
  for (const a of own) {
    for (const b of others) {
      between(a, b, record)
      if (record[KEY] < best[KEY]) best.set(record)
    }
  }
}

/** An empty answer of `distance`. */
export function newDistance<V>({ zero }: Vectors<V>): PlainDistance<V> {
  return { distance: 0, pointA: zero(), pointB: zero(), normal: zero() }
}

const DISTANCE_VECTORS = ['pointA', 'pointB', 'normal']
/** The answer that was written into last: most callers pass the same one each time. */
let checked: unknown

/** Checks what an answer of `distance` is written into, as somebody passed it. */
export function checkDistance(out: unknown): void {
  if (out === checked) return
  hitObject(out, 'distanceResult', DISTANCE_VECTORS, false, 'distance')
  checked = out
}

/** Writes the record of a gap as an answer. */
export function writeDistance<V>(best: Float64Array, vectors: Vectors<V>, out: PlainDistance<V>): PlainDistance<V> {
  const { axes } = vectors
  ;(out as { distance: number }).distance = best[KEY]
  vectors.write(out.normal, best, NORMAL)
  vectors.write(out.pointA, best, NORMAL + axes)
  vectors.write(out.pointB, best, NORMAL + 2 * axes)
  return out
}

/** How a ray is asked against the pieces of a shape. */
export interface PlainRay {
  readonly axes: number
  readonly count: number
  /** A record without anything of a piece. */
  readonly blank: Float64Array
  /** Part of a coordinate by which a place on a ray is rounded. */
  readonly rounding: number
  meet(piece: number, record: Float64Array): number
  /** Whether the ray runs along a piece; writes a graze record. */
  graze(piece: number, out: Float64Array): boolean
}

/** The first hit of a ray among pieces, what it only grazes on several sides included; null for none. */
export function firstOnRay(line: Float64Array, ray: PlainRay): PlainRecord | null {
  const { axes, blank } = ray
  const length = line[2 * axes]
  const seams = new Seams()
  const graze = new Float64Array(GRAZE_SIZE)
  let far = 0
  for (let k = 0; k < axes; k++) far += Math.abs(line[k])
  seams.clear((ray.rounding * far) / length)
  let best: PlainRecord | null = null
  const record = blank.slice()
  const take = (piece: number, startedInside: boolean): void => {
    if (best === null || isBetter(record, startedInside, best)) best = { record: record.slice(), piece, startedInside }
  }
  for (let piece = 0; piece < ray.count; piece++) {
    record[KEY] = 1
    const met = ray.meet(piece, record)
    if (met > MISS) take(piece, met === INSIDE)
    else if (met === NEAR && ray.graze(piece, graze)) seams.add(piece, graze)
  }
  // Between pieces that touch.
  seams.sort()
  if (seams.count > 1 && seams.advance(Float64Array.of(1))) {
    const back = new Float64Array(axes)
    for (let k = 0; k < axes; k++) back[k] = -line[axes + k] / length
    record.set(blank)
    record[KEY] = seams.fraction
    seams.readNormal(seams.active.data[0], back, record, NORMAL)
    take(seams.pieceOf(seams.active.data[0]), seams.inside)
  }
  return best
}

/**
 * The first hit of a moving shape among pieces, of several at a start inside the deepest; null for none.
 * @param own how many pieces move, and among how many
 * @param layout how many numbers a record has, and where the depth is
 * @param cast writes what one moving piece meets of another: MISS, HIT or INSIDE
 */
export function firstOfCast(
  own: number,
  count: number,
  layout: { readonly size: number; readonly depth: number },
  cast: (own: number, piece: number, record: Float64Array) => number,
): PlainRecord | null {
  const { size, depth } = layout
  const record = new Float64Array(size)
  let best: PlainRecord | null = null
  for (let piece = 0; piece < count; piece++) {
    for (let i = 0; i < own; i++) {
      record[KEY] = 1
      const met = cast(i, piece, record)
      if (met === MISS) continue
      const startedInside = met === INSIDE
      const deeper = best !== null && startedInside && best.startedInside && record[depth] > best.record[depth]
      if (best !== null && !deeper && !isBetter(record, startedInside, best)) continue
      best = { record: record.slice(), piece, startedInside }
    }
  }
  return best
}

function isBetter(record: Float64Array, inside: boolean, than: PlainRecord): boolean {
  const before = than.record[KEY]
  return record[KEY] < before || (record[KEY] === before && inside && !than.startedInside)
}
