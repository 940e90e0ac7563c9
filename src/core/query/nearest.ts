/** The question "who is nearest to this point, or to this shape?" in its modes, as far as they know no dimension. */
import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import { record as checkRecord, notNegative, onlyFields } from '../util/checks.ts'
import { KeenError } from '../util/errors.ts'
import { checkPoints, type NearestResults } from './batch.ts'
import type { QueryFilter } from './compiledFilter.ts'
import { type NearestHit, newNearestHit, type QueryKernel } from './hits.ts'
import type { PlacedShape } from './queryShape.ts'
import { HIT_NORMAL, type QueryScratch } from './scratch.ts'
import type { ScratchPool } from './scratchPool.ts'

const HIT_VECTORS = ['point', 'normal'] as const
const POINT_FIELDS = ['point', 'reach'] as const

interface NearestScratch<K extends Kinds, B extends BodyHandle<K, unknown>, C extends ColliderHandle<K, B>>
  extends QueryScratch<K, B, C> {
  readonly queryShape: PlacedShape
}

export abstract class NearestModes<
  K extends Kinds,
  B extends BodyHandle<K, unknown>,
  C extends ColliderHandle<K, B>,
  V,
  Place extends { readonly reach?: number | undefined },
  S extends NearestScratch<K, B, C>,
  Hit extends NearestHit<B, C, V> = NearestHit<B, C, V>,
> {
  protected readonly pool: ScratchPool<K, B, C, S, V>
  protected readonly kernel: QueryKernel
  protected readonly geometry: QueryKernel['geometry']
  private readonly shapeFields: readonly string[]

  /**
   * @param shapeFields the fields of a question that is asked with a shape
   * @internal
   */
  constructor(pool: ScratchPool<K, B, C, S, V>, shapeFields: readonly string[]) {
    this.pool = pool
    this.kernel = pool.kernel
    this.geometry = pool.kernel.geometry
    this.shapeFields = shapeFields
  }

  /**
   * The nearest collider within reach, or null. Of several equally near the oldest.
   * @param out a hit of `nearestHit()` to write into; then nothing is allocated
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  first(place: Place, filter?: QueryFilter<K, B, C>, out?: Hit): Hit | null {
    const { pool } = this
    pool.checkHit(out, 'nearestHit', HIT_VECTORS)
    const scratch = pool.acquire(filter)
    try {
      this.gather(place, scratch, true)
      const { found } = scratch
      if (found.colliders.length === 0) return null
      found.sort(true)
      return this.fill(scratch, found.order.data[0], out ?? this.newHit())
    } finally {
      pool.release()
    }
  }

  /**
   * Every collider within reach, nearest first.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  all(place: Place, filter?: QueryFilter<K, B, C>): Hit[] {
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      this.gather(place, scratch, false)
      const { found } = scratch
      found.sort(true)
      const hits: Hit[] = []
      for (let i = 0; i < found.order.length; i++) hits.push(this.fill(scratch, found.order.data[i], this.newHit()))
      return hits
    } finally {
      pool.release()
    }
  }

  /**
   * What is nearest to many points at once, without objects. Of several equally near the oldest.
   * @param points the coordinates of each, then how far to look (Infinity for no end)
   * @param out from `nearestResults(count)`
   * @returns to how many there is anything within reach
   * @throws KeenError `bad-argument`, `bad-number`, and what the filter throws
   */
  batch(points: Float64Array, out: NearestResults, filter?: QueryFilter<K, B, C>): number {
    const { pool, geometry } = this
    const { axes } = pool.vectors
    const count = checkPoints(points, out, axes)
    const scratch = pool.acquire(filter)
    const { found, layout, best, queryShape } = scratch
    let hits = 0
    try {
      for (let i = 0; i < count; i++) {
        scratch.clear()
        queryShape.setPointAt(points, (axes + 1) * i)
        best[0] = points[(axes + 1) * i + axes]
        this.search(scratch, true)
        const met = found.colliders.length > 0
        if (met) {
          hits++
          found.sort(true)
        }
        const index = met ? found.order.data[0] : 0
        const at = layout.size * index
        out.distance[i] = met ? found.values[at] : Infinity
        out.collider[i] = met ? geometry.ownerOf(found.pieces.data[index]) : -1
        for (let k = 0; k < axes; k++) {
          out.normal[axes * i + k] = met ? 0 + found.values[at + HIT_NORMAL + k] : 0
          out.point[axes * i + k] = met ? 0 + found.values[at + layout.point + k] : 0
        }
      }
    } finally {
      pool.release()
    }
    return hits
  }

  /** An empty hit. */
  protected newHit(): Hit {
    return newNearestHit<B, C, V>(this.pool.vectors) as Hit
  }

  /** Puts a point in the place of the shape that asks. */
  protected abstract readPoint(point: unknown, what: string, scratch: S): void

  /** Puts the shape that asks in its place. */
  protected abstract readShape(place: Place, what: string, scratch: S): void

  /** Writes the least distance of the shape that asks and one piece to `scratch.record`, up to that in `scratch.best`. */
  protected abstract measure(scratch: S, piece: number): void

  private gather(place: Place, scratch: S, first: boolean): void {
    checkRecord(place, 'a question for the nearest')
    const { best } = scratch
    if ('point' in place) {
      onlyFields(place, POINT_FIELDS, "a question for the nearest with 'point'")
      this.readPoint(place.point, "'point' of a question for the nearest", scratch)
    } else if ('shape' in place) {
      onlyFields(place, this.shapeFields, "a question for the nearest with 'shape'")
      this.readShape(place, 'a question for the nearest', scratch)
    } else throw new KeenError('bad-argument', "a question for the nearest needs 'point', or 'shape' and 'at'")
    const endless = place.reach === undefined || place.reach === Infinity
    best[0] = endless ? Infinity : notNegative(place.reach, "'reach' of a question for the nearest")
    this.search(scratch, first)
  }

  /** Finds what is nearest to the shape in the scratch, within the reach in its `best`. */
  private search(scratch: S, first: boolean): void {
    const { kernel } = this
    const { around, queryShape, compiled, best, record, found } = scratch
    around.walk.begin(queryShape.bounds, best)
    around.begin(kernel, compiled.mask, compiled.sensors)
    for (let piece = around.next(); piece >= 0; piece = around.next()) {
      const c = this.geometry.ownerOf(piece)
      if (!compiled.accepts(c)) continue
      this.measure(scratch, piece)
      if (record[0] > best[0]) continue
      found.put(c, piece, false, record)
      if (first) best[0] = record[0]
    }
  }

  private fill(scratch: S, index: number, out: Hit): Hit {
    const { pool } = this
    const { found, layout } = scratch
    const { geometry } = this
    const piece = found.pieces.data[index]
    const at = layout.size * index
    out.collider = pool.colliderOf(geometry.ownerOf(piece))
    out.body = out.collider.body
    out.distance = found.values[at]
    out.child = geometry.childOf(piece)
    out.part = geometry.partOf(piece, found.values, at)
    pool.vectors.write(out.normal, found.values, at + HIT_NORMAL)
    pool.vectors.write(out.point, found.values, at + layout.point)
    out.collider.describeHit(out, null, this.kernel)
    return out
  }
}
