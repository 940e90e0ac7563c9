/** What a running query of 3D writes to. */
import type { FilterHost } from '../../core/query/compiledFilter.ts'
import { QueryScratch } from '../../core/query/scratch.ts'
import type { ScratchPool } from '../../core/query/scratchPool.ts'
import type { Kinds } from '../../core/state/handle.ts'
import type { Body3 } from '../body.ts'
import type { Collider3 } from '../collider.ts'
import { RAY_SIZE, TURN_SIZE } from '../narrow/records.ts'
import { LineWalk3 } from '../tree/walk.ts'
import type { MutableVec3 } from '../vector.ts'
import { QueryShape } from './queryShape.ts'

export type Pool3<K extends Kinds> = ScratchPool<K, Body3<K>, Collider3<K>, Scratch<K>, MutableVec3>

/**
 * Numbers of a hit: fraction or distance, unit normal, triangle of a surface with the weights of its corners and whether its
 * back was hit, point, depth. The first are those of a ray's record, all those of a cast's.
 */
export const KEY = 0
export const HIT_NORMAL = 1
export const HIT_TRIANGLE = 4
export const HIT_WEIGHTS = 5
export const HIT_BACK = 8
export const HIT_POINT = 9
const HIT_DEPTH = 12
const HIT_SIZE = 13

export class Scratch<K extends Kinds> extends QueryScratch<K, Body3<K>, Collider3<K>> {
  readonly queryShape = new QueryShape()
  /** Whether a ray starts inside of another piece. */
  readonly inside = new Float64Array(RAY_SIZE)
  /** A turning motion: see narrow/records.ts. */
  readonly turning = new Float64Array(TURN_SIZE)

  constructor(host: FilterHost<Body3<K>, Collider3<K>>) {
    super(host, 3, { size: HIT_SIZE, point: HIT_POINT, depth: HIT_DEPTH }, new LineWalk3())
    this.blank[HIT_TRIANGLE] = -1
  }
}
