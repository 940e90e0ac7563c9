/** The question "what does this ray meet?" in 2D. */
import type { RayHit } from '../../core/query/hits.ts'
import { type AnyRayResults, RaycastModes, resultCount } from '../../core/query/raycast.ts'
import type { Kinds } from '../../core/state/handle.ts'
import type { ResultArray } from '../../core/util/checks.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import type { Geometry } from '../geometry.ts'
import type { Kernel2 } from '../kernel.ts'
import { rayAgainst } from '../narrow/ray.ts'
import { RAY_SIZE } from '../narrow/records.ts'
import { CONVEX } from '../shapes/layout.ts'
import { type MutableVec2, VECTORS, type Vec2 } from '../vector.ts'
import { HIT_NORMAL, KEY, type Pool2, type Scratch } from './scratch.ts'
import { walkTree } from './walk.ts'

export { ENDLESS } from '../../core/query/lines.ts'

/** A ray: from one point to another, by a motion, or in a direction as far as a reach (default: `ENDLESS`). */
export type Ray2 =
  | { readonly from: Vec2; readonly to: Vec2 }
  | { readonly from: Vec2; readonly by: Vec2 }
  | { readonly from: Vec2; readonly direction: Vec2; readonly reach?: number | undefined }

/** What a ray meets. */
export type RayHit2<K extends Kinds> = RayHit<Body2<K>, Collider2<K>, MutableVec2>

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

/** Where `raycast.batch` writes to: a place a ray. */
export type RayResults2 = AnyRayResults

/** Results for up to `count` rays. Throws `bad-number`. */
export function rayResults(count: number): RayResults2 {
  resultCount(count)
  return {
    fraction: new Float64Array(count),
    normal: new Float64Array(2 * count),
    collider: new Int32Array(count),
    part: new Int32Array(count),
    child: new Int32Array(count),
  }
}

const RESULT_ARRAYS: readonly ResultArray[] = [
  ['fraction', Float64Array, 1],
  ['normal', Float64Array, 2],
  ['collider', Int32Array, 1],
  ['part', Int32Array, 1],
  ['child', Int32Array, 1],
]

/** The question "what does this ray meet?": `world.raycast`. */
export class Raycast<K extends Kinds> extends RaycastModes<
  K,
  Body2<K>,
  Collider2<K>,
  Ray2,
  RayHit2<K>,
  RayResults2,
  Scratch<K>
> {
  declare protected readonly kernel: Kernel2
  declare protected readonly geometry: Geometry

  /** @internal */
  constructor(pool: Pool2<K>) {
    super(pool, VECTORS, HIT_VECTORS, RESULT_ARRAYS, RAY_SIZE)
  }

  protected override newHit(): RayHit2<K> {
    return rayHit<K>()
  }

  protected override meet({ line }: Scratch<K>, piece: number, out: Float64Array): number {
    const { geometry } = this
    return rayAgainst(geometry.world, geometry.offsetOf(piece), line, out)
  }

  protected override isSolid(piece: number): boolean {
    return this.geometry.kindOf(piece) === CONVEX
  }

  protected override walkTree(tree: number, scratch: Scratch<K>, any: boolean, check: boolean): boolean {
    return walkTree(this, this.kernel.trees[tree], scratch, any, check)
  }

  protected override writeHit(
    { line }: Scratch<K>,
    piece: number,
    values: Float64Array,
    at: number,
    out: RayHit2<K>,
  ): void {
    const fraction = values[at + KEY]
    out.point.x = line[0] + fraction * line[2]
    out.point.y = line[1] + fraction * line[3]
    // Adding 0 turns -0 into 0.
    out.normal.x = values[at + HIT_NORMAL] + 0
    out.normal.y = values[at + HIT_NORMAL + 1] + 0
    out.part = this.geometry.partOf(piece)
  }

  protected override writeResult({ part }: RayResults2, index: number, piece: number): void {
    part[index] = piece < 0 ? -1 : this.geometry.partOf(piece)
  }
}
