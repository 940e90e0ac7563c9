/** What a running query writes to. */
import { CompiledFilter, type FilterHost, type QueryFilter } from '../../core/query/compiledFilter.ts'
import { HitList } from '../../core/query/hitList.ts'
import { ScratchPool as CoreDesk } from '../../core/query/scratchPool.ts'
import { GRAZE_SIZE, Seams } from '../../core/query/seams.ts'
import type { Kinds } from '../../core/state/handle.ts'
import { IntList } from '../../core/state/table.ts'
import { BoxWalk, PieceWalk } from '../../core/tree/walk.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import type { Kernel2 } from '../kernel.ts'
import { LineWalk2 } from '../tree/walk.ts'
import { Asked } from './asked.ts'

export type Filter2<K extends Kinds> = QueryFilter<K, Body2<K>, Collider2<K>>

/** Numbers of a hit: fraction or distance, unit normal, point, depth. */
export const HIT_SIZE = 6
export const KEY = 0
export const HIT_NORMAL = 1
export const HIT_POINT = 3
export const HIT_DEPTH = 5

export class Scratch<K extends Kinds> {
  readonly compiled: CompiledFilter<K, Body2<K>, Collider2<K>>
  readonly stack = new IntList()
  readonly near = new IntList()
  /** Pieces that a ray passed so near that it may graze them. */
  grazed = 0
  readonly seams = new Seams()
  /** For them: the way of the walk, half the size of what moves, and the unit direction against the ray. */
  readonly seamWay = new Float64Array(4)
  readonly ray = new Float64Array(6)
  readonly seamHalf = new Float64Array(2)
  readonly back = new Float64Array(2)
  readonly graze = new Float64Array(GRAZE_SIZE)
  readonly blank = new Float64Array(HIT_SIZE)
  readonly pointAt = HIT_POINT
  readonly found: HitList
  readonly record = new Float64Array(HIT_SIZE)
  readonly gap = new Float64Array(8)
  readonly castRecord = new Float64Array(HIT_SIZE)
  /** Start x, y, motion x, y, start angle, whole turn. */
  readonly turning = new Float64Array(6)
  /** Start, motion and length of the motion; and 0, by how much shapes are wrong beyond their own rounding. */
  readonly line = new Float64Array(6)
  /** Half the size of what moves, as the walk through the trees sees it. */
  readonly half = new Float64Array(2)
  /** The best hit of a walk for the nearest only. */
  bestPiece = -1
  bestInside = false
  readonly best = new Float64Array(HIT_SIZE)
  readonly asked = new Asked()
  /** What a moving box comes to, and what is near a standing one. */
  readonly along = new PieceWalk(new LineWalk2())
  readonly around = new PieceWalk(new BoxWalk(2))
  readonly serial: { data: Int32Array }
  private walk = new Int32Array(64)
  /** Where the ray enters what waits on that stack. */
  walkEnters = new Float64Array(64)

  constructor(host: FilterHost<Body2<K>, Collider2<K>>) {
    this.compiled = new CompiledFilter(host)
    this.serial = host.population.serial
    this.found = new HitList(HIT_SIZE, HIT_DEPTH, host.population.serial)
  }

  /** A stack for a walk through a tree of so many nodes: it cannot run over. */
  walkStack(nodes: number): Int32Array {
    if (this.walk.length < nodes) {
      this.walk = new Int32Array(2 * nodes)
      this.walkEnters = new Float64Array(2 * nodes)
    }
    return this.walk
  }
}

/** Lends scratches of the dimension. */
export class Desk<K extends Kinds> extends CoreDesk<K, Body2<K>, Collider2<K>, Scratch<K>, Kernel2> {
  constructor(host: FilterHost<Body2<K>, Collider2<K>>, space: Kernel2) {
    super(host, space, () => new Scratch(host))
  }
}
