/** The question "what does this ray meet?" in 2D. */
import { newRayHit, type RayHit } from '../../core/query/hits.ts'
import { type AnyRayResults, newRayResults, RaycastModes } from '../../core/query/raycast.ts'
import type { AnyKinds, Kinds } from '../../core/state/handle.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import type { Geometry } from '../geometry.ts'
import type { Kernel2 } from '../kernel.ts'
import { rayAgainst } from '../narrow/ray.ts'
import { INSIDE, RAY_NORMAL, RAY_SIZE } from '../narrow/records.ts'
import { CONVEX, HEAD } from '../shapes/layout.ts'
import { type OnTile, onTile } from '../shapes/shape.ts'
import { WAY_NORMAL, WAY_SIZE } from '../tiles/wayOut.ts'
import { type MutableVec2, VECTORS, type Vec2 } from '../vector.ts'
import type { Pool2, Scratch } from './scratch.ts'
import { walkTree } from './walk.ts'

const AT = [HEAD]

export { ENDLESS } from '../../core/query/lines.ts'

/** A ray: from one point to another, by a motion, or in a direction as far as a reach (default: `ENDLESS`). */
export type Ray2 =
  | { readonly from: Vec2; readonly to: Vec2 }
  | { readonly from: Vec2; readonly by: Vec2 }
  | { readonly from: Vec2; readonly direction: Vec2; readonly reach?: number | undefined }

/** What a ray meets. */
export interface RayHit2<K extends Kinds = AnyKinds> extends RayHit<Body2<K>, Collider2<K>, MutableVec2>, OnTile {}

/** The fields of a hit that hold vectors. */
export const HIT_VECTORS = ['point', 'normal'] as const

/** An object that `raycast.first` and `shapecast.first` can write into instead of making one. */
export function rayHit<K extends Kinds = AnyKinds>(): RayHit2<K> {
  return onTile(newRayHit<Body2<K>, Collider2<K>, MutableVec2>(VECTORS))
}

/** Where `raycast.batch` writes to: a place a ray. */
export type RayResults2 = AnyRayResults

/** Results for up to `count` rays. Throws `bad-number`. */
export function rayResults(count: number): RayResults2 {
  return newRayResults(count, 2)
}

/** The question "what does this ray meet?": `world.raycast`. */
export class Raycast<K extends Kinds> extends RaycastModes<
  K,
  Body2<K>,
  Collider2<K>,
  MutableVec2,
  Ray2,
  RayHit2<K>,
  RayResults2,
  Scratch<K>
> {
  declare protected readonly kernel: Kernel2
  declare protected readonly geometry: Geometry

  private readonly way = new Float64Array(WAY_SIZE)
  private readonly start = Float64Array.of(CONVEX, 1, 0, 0, 0)

  /** @internal */
  constructor(pool: Pool2<K>) {
    super(pool, HIT_VECTORS, [], RAY_SIZE)
  }

  protected override newHit(): RayHit2<K> {
    return rayHit<K>()
  }

  protected override meet({ line }: Scratch<K>, piece: number, out: Float64Array): number {
    const { geometry } = this
    const met = rayAgainst(geometry.world, geometry.offsetOf(piece), line, out)
    // Of a ray without length the normal is the way out.
    if (met === INSIDE && line[2] === 0 && line[3] === 0) this.leadOut(piece, line, out)
    return met
  }

  protected override partOf(piece: number, record: Float64Array, line: Float64Array): number {
    const collider = this.pool.colliderOf(this.geometry.ownerOf(piece))
    return collider.tileOnRay(record, line, this.kernel) ?? super.partOf(piece, record, line)
  }

  private leadOut(piece: number, line: Float64Array, out: Float64Array): void {
    const { kernel, geometry, way, start } = this
    start[HEAD + 1] = line[0]
    start[HEAD + 2] = line[1]
    if (!kernel.leadOut(geometry.ownerOf(piece), start, AT, 1, way)) return
    for (let k = 0; k < 2; k++) out[RAY_NORMAL + k] = way[WAY_NORMAL + k]
  }

  protected override isSolid(piece: number): boolean {
    return this.geometry.kindOf(piece) === CONVEX
  }

  protected override walkTree(tree: number, scratch: Scratch<K>, any: boolean, check: boolean): boolean {
    return walkTree(this, this.kernel.trees[tree], scratch, any, check)
  }
}
