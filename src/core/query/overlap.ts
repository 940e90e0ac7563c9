/** The question "whom does this standing shape overlap?" in all its modes, as far as they know no dimension. */
import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import { MOVERS, RESTING_SENSORS, STATICS } from '../step/broadPhase.ts'
import { callable } from '../util/checks.ts'
import { checkBoxes, type OverlapResults } from './batch.ts'
import type { QueryFilter } from './compiledFilter.ts'
import { newOverlapHit, type OverlapHit, type QueryKernel } from './hits.ts'
import type { PlacedShape } from './queryShape.ts'
import { HIT_NORMAL, type QueryScratch } from './scratch.ts'
import type { ScratchPool } from './scratchPool.ts'

const HIT_VECTORS = ['point', 'normal'] as const

interface PlaceScratch<K extends Kinds, B extends BodyHandle<K, unknown>, C extends ColliderHandle<K, B>>
  extends QueryScratch<K, B, C> {
  readonly queryShape: PlacedShape
}

export abstract class OverlapModes<
  K extends Kinds,
  B extends BodyHandle<K, unknown>,
  C extends ColliderHandle<K, B>,
  V,
  Place extends { readonly depth?: boolean | undefined },
  S extends PlaceScratch<K, B, C>,
  Hit extends OverlapHit<B, C, V> = OverlapHit<B, C, V>,
