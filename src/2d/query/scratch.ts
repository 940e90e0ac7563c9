/** What a running query of 2D writes to. */
import type { FilterHost } from '../../core/query/compiledFilter.ts'
import { QueryScratch } from '../../core/query/scratch.ts'
import type { ScratchPool } from '../../core/query/scratchPool.ts'
import type { Kinds } from '../../core/state/handle.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import { WAY_SIZE } from '../tiles/wayOut.ts'
import { LineWalk2 } from '../tree/walk.ts'
import type { MutableVec2 } from '../vector.ts'
import { QueryShape } from './queryShape.ts'

export type Pool2<K extends Kinds> = ScratchPool<K, Body2<K>, Collider2<K>, Scratch<K>, MutableVec2>

/** Numbers of a hit: fraction or distance, unit normal, point, depth. */
const HIT_SIZE = 6
export const KEY = 0
export const HIT_NORMAL = 1
export const HIT_POINT = 3
const HIT_DEPTH = 5

/** A motion that turns: start x, y, motion x, y, start angle, whole turn. */
const TURN_SIZE = 6

export class Scratch<K extends Kinds> extends QueryScratch<K, Body2<K>, Collider2<K>> {
  readonly queryShape = new QueryShape()
  /** A ray along a segment: start, motion, nothing, and by how much shapes are wrong beyond their own rounding. */
  readonly ray = new Float64Array(6)
  /** A way out of tiles. */
  readonly way = new Float64Array(WAY_SIZE)
  readonly turning = new Float64Array(TURN_SIZE)

  constructor(host: FilterHost<Body2<K>, Collider2<K>>) {
    super(host, 2, { size: HIT_SIZE, point: HIT_POINT, depth: HIT_DEPTH }, new LineWalk2())
  }
}
