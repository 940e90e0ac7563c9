/** The question "what does this ray meet?" in 3D. */
import type { RayHit } from '../../core/query/hits.ts'
import { type AnyRayResults, RaycastModes, resultCount } from '../../core/query/raycast.ts'
import type { Kinds } from '../../core/state/handle.ts'
import type { ResultArray } from '../../core/util/checks.ts'
import type { Body3 } from '../body.ts'
import type { Collider3 } from '../collider.ts'
import type { Geometry } from '../geometry.ts'
import type { Kernel3 } from '../kernel.ts'
import { rayAgainst } from '../narrow/ray.ts'
import { RAY_SIZE, RAY_TRIANGLE, RAY_WEIGHTS } from '../narrow/records.ts'
import { SURFACE } from '../shapes/layout.ts'
import { type MutableVec3, VECTORS, type Vec3, writeVec } from '../vector.ts'
import { HIT_BACK, HIT_NORMAL, HIT_TRIANGLE, HIT_WEIGHTS, KEY, type Pool3, type Scratch } from './scratch.ts'
import { walkTree } from './walk.ts'

export { ENDLESS } from '../../core/query/lines.ts'

/** A ray: from one point to another, by a motion, or in a direction as far as a reach (default: `ENDLESS`). */
export type Ray3 =
  | { readonly from: Vec3; readonly to: Vec3 }
  | { readonly from: Vec3; readonly by: Vec3 }
  | { readonly from: Vec3; readonly direction: Vec3; readonly reach?: number | undefined }

/** What a ray meets. */
export interface RayHit3<K extends Kinds> extends RayHit<Body3<K>, Collider3<K>, MutableVec3> {
  /** How much each corner of the triangle weighs at the point: x of the first, y of the second, z of the third. */
  barycentric: MutableVec3
  /** Whether the back of the triangle was met. */
  back: boolean
}

/** The fields of a hit that hold vectors. */
export const HIT_VECTORS = ['point', 'normal', 'barycentric'] as const

/** An object that `raycast.first` and `shapecast.first` can write into instead of making one. */
export function rayHit<K extends Kinds = never>(): RayHit3<K> {
  return {
    collider: null as never,
    body: null as never,
    point: { x: 0, y: 0, z: 0 },
    normal: { x: 0, y: 0, z: 0 },
    fraction: 0,
    distance: 0,
    startedInside: false,
    part: -1,
    child: -1,
    barycentric: { x: 0, y: 0, z: 0 },
    back: false,
  }
}

/** Where `raycast.batch` writes to: a place a ray. */
export interface RayResults3 extends AnyRayResults {
  /** Weights of the three corners of each triangle; zeros for other shapes. */
  readonly barycentric: Float64Array
}

/** Results for up to `count` rays. Throws `bad-number`. */
export function rayResults(count: number): RayResults3 {
  resultCount(count)
  return {
    fraction: new Float64Array(count),
    normal: new Float64Array(3 * count),
    collider: new Int32Array(count),
    part: new Int32Array(count),
    child: new Int32Array(count),
    barycentric: new Float64Array(3 * count),
  }
}

const RESULT_ARRAYS: readonly ResultArray[] = [
  ['fraction', Float64Array, 1],
  ['normal', Float64Array, 3],
  ['collider', Int32Array, 1],
  ['part', Int32Array, 1],
  ['child', Int32Array, 1],
  ['barycentric', Float64Array, 3],
]

/** The question "what does this ray meet?": `world.raycast`. */
export class Raycast<K extends Kinds> extends RaycastModes<
  K,
  Body3<K>,
  Collider3<K>,
  Ray3,
  RayHit3<K>,
  RayResults3,
  Scratch<K>
> {
  declare protected readonly kernel: Kernel3
  declare protected readonly geometry: Geometry

  /** @internal */
  constructor(pool: Pool3<K>) {
    super(pool, VECTORS, HIT_VECTORS, RESULT_ARRAYS, RAY_SIZE)
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
    return walkTree(this, this.kernel.trees[tree], scratch, any, check)
  }

  protected override writeHit(
    { line }: Scratch<K>,
    piece: number,
    values: Float64Array,
    at: number,
    out: RayHit3<K>,
  ): void {
    const fraction = values[at + KEY]
    out.point.x = line[0] + fraction * line[3]
    out.point.y = line[1] + fraction * line[4]
    out.point.z = line[2] + fraction * line[5]
    writeVec(out.normal, values, at + HIT_NORMAL)
    out.part = this.geometry.partOf(piece, values[at + HIT_TRIANGLE])
    out.barycentric.x = values[at + HIT_WEIGHTS]
    out.barycentric.y = values[at + HIT_WEIGHTS + 1]
    out.barycentric.z = values[at + HIT_WEIGHTS + 2]
    out.back = values[at + HIT_BACK] !== 0
  }

  protected override writeResult(
    { part, barycentric }: RayResults3,
    index: number,
    piece: number,
    best: Float64Array,
  ): void {
    part[index] = piece < 0 ? -1 : this.geometry.partOf(piece, best[RAY_TRIANGLE])
    for (let k = 0; k < 3; k++) barycentric[3 * index + k] = piece < 0 ? 0 : best[RAY_WEIGHTS + k]
  }
}
