/** A pool of scratch objects for queries: one for each query that runs at a time, since a `where` may run another query. */

import type { ColliderHandles } from '../state/colliderHandles.ts'
import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import { hitObject } from '../util/checks.ts'
import type { FilterHost, QueryFilter } from './compiledFilter.ts'
import type { QueryKernel } from './hits.ts'
import type { Vectors } from './lines.ts'
import type { QueryScratch } from './scratch.ts'

export class ScratchPool<
  K extends Kinds,
  B extends BodyHandle<K, unknown>,
  C extends ColliderHandle<K, B>,
  Scratch extends QueryScratch<K, B, C>,
  V,
> {
  readonly kernel: QueryKernel
  readonly vectors: Vectors<V>
  private readonly host: FilterHost<B, C>
  private readonly make: () => Scratch
  private readonly handles: ColliderHandles<C>
  private readonly bodies: (B | null)[]
  private readonly bodySlot: { data: Int32Array }
  private readonly pool: Scratch[] = []
  private depth = 0
  /** The hit object that was checked last, and who makes such. */
  private checked: unknown
  private maker = ''

  constructor(host: FilterHost<B, C>, kernel: QueryKernel, vectors: Vectors<V>, make: () => Scratch) {
    this.host = host
    this.kernel = kernel
    this.vectors = vectors
    this.make = make
    this.handles = host.population.handles as ColliderHandles<C>
    this.bodies = host.population.bodyHandles as (B | null)[]
    this.bodySlot = host.population.filter.body
  }

  /** Checks the object that a hit is written into. Most callers pass the same one each time; it is not checked again. */
  checkHit(out: unknown, maker: string, vectors: readonly string[], empty = false): void {
    if (out === this.checked && maker === this.maker) return
    hitObject(out, maker, vectors, empty)
    this.checked = out
    this.maker = maker
  }

  /**
   * A scratch for one query, with its filter compiled and the world brought up to date; give it back with {@link release}.
   * Throws what the filter throws.
   */
  acquire(filter: QueryFilter<K, B, C> | undefined): Scratch {
    this.host.population.guardQuery()
    if (this.depth === this.pool.length) {
      const made = this.make()
      made.found.pieceOrder = this.kernel.geometry
      this.pool.push(made)
    }
    const scratch = this.pool[this.depth]
    scratch.compiled.compile(filter)
    this.depth++
    scratch.clear()
    this.kernel.refresh()
    return scratch
  }

  release(): void {
    this.depth--
  }

  colliderOf(slot: number): C {
    return this.handles.of(slot)
  }

  /** The body of a collider's slot, without a look at the collider. */
  bodyOf(slot: number): B {
    return this.bodies[this.bodySlot.data[slot]]!
  }
}
