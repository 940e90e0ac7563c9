/** The question "what does this ray meet?" in all its modes, as far as they know no dimension. */
import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import { MOVERS, RESTING_SENSORS, STATICS } from '../step/broadPhase.ts'
import { callable, type ResultArray, resultArrays } from '../util/checks.ts'
import { KeenError } from '../util/errors.ts'
import { checkSize } from './batch.ts'
import type { QueryFilter } from './compiledFilter.ts'
import { INSIDE, MISS, type QueryKernel, type RayHit } from './hits.ts'
import { dropTinyMotion, hasFiniteMotion, readRay } from './lines.ts'
import { HIT_NORMAL, type QueryScratch } from './scratch.ts'
import type { ScratchPool } from './scratchPool.ts'
import { findSeams, nearestSeam, putSeams } from './seamHits.ts'

/** More than fit into the memory of one array. */
const WHOLE_LINE = 1
const NUMBERS = ['no', 'one', 'two', 'three', 'four', 'five', 'six']

/** What `raycast.batch` writes to, whatever the dimension. */
export interface AnyRayResults {
  /** 0..1, or -1 where nothing was met. */
  readonly fraction: Float64Array
  /** The coordinates of each. */
  readonly normal: Float64Array
  /** For `world.colliderAt`, until the next removal; -1 for none. */
  readonly collider: Int32Array
  readonly part: Int32Array
  readonly child: Int32Array
}

/** Results for up to `count` rays. Throws `bad-number`. */
export function newRayResults(count: number, axes: number): AnyRayResults {
  checkSize(count, 'rayResults')
  return {
    fraction: new Float64Array(count),
    normal: new Float64Array(axes * count),
    collider: new Int32Array(count),
    part: new Int32Array(count),
    child: new Int32Array(count),
  }
}

export abstract class RaycastModes<
  K extends Kinds,
  B extends BodyHandle<K, unknown>,
  C extends ColliderHandle<K, B>,
  V,
  Ray extends object,
  Hit extends RayHit<B, C, V>,
  Results extends AnyRayResults,
  S extends QueryScratch<K, B, C>,
