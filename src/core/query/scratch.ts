/** What a running query writes to, whatever its dimension adds. Numbers of a hit: its key (fraction or distance), the unit normal, the rest. */
import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import { IntList } from '../state/table.ts'
import { gapSize } from '../step/distances.ts'
import { BoxWalk, type LineWalk, PieceWalk } from '../tree/walk.ts'
import { CompiledFilter, type FilterHost } from './compiledFilter.ts'
import { HitList } from './hitList.ts'
import { GRAZE_SIZE, Seams } from './seams.ts'

/** Where the unit normal stands among the numbers of a hit, behind its key. */
export const HIT_NORMAL = 1

/** Where the other numbers of a hit stand: how many they are, where the point is, where the depth. */
export interface HitLayout {
  readonly size: number
  readonly point: number
  readonly depth: number
}

export abstract class QueryScratch<K extends Kinds, B extends BodyHandle<K, unknown>, C extends ColliderHandle<K, B>> {
  readonly axes: number
  readonly layout: HitLayout
  readonly compiled: CompiledFilter<K, B, C>
  readonly stack = new IntList()
  readonly near = new IntList()
  readonly found: HitList
  readonly record: Float64Array
  readonly castRecord: Float64Array
  readonly gap: Float64Array
  /** Start, motion and length of the motion. */
  readonly line: Float64Array
  /** Half the size of what moves, as the walk through the trees sees it. */
  readonly half: Float64Array
  /** The best hit of a walk for the nearest only. */
  readonly best: Float64Array
  bestPiece = -1
  bestInside = false
  /** Walks over what a moving box meets, and over what is near a standing one. */
  readonly along: PieceWalk<LineWalk>
  readonly around: PieceWalk<BoxWalk>
  readonly serial: { readonly data: Int32Array }

  /** Pieces that a ray passed so near that it may graze them. */
  grazed = 0
  readonly seams = new Seams()
  /** For the seams: start and motion of the walk, its half size (zero), and the unit direction against the ray. */
  readonly seamWay: Float64Array
  readonly seamHalf: Float64Array
  readonly back: Float64Array
  /** The direction towards which a collider lets through. */
  readonly open: Float64Array
  readonly graze = new Float64Array(GRAZE_SIZE)
  /** A hit without depth, and without what only some have. */
  readonly blank: Float64Array

  private walk = new Int32Array(64)
  /** Where the ray enters what waits on the stack of a walk. */
  walkEnters = new Float64Array(64)

  constructor(host: FilterHost<B, C>, axes: number, layout: HitLayout, along: LineWalk) {
    this.axes = axes
    this.layout = layout
    this.compiled = new CompiledFilter(host)
    this.serial = host.population.serial
    this.found = new HitList(layout.size, layout.depth, host.population.serial)
    this.record = new Float64Array(layout.size)
    this.castRecord = new Float64Array(layout.size)
    this.best = new Float64Array(layout.size)
    this.blank = new Float64Array(layout.size)
    this.gap = new Float64Array(gapSize(axes))
    this.line = new Float64Array(2 * axes + 2)
    this.half = new Float64Array(axes)
    this.seamWay = new Float64Array(2 * axes)
    this.seamHalf = new Float64Array(axes)
    this.back = new Float64Array(axes)
    this.open = new Float64Array(axes)
    this.along = new PieceWalk(along)
    this.around = new PieceWalk(new BoxWalk(axes))
  }

  /** A stack for a walk through a tree of so many nodes: it cannot run over. */
  walkStack(nodes: number): Int32Array {
    if (this.walk.length < nodes) {
      this.walk = new Int32Array(2 * nodes)
      this.walkEnters = new Float64Array(2 * nodes)
    }
    return this.walk
  }

  /** Makes it ready for another query. */
  clear(): void {
    this.stack.length = 0
    this.near.length = 0
    this.found.clear()
    this.bestPiece = -1
  }
}
