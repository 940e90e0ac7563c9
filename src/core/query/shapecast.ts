/** The question "what does this moving shape meet?" in all its modes, as far as they know no dimension. */
import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import { ONE_WAY_COSINE } from '../step/kernel.ts'
import { callable } from '../util/checks.ts'
import type { QueryFilter } from './compiledFilter.ts'
import { INSIDE, MISS, type QueryKernel, type RayHit } from './hits.ts'
import type { PlacedShape } from './queryShape.ts'
import { HIT_NORMAL, type QueryScratch } from './scratch.ts'
import type { ScratchPool } from './scratchPool.ts'

/** Part of a motion that leads out of a one-way side which counts as none. */
const ALONG = 1e-12

const FIRST = 0
const ALL = 1
const ANY = 2

interface CastScratch<K extends Kinds, B extends BodyHandle<K, unknown>, C extends ColliderHandle<K, B>>
  extends QueryScratch<K, B, C> {
  readonly queryShape: PlacedShape
}

export abstract class ShapecastModes<
  K extends Kinds,
  B extends BodyHandle<K, unknown>,
  C extends ColliderHandle<K, B>,
  V,
  Motion extends object,
  Hit extends RayHit<B, C, V> & { depth: number },
  S extends CastScratch<K, B, C>,
> {
  protected readonly pool: ScratchPool<K, B, C, S, V>
  protected readonly kernel: QueryKernel
  protected readonly geometry: QueryKernel['geometry']
  private readonly hitVectors: readonly string[]

  /**
   * @param hitVectors the fields of a hit that hold vectors
   * @internal
   */
  constructor(pool: ScratchPool<K, B, C, S, V>, hitVectors: readonly string[]) {
    this.pool = pool
    this.kernel = pool.kernel
    this.geometry = pool.kernel.geometry
    this.hitVectors = hitVectors
  }

  /**
   * The first hit on the way, or null. Of several at the same time the oldest collider.
   * @param out a hit of `castHit()` to write into; then nothing is allocated
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  first(motion: Motion, filter?: QueryFilter<K, B, C>, out?: Hit): Hit | null {
    const { pool } = this
    pool.checkHit(out, 'castHit', this.hitVectors)
    const scratch = pool.acquire(filter)
    try {
      this.gather(motion, scratch, FIRST)
      const { found } = scratch
      if (found.colliders.length === 0) return null
      found.sort(true)
      return this.fill(scratch, found.order.data[0], out ?? this.newHit())
    } finally {
      pool.release()
    }
  }

  /**
   * Every hit, the first on the way first, at most one a collider.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  all(motion: Motion, filter?: QueryFilter<K, B, C>): Hit[] {
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      this.gather(motion, scratch, ALL)
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
   * Whether it meets anything on its way.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  any(motion: Motion, filter?: QueryFilter<K, B, C>): boolean {
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      this.gather(motion, scratch, ANY)
      return scratch.found.colliders.length > 0
    } finally {
      pool.release()
    }
  }

  /**
   * Visits the hits, one a collider, in no particular order until the visitor returns false. The hit is reused.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, and what the filter throws
   */
  each(motion: Motion, visit: (hit: Hit) => unknown, filter?: QueryFilter<K, B, C>): void {
    callable(visit, 'what `each` calls for each hit')
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      this.gather(motion, scratch, ALL)
      const hit = this.newHit()
      for (let i = 0; i < scratch.found.colliders.length; i++) if (visit(this.fill(scratch, i, hit)) === false) return
    } finally {
      pool.release()
    }
  }

  /** An empty hit. */
  protected abstract newHit(): Hit

  /** Checks a motion and writes it to the scratch; returns whether it turns. */
  protected abstract readMotion(motion: Motion, scratch: S): boolean

  /** A convex piece of the shape that asks against one piece, into `scratch.castRecord`: MISS, HIT or INSIDE. */
  protected abstract castPiece(scratch: S, own: number, piece: number): number

  /** Writes what only hits of this dimension have. */
  protected writeOwn(_values: Float64Array, _at: number, _out: Hit): void {}

  /** What is met between pieces that touch, where no piece is met by itself. @param once content with the first */
  protected castSeams(_scratch: S, _once: boolean): void {}

  private gather(motion: Motion, scratch: S, mode: number): void {
    const { kernel, geometry } = this
    const { along, compiled, queryShape, line, half, best, record, found, axes } = scratch
    const turns = this.readMotion(motion, scratch)
    best[0] = 1
    // The walk follows the middle of the bounds; a shape that turns can be anywhere within its reach of its origin.
    const { bounds } = queryShape
    for (let i = 0; i < axes; i++) {
      if (!turns) line[i] = (bounds[i] + bounds[axes + i]) / 2
      half[i] = turns ? queryShape.reach : (bounds[axes + i] - bounds[i]) / 2
    }
    along.walk.begin(line, half, best)
    along.begin(kernel, compiled.mask, compiled.sensors)
    for (let piece = along.next(); piece >= 0; piece = along.next()) {
      const c = geometry.ownerOf(piece)
      if (!compiled.accepts(c)) continue
      if (compiled.skipInside && this.startsInside(scratch, c)) continue
      const met = this.meet(scratch, piece)
      if (met === MISS || (compiled.oneWay && this.passesOneWay(scratch, c, met === INSIDE))) continue
      found.put(c, piece, met === INSIDE, record)
      if (mode === FIRST && record[0] < best[0]) best[0] = record[0]
      if (mode === ANY) return
    }
    if (!turns) this.castSeams(scratch, mode !== ALL)
  }

  /** The best of the pieces that ask against one piece, into `scratch.record`. */
  private meet(scratch: S, piece: number): number {
    const { queryShape, castRecord, record, best, layout } = scratch
    let result = MISS
    for (let i = 0; i < queryShape.pieces; i++) {
      castRecord[0] = best[0]
      const met = this.castPiece(scratch, i, piece)
      if (met === MISS) continue
      const nearer = result === MISS || castRecord[0] < record[0]
      const deeper = castRecord[0] === record[0] && met === INSIDE && castRecord[layout.depth] > record[layout.depth]
      if (!nearer && !deeper) continue
      result = met
      for (let k = 0; k < layout.size; k++) record[k] = castRecord[k]
    }
    return result
  }

  /** Asked as a collider: whether a one-way side, of what was met or of that collider, lets it through. Reads the normal in the record. */
  private passesOneWay(scratch: S, c: number, inside: boolean): boolean {
    const { kernel } = this
    const { record, line, axes, open, compiled } = scratch
    for (let side = 1; side >= -1; side -= 2) {
      if (!kernel.readOneWay(side === 1 ? c : compiled.asCollider, open)) continue
      if (inside) return true
      let along = 0
      let held = 0
      for (let k = 0; k < axes; k++) {
        along += side * line[axes + k] * open[k]
        held += side * record[HIT_NORMAL + k] * open[k]
      }
      if (along > ALONG * line[2 * axes] || held < ONE_WAY_COSINE) return true
    }
    return false
  }

  private startsInside(scratch: S, c: number): boolean {
    const { geometry } = this
    for (let piece = geometry.first.data[c]; piece >= 0; piece = geometry.after(piece)) {
      if (this.meet(scratch, piece) === INSIDE) return true
    }
    return false
  }

  private fill(scratch: S, index: number, out: Hit): Hit {
    const { pool } = this
    const { found, line, axes, layout } = scratch
    const { geometry } = this
    const { values } = found
    const piece = found.pieces.data[index]
    const at = layout.size * index
    out.collider = pool.colliderOf(geometry.ownerOf(piece))
    out.body = out.collider.body
    out.fraction = values[at]
    out.distance = values[at] * line[2 * axes]
    out.startedInside = found.inside.data[index] !== 0
    out.depth = values[at + layout.depth]
    out.child = geometry.childOf(piece)
    out.part = geometry.partOf(piece, values, at)
    pool.vectors.write(out.point, values, at + layout.point)
    pool.vectors.write(out.normal, values, at + HIT_NORMAL)
    this.writeOwn(values, at, out)
    out.collider.describeHit(out, null, this.kernel)
    return out
  }
}
