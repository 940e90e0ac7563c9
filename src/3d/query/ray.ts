/** The question "what does this ray meet?" in 3D. */
import { newRayHit, type RayHit } from '../../core/query/hits.ts'
import { type AnyRayResults, newRayResults, RaycastModes } from '../../core/query/raycast.ts'
import type { AnyKinds, Kinds } from '../../core/state/handle.ts'
import type { ResultArray } from '../../core/util/checks.ts'
import type { Body3 } from '../body.ts'
import type { Collider3 } from '../collider.ts'
import type { Geometry } from '../geometry.ts'
import type { Kernel3 } from '../kernel.ts'
import { rayAgainst } from '../narrow/ray.ts'
import { RAY_SIZE, RAY_WEIGHTS } from '../narrow/records.ts'
import { SURFACE } from '../shapes/layout.ts'
import { type MutableVec3, VECTORS, type Vec3 } from '../vector.ts'
import { HIT_BACK, HIT_WEIGHTS, type Pool3, type Scratch } from './scratch.ts'
import { type RayWalker, walkTree } from './walk.ts'

export { ENDLESS } from '../../core/query/lines.ts'

/** A ray: from one point to another, by a motion, or in a direction as far as a reach (default: `ENDLESS`). */
export type Ray3 =
  | { readonly from: Vec3; readonly to: Vec3 }
  | { readonly from: Vec3; readonly by: Vec3 }
  | { readonly from: Vec3; readonly direction: Vec3; readonly reach?: number | undefined }

/** What a ray meets. */
export interface RayHit3<K extends Kinds = AnyKinds> extends RayHit<Body3<K>, Collider3<K>, MutableVec3> {
  /** How much each corner of the triangle weighs at the point: x of the first, y of the second, z of the third. */
  barycentric: MutableVec3
  /** Whether the back of the triangle was met. */
  back: boolean
}

/** The fields of a hit that hold vectors. */
export const HIT_VECTORS = ['point', 'normal', 'barycentric'] as const

/** An object that `raycast.first` and `shapecast.first` can write into instead of making one. */
export function rayHit<K extends Kinds = AnyKinds>(): RayHit3<K> {
  // Added to it: a copy of it would take ten times as long.
  const hit = newRayHit<Body3<K>, Collider3<K>, MutableVec3>(VECTORS) as RayHit3<K>
  hit.barycentric = VECTORS.zero()
  hit.back = false
  return hit
}

/** Where `raycast.batch` writes to: a place a ray. */
export interface RayResults3 extends AnyRayResults {
  /** Weights of the three corners of each triangle; zeros for other shapes. */
  readonly barycentric: Float64Array
}

/** Results for up to `count` rays. Throws `bad-number`. */
export function rayResults(count: number): RayResults3 {
  return { ...newRayResults(count, 3), barycentric: new Float64Array(3 * count) }
}

const OWN_RESULTS: readonly ResultArray[] = [['barycentric', Float64Array, 3]]

/** The question "what does this ray meet?": `world.raycast`. */
export class Raycast<K extends Kinds> extends RaycastModes<
  K,
  Body3<K>,
  Collider3<K>,
  MutableVec3,
  Ray3,
  RayHit3<K>,
  RayResults3,
  Scratch<K>
> {
  declare protected readonly kernel: Kernel3
  declare protected readonly geometry: Geometry

  /** Walks instead, where it is there. @internal */
  walker: RayWalker | null = null

  /** @internal */
  constructor(pool: Pool3<K>) {
    super(pool, HIT_VECTORS, OWN_RESULTS, RAY_SIZE)
  }

  protected override newHit(): RayHit3<K> {
    return rayHit<K>()
  }

  protected override meet({ line }: Scratch<K>, piece: number, out: Float64Array): number {
    const { geometry } = this
    return rayAgainst(geometry.world, geometry.offsetOf(piece), geometry.surfaces[piece], line, out)
  }

  protected override isSolid(piece: number): boolean {
    return this.geometry.kindOf(piece) !== SURFACE
  }

  protected override walkTree(tree: number, scratch: Scratch<K>, any: boolean, check: boolean): boolean {
    const { walker } = this
    if (walker !== null) return walker.walk(this, this.kernel.trees[tree], scratch, any, check)
    return walkTree(this, this.kernel.trees[tree], scratch, any, check)
  }

  protected override writeOwn(values: Float64Array, at: number, out: RayHit3<K>): void {
    out.barycentric.x = values[at + HIT_WEIGHTS]
    out.barycentric.y = values[at + HIT_WEIGHTS + 1]
    out.barycentric.z = values[at + HIT_WEIGHTS + 2]
    out.back = values[at + HIT_BACK] !== 0
  }

  protected override writeOwnResult(
    { barycentric }: RayResults3,
    index: number,
    met: boolean,
    best: Float64Array,
  ): void {
    for (let k = 0; k < 3; k++) barycentric[3 * index + k] = met ? best[RAY_WEIGHTS + k] : 0
  }
}