> {
  protected readonly pool: ScratchPool<K, B, C, S, V>
  protected readonly kernel: QueryKernel
  protected readonly geometry: QueryKernel['geometry']

  /** @internal */
  constructor(pool: ScratchPool<K, B, C, S, V>) {
    this.pool = pool
    this.kernel = pool.kernel
    this.geometry = pool.kernel.geometry
  }

  /**
   * The oldest collider that it overlaps, or null. Exact touch counts.
   * @param out a hit of `overlapHit()` to write into; then nothing is allocated
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  first(place: Place, filter?: QueryFilter<K, B, C>, out?: Hit): Hit | null {
    const { pool } = this
    pool.checkHit(out, 'overlapHit', HIT_VECTORS, true)
    const scratch = pool.acquire(filter)
    try {
      this.gather(place, scratch, false)
      const { found } = scratch
      if (found.colliders.length === 0) return null
      found.sort(false)
      return this.fill(scratch, found.order.data[0], place.depth === true, true, out ?? this.newHit())
    } finally {
      pool.release()
    }
  }

  /**
   * Everything that it overlaps, one hit a collider, by age.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  all(place: Place, filter?: QueryFilter<K, B, C>): Hit[] {
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      this.gather(place, scratch, false)
      const { found } = scratch
      found.sort(false)
      const hits: Hit[] = []
      for (let i = 0; i < found.order.length; i++) {
        hits.push(
          this.fill(scratch, found.order.data[i], place.depth === true, this.kernel.describesHits, this.newHit()),
        )
      }
      return hits
    } finally {
      pool.release()
    }
  }

  /**
   * Whether it overlaps anything.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  any(place: Place, filter?: QueryFilter<K, B, C>): boolean {
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      this.gather(place, scratch, true)
      return scratch.found.colliders.length > 0
    } finally {
      pool.release()
    }
  }

  /**
   * Visits what it overlaps, in no particular order until the visitor returns false. The hit is reused.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  each(place: Place, visit: (hit: Hit) => unknown, filter?: QueryFilter<K, B, C>): void {
    callable(visit, 'what `each` calls for each hit')
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      this.gather(place, scratch, false)
      const hit = this.newHit()
      const depth = place.depth === true
      for (let i = 0; i < scratch.found.colliders.length; i++) {
        if (visit(this.fill(scratch, i, depth, this.kernel.describesHits, hit)) === false) return
      }
    } finally {
      pool.release()
    }
  }

  /**
   * Many boxes along the axes at once, without objects: for servers, and for games that keep their entities in arrays. What touches or overlaps a
   * box is written as numbers of colliders, one for each, in no particular order.
   * @param boxes the least coordinates of each box, then the greatest
   * @param out from `overlapResults(boxes, hits)`; hits that do not fit in `collider` are counted, not written
   * @returns how many hits there are in all
   * @throws KeenError `bad-argument`, `bad-number`, and what the filter throws
   */
  batch(boxes: Float64Array, out: OverlapResults, filter?: QueryFilter<K, B, C>): number {
    const { pool } = this
    const { axes } = pool.vectors
    const count = checkBoxes(boxes, out, axes)
    const { first, collider } = out
    const scratch = pool.acquire(filter)
    const { colliders } = scratch.found
    let hits = 0
    try {
      for (let i = 0; i < count; i++) {
        scratch.clear()
        scratch.queryShape.setBox(boxes, 2 * axes * i)
        this.search(scratch, false, false)
        first[i] = hits < collider.length ? hits : collider.length
        for (let k = 0; k < colliders.length; k++, hits++)
          if (hits < collider.length) collider[hits] = colliders.data[k]
      }
      first[count] = hits < collider.length ? hits : collider.length
    } finally {
      pool.release()
    }
    return hits
  }

  /** Checks a place and puts the shape that asks there. */
  protected abstract readPlace(place: Place, scratch: S): void

  /**
   * Puts what overlaps or touches the shape that asks, of the pieces near by, among the found, without numbers.
   * @param certain of the first so many the filter need not be asked
   * @param any content with one
   */
  protected abstract sift(scratch: S, certain: number, any: boolean): void

  /** Writes the least distance of the shape that asks and one piece to `scratch.record`. */
  protected abstract measure(scratch: S, piece: number): void

  private gather(place: Place, scratch: S, any: boolean): void {
    this.readPlace(place, scratch)
    this.search(scratch, place.depth === true, any)
  }

  /** Finds what the shape in the scratch overlaps. */
  private search(scratch: S, depth: boolean, any: boolean): void {
    const { planes, trees } = this.kernel
    const { compiled, queryShape, near, stack } = scratch
    const { bounds } = queryShape
    if (trees[STATICS].count > 0) trees[STATICS].search(bounds, 0, compiled.mask, near, stack)
    const certain = compiled.plain ? near.length : 0
    if (trees[MOVERS].count > 0) trees[MOVERS].search(bounds, 0, compiled.mask, near, stack)
    if (compiled.sensors) trees[RESTING_SENSORS].search(bounds, 0, compiled.mask, near, stack)
    for (let i = 0; i < planes.length; i++) near.push(planes.data[i])
    if (depth) this.measureAll(scratch, certain, any)
    else this.sift(scratch, certain, any)
  }

  /** An empty hit. */
  protected newHit(): Hit {
    return newOverlapHit<B, C, V>() as Hit
  }

  /** As `sift`, with the numbers of each. */
  private measureAll(scratch: S, certain: number, any: boolean): void {
    const { geometry } = this
    const { compiled, near, found, record } = scratch
    for (let i = 0; i < near.length; i++) {
      const piece = near.data[i]
      const c = geometry.ownerOf(piece)
      if (i >= certain && !compiled.accepts(c)) continue
      this.measure(scratch, piece)
      if (!(record[0] <= 0)) continue
      found.put(c, piece, false, record)
      if (any) return
    }
  }

  /** @param describe whether the collider may have something to add, or to take out of a hit that was used before */
  private fill(scratch: S, index: number, depth: boolean, describe: boolean, out: Hit): Hit {
    const { pool } = this
    const { found, layout } = scratch
    const { values } = found
    const piece = found.pieces.data[index]
    const c = found.colliders.data[index]
    const at = layout.size * index
    out.collider = pool.colliderOf(c)
    out.body = pool.bodyOf(c)
    out.child = this.geometry.childOf(piece)
    out.depth = depth ? 0 - values[at] : 0
    out.part = this.geometry.partOf(piece, values, at)
    if (!depth) {
      out.normal = null
      out.point = null
      if (describe) out.collider.describeHit(out, scratch.queryShape.bounds, this.kernel)
      return out
    }
    const { vectors } = pool
    out.normal ??= vectors.zero()
    out.point ??= vectors.zero()
    vectors.write(out.normal, values, at + HIT_NORMAL)
    vectors.write(out.point, values, at + layout.point)
    if (describe) out.collider.describeHit(out, null, this.kernel)
    return out
  }
}