> {
  protected readonly pool: ScratchPool<K, B, C, S, V>
  protected readonly kernel: QueryKernel
  protected readonly geometry: QueryKernel['geometry']
  private readonly hitVectors: readonly string[]
  private readonly resultArrays: readonly ResultArray[]
  /** Numbers of what a ray meets of a piece. */
  private readonly raySize: number

  /**
   * @param hitVectors the fields of a hit that hold vectors
   * @param ownArrays the arrays that only results of this dimension have
   * @param raySize numbers of what a ray meets of a piece
   * @internal
   */
  constructor(
    pool: ScratchPool<K, B, C, S, V>,
    hitVectors: readonly string[],
    ownArrays: readonly ResultArray[],
    raySize: number,
  ) {
    this.pool = pool
    this.kernel = pool.kernel
    this.geometry = pool.kernel.geometry
    this.hitVectors = hitVectors
    this.resultArrays = [
      ['fraction', Float64Array, 1],
      ['normal', Float64Array, pool.vectors.axes],
      ['collider', Int32Array, 1],
      ['part', Int32Array, 1],
      ['child', Int32Array, 1],
      ...ownArrays,
    ]
    this.raySize = raySize
  }

  /**
   * The nearest hit, or null. Of several at the same distance the oldest collider.
   * @param out a hit of `rayHit()` to write into; then nothing is allocated
   * @throws KeenError `bad-argument`, `bad-number`, and what the filter throws
   */
  first(ray: Ray, filter?: QueryFilter<K, B, C>, out?: Hit): Hit | null {
    const { pool } = this
    pool.checkHit(out, 'rayHit', this.hitVectors)
    const scratch = pool.acquire(filter)
    try {
      readRay(ray, pool.vectors, scratch.line)
      if (!this.nearest(scratch, false)) return null
      return this.fill(scratch, scratch.bestPiece, scratch.best, 0, scratch.bestInside, out ?? this.newHit())
    } finally {
      pool.release()
    }
  }

  /**
   * Every hit, nearest first, at most one a collider.
   * @throws KeenError `bad-argument`, `bad-number`, and what the filter throws
   */
  all(ray: Ray, filter?: QueryFilter<K, B, C>): Hit[] {
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      readRay(ray, pool.vectors, scratch.line)
      this.gather(scratch)
      const { found } = scratch
      found.sort(true)
      const hits: Hit[] = []
      for (let i = 0; i < found.order.length; i++)
        hits.push(this.fillFound(scratch, found.order.data[i], this.newHit()))
      return hits
    } finally {
      pool.release()
    }
  }

  /**
   * Whether it meets anything. The cheapest of the four.
   * @throws KeenError `bad-argument`, `bad-number`, and what the filter throws
   */
  any(ray: Ray, filter?: QueryFilter<K, B, C>): boolean {
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      readRay(ray, pool.vectors, scratch.line)
      return this.nearest(scratch, true)
    } finally {
      pool.release()
    }
  }

  /**
   * Visits the hits, one a collider, in no particular order until the visitor returns false. The hit is reused.
   * @throws KeenError `bad-argument`, `bad-number`, and what the filter throws
   */
  each(ray: Ray, visit: (hit: Hit) => unknown, filter?: QueryFilter<K, B, C>): void {
    callable(visit, 'what `each` calls for each hit')
    const { pool } = this
    const scratch = pool.acquire(filter)
    try {
      readRay(ray, pool.vectors, scratch.line)
      this.gather(scratch)
      const hit = this.newHit()
      for (let i = 0; i < scratch.found.colliders.length; i++) {
        if (visit(this.fillFound(scratch, i, hit)) === false) return
      }
    } finally {
      pool.release()
    }
  }

  /**
   * The nearest hit of many rays at once, without an object made.
   * @param rays the coordinates of from and to of each ray, one behind the other
   * @param out results for at least as many, from `rayResults()`
   * @returns how many rays hit
   * @throws KeenError `bad-argument`, `bad-number`, and what the filter throws
   */
  batch(rays: Float64Array, out: Results, filter?: QueryFilter<K, B, C>): number {
    const { pool } = this
    const { axes } = pool.vectors
    const size = 2 * axes
    if (!(rays instanceof Float64Array) || rays.length % size !== 0) {
      const point = ['x', 'y', 'z'].slice(0, axes).join(', ')
      throw new KeenError(
        'bad-argument',
        `'rays' of a batch must be a Float64Array of ${NUMBERS[size]} numbers a ray: from ${point}, to ${point}`,
      )
    }
    const count = rays.length / size
    resultArrays(out, count, this.resultArrays, `rayResults(${count})`)
    const { geometry } = this
    const scratch = pool.acquire(filter)
    const { line, best } = scratch
    let hits = 0
    try {
      for (let i = 0; i < count; i++) {
        const at = size * i
        for (let k = 0; k < axes; k++) {
          line[k] = rays[at + k]
          line[axes + k] = rays[at + axes + k] - rays[at + k]
        }
        if (!hasFiniteMotion(line, axes)) throw notFinite(rays.subarray(at, at + size), i)
        dropTinyMotion(line, axes)
        const met = this.nearest(scratch, false)
        const piece = met ? scratch.bestPiece : -1
        out.fraction[i] = met ? best[0] : -1
        out.collider[i] = met ? geometry.ownerOf(piece) : -1
        out.child[i] = met ? geometry.childOf(piece) : -1
        for (let k = 0; k < axes; k++) out.normal[axes * i + k] = met ? best[1 + k] : 0
        out.part[i] = met ? this.partOf(piece, best, line) : -1
        this.writeOwnResult(out, i, met, best)
        if (met) hits++
      }
    } finally {
      pool.release()
    }
    return hits
  }

  /** The user's number of the part that a ray met. */
  protected partOf(piece: number, record: Float64Array, _line: Float64Array): number {
    return this.geometry.partOf(piece, record, 0)
  }

  /** An empty hit. */
  protected abstract newHit(): Hit

  /** What the ray meets of one piece, into `out`: HIT, INSIDE, or MISS and below. */
  protected abstract meet(scratch: S, piece: number, out: Float64Array): number

  /** Whether a piece has an inside. */
  protected abstract isSolid(piece: number): boolean

  /**
   * Walks through one tree, the near child first, and tries what is met; true when the walk is over.
   * @param any content with any hit
   * @param check whether a piece that is met must be asked about: not where nothing but layers are asked, among what is
   *   no sensor
   */
  protected abstract walkTree(tree: number, scratch: S, any: boolean, check: boolean): boolean

  /** Writes what only hits of this dimension have. */
  protected writeOwn(_values: Float64Array, _at: number, _out: Hit): void {}

  /** Writes what only results of this dimension have. @param met whether there is a hit */
  protected writeOwnResult(_out: Results, _index: number, _met: boolean, _best: Float64Array): void {}

  /**
   * The nearest hit of the ray in `scratch.line`, into `best`, `bestPiece` and `bestInside`.
   * @param any content with any hit
   * @returns whether there is one
   */
  private nearest(scratch: S, any: boolean): boolean {
    scratch.grazed = 0
    if (this.walk(scratch, any) && any) return true
    if (scratch.grazed > 1) nearestSeam(this.kernel, scratch, scratch.line)
    return scratch.bestPiece >= 0
  }

  /** The same without a look at what it only grazes. */
  private walk(scratch: S, any: boolean): boolean {
    const { planes, trees } = this.kernel
    const { compiled } = scratch
    scratch.bestPiece = -1
    scratch.best[0] = WHOLE_LINE
    for (let i = 0; i < planes.length; i++) this.tryPiece(scratch, planes.data[i], true)
    if (any && scratch.bestPiece >= 0) return true
    if (trees[STATICS].count > 0 && this.walkTree(STATICS, scratch, any, !compiled.plain)) return true
    if (trees[MOVERS].count > 0 && this.walkTree(MOVERS, scratch, any, true)) return true
    if (compiled.sensors && trees[RESTING_SENSORS].count > 0) this.walkTree(RESTING_SENSORS, scratch, any, true)
    return scratch.bestPiece >= 0
  }

  /** Tests one piece; true when it is the new best. @internal */
  tryPiece(scratch: S, piece: number, check: boolean): boolean {
    const { geometry } = this
    const { compiled, record, best } = scratch
    const c = geometry.ownerOf(piece)
    if (check && !compiled.accepts(c)) return false
    record[0] = best[0]
    const met = this.meet(scratch, piece, record)
    if (met <= MISS) {
      // NEAR is -1.
      scratch.grazed -= met
      return false
    }
    if (compiled.skipInside && this.startsInside(scratch, c, met, piece)) return false
    if (record[0] > best[0]) return false
    if (record[0] === best[0] && scratch.bestPiece >= 0) {
      if (!this.comesBefore(scratch, c, piece, met === INSIDE)) return false
    }
    for (let i = 0; i < this.raySize; i++) best[i] = record[i]
    scratch.bestPiece = piece
    scratch.bestInside = met === INSIDE
    return true
  }

  /**
   * Which of two pieces met at the same place is told, in whatever order a walk comes to them: that of the older collider; of one
   * collider what the ray starts in, then the earlier piece.
   */
  private comesBefore(scratch: S, c: number, piece: number, inside: boolean): boolean {
    const { geometry } = this
    const { bestPiece, bestInside, serial } = scratch
    const kept = geometry.ownerOf(bestPiece)
    if (kept !== c) return serial.data[c] < serial.data[kept]
    return inside === bestInside ? geometry.ordinalOf(piece) < geometry.ordinalOf(bestPiece) : inside
  }

  /** Whether the ray starts in any piece of a collider, one piece of which it was tested against. Keeps the record. */
  private startsInside(scratch: S, c: number, met: number, tested: number): boolean {
    if (met === INSIDE) return true
    const { geometry } = this
    const { castRecord } = scratch
    if (geometry.pieceCount.data[c] === 1) return false
    for (let piece = geometry.first.data[c]; piece >= 0; piece = geometry.after(piece)) {
      if (piece === tested || !this.isSolid(piece)) continue
      castRecord[0] = WHOLE_LINE
      if (this.meet(scratch, piece, castRecord) === INSIDE) return true
    }
    return false
  }

  private gather(scratch: S): void {
    const { kernel, geometry } = this
    const { along, compiled, line, record, found, half, best, layout } = scratch
    half.fill(0)
    best[0] = WHOLE_LINE
    record[layout.depth] = 0
    let grazed = 0
    along.walk.begin(line, half, best)
    along.begin(kernel, compiled.mask, compiled.sensors)
    for (let piece = along.next(); piece >= 0; piece = along.next()) {
      const c = geometry.ownerOf(piece)
      if (!compiled.accepts(c)) continue
      record[0] = WHOLE_LINE
      const met = this.meet(scratch, piece, record)
      if (met <= MISS) {
        grazed -= met
        continue
      }
      if (compiled.skipInside && this.startsInside(scratch, c, met, piece)) continue
      found.put(c, piece, met === INSIDE, record)
    }
    if (grazed < 2) return
    findSeams(kernel, scratch, line, 0)
    putSeams(kernel, scratch, line, 0, best, false)
  }

  private fillFound(scratch: S, index: number, out: Hit): Hit {
    const { found, layout } = scratch
    const inside = found.inside.data[index] !== 0
    return this.fill(scratch, found.pieces.data[index], found.values, layout.size * index, inside, out)
  }

  /** Writes a hit from the numbers at `values[at]`. */
  private fill(scratch: S, piece: number, values: Float64Array, at: number, inside: boolean, out: Hit): Hit {
    const { pool } = this
    const { geometry } = this
    const fraction = values[at]
    out.collider = pool.colliderOf(geometry.ownerOf(piece))
    out.body = out.collider.body
    out.fraction = fraction
    out.distance = fraction * scratch.line[2 * scratch.axes]
    out.startedInside = inside
    out.child = geometry.childOf(piece)
    out.part = geometry.partOf(piece, values, at)
    pool.vectors.writeAlong(out.point, scratch.line, fraction)
    pool.vectors.write(out.normal, values, at + HIT_NORMAL)
    this.writeOwn(values, at, out)
    out.collider.describeHit(out, null, this.kernel)
    return out
  }
}

function notFinite(ray: Float64Array, index: number): KeenError {
  return new KeenError('bad-number', `ray ${index} of a batch must have finite numbers, got ${ray.join(', ')}`)
}
