/** What a running query writes to. */
import { CompiledFilter, type FilterHost, type QueryFilter } from '../../core/query/compiledFilter.ts'
import { HitList } from '../../core/query/hitList.ts'
import { ScratchPool as CoreDesk } from '../../core/query/scratchPool.ts'
import { GRAZE_SIZE, Seams } from '../../core/query/seams.ts'
import type { Kinds } from '../../core/state/handle.ts'
import { IntList } from '../../core/state/table.ts'
import { BoxWalk, PieceWalk } from '../../core/tree/walk.ts'
import type { Body3 } from '../body.ts'
import type { Collider3 } from '../collider.ts'
import type { Kernel3 } from '../kernel.ts'
import { GAP_SIZE, RAY_SIZE, TURN_SIZE } from '../narrow/records.ts'
import { LineWalk3 } from '../tree/walk.ts'
import { Asked } from './asked.ts'

export type Filter3<K extends Kinds> = QueryFilter<K, Body3<K>, Collider3<K>>

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
export const HIT_DEPTH = 12
export const HIT_SIZE = 13

export class Scratch<K extends Kinds> {
  readonly compiled: CompiledFilter<K, Body3<K>, Collider3<K>>
  readonly stack = new IntList()
  readonly near = new IntList()
  /** Pieces that a ray passed so near that it may graze them. */
  grazed = 0
  readonly seams = new Seams()
  /** For them: the way of the walk, half the size of what moves, and the unit direction against the ray. */
  readonly seamWay = new Float64Array(6)
  readonly seamHalf = new Float64Array(3)
  readonly back = new Float64Array(3)
  readonly graze = new Float64Array(GRAZE_SIZE)
  readonly blank = new Float64Array(HIT_SIZE)
  readonly pointAt = HIT_POINT
  readonly found: HitList
  readonly record = new Float64Array(HIT_SIZE)
  readonly gap = new Float64Array(GAP_SIZE)
  readonly castRecord = new Float64Array(HIT_SIZE)
  /** A turning motion: see narrow/words.ts. */
  readonly turning = new Float64Array(TURN_SIZE)
  /** Start, motion and length of the motion. */
  readonly line = new Float64Array(7)
  /** Whether a ray starts inside of another piece. */
  readonly inside = new Float64Array(RAY_SIZE)
  /** Half the size of what moves, as the walk through the trees sees it. */
  readonly half = new Float64Array(3)
  /** The best hit of a walk for the nearest only. */
  bestPiece = -1
  bestInside = false
  readonly best = new Float64Array(HIT_SIZE)
  readonly asked = new Asked()
  /** What a moving box comes to, and what is near a standing one. */
  readonly along = new PieceWalk(new LineWalk3())
  readonly around = new PieceWalk(new BoxWalk(3))
  readonly serial: { data: Int32Array }
  private walk = new Int32Array(64)
  /** Where the ray enters what waits on that stack. */
  walkEnters = new Float64Array(64)

  constructor(host: FilterHost<Body3<K>, Collider3<K>>) {
    this.compiled = new CompiledFilter(host)
    this.blank[HIT_TRIANGLE] = -1
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
export class Desk<K extends Kinds> extends CoreDesk<K, Body3<K>, Collider3<K>, Scratch<K>, Kernel3> {
  constructor(host: FilterHost<Body3<K>, Collider3<K>>, space: Kernel3) {
    super(host, space, () => new Scratch(host))
  }
}
