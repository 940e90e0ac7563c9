/**
 * The search for candidate pairs: two colliders whose wide bounds are near, that the filter lets meet, and that somebody presses apart
 * or some watch or hook matches.
 */
import { FIXED, ON, PASS, SENSE } from '../filter/filter.ts'
import type { PieceTable, SourcePiece } from '../state/pieces.ts'
import type { Population } from '../state/population.ts'
import { IntList } from '../state/table.ts'
import type { BoundsTree } from '../tree/boundsTree.ts'
import { type BroadPhase, MOVERS, NOWHERE, RESTING_SENSORS } from './broadPhase.ts'
import type { Pairs } from './pairs.ts'

/** Whether any watch or hook matches a pair. */
export type IsWatched = (a: number, b: number, response: number) => boolean

export class Candidates {
  readonly isWatched: IsWatched
  private readonly population: Population<object, object>
  private readonly pairs: Pairs
  private readonly broadPhase: BroadPhase<SourcePiece, PieceTable<SourcePiece>, BoundsTree>
  private readonly axes: number
  private readonly found = new IntList()
  private readonly stack = new IntList()

  constructor(
    population: Population<object, object>,
    pairs: Pairs,
    broadPhase: BroadPhase<SourcePiece, PieceTable<SourcePiece>, BoundsTree>,
    axes: number,
    isWatched: IsWatched,
  ) {
    this.population = population
    this.pairs = pairs
    this.broadPhase = broadPhase
    this.axes = axes
    this.isWatched = isWatched
  }

  /** Adds candidate pairs for whatever left its bounds or must be searched for again. */
  find(): void {
    const { found, stack, broadPhase } = this
    const { queue, isQueued, treeOf, trees, geometry, planes } = broadPhase
    const { filter } = this.population
    const { wideBounds } = geometry
    const size = 2 * this.axes
    for (let i = 0; i < queue.length; i++) {
      const c = queue.data[i]
      if (isQueued.data[c] === 0) continue
      isQueued.data[c] = 0
      broadPhase.unsettled.push(c)
      const flags = filter.flags.data[c]
      if ((flags & ON) === 0 || treeOf.data[c] === NOWHERE) continue
      const mask = filter.activeMeet.data[c]
      const last = (flags & FIXED) !== 0 ? MOVERS : RESTING_SENSORS
      for (let piece = geometry.first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        found.clear()
        if (geometry.isEndless(piece)) {
          trees[MOVERS].all(mask, found, stack)
          for (let k = 0; k < found.length; k++) this.considerPieces(piece, found.data[k])
          continue
        }
        for (let tree = MOVERS; tree <= last; tree++)
          trees[tree].search(wideBounds.data, size * piece, mask, found, stack)
        for (let k = 0; k < found.length; k++) this.consider(c, geometry.ownerOf(found.data[k]))
        if (last === MOVERS) continue
        for (let k = 0; k < planes.length; k++) this.considerPieces(piece, planes.data[k])
      }
    }
    queue.clear()
  }

  /** The other colliders whose bounds are near those of one, and that its filter may let it meet; the oldest first. */
  nearColliders(c: number): number[] {
    const { found, stack, population, axes } = this
    const { trees, geometry, planes } = this.broadPhase
    const mask = population.filter.activeMeet.data[c]
    const near = new Set<number>()
    found.clear()
    for (let piece = geometry.first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
      const endless = geometry.isEndless(piece)
      for (const tree of trees) {
        if (endless) tree.all(mask, found, stack)
        else tree.search(geometry.bounds.data, 2 * axes * piece, mask, found, stack)
      }
    }
    for (let i = 0; i < found.length; i++) near.add(geometry.ownerOf(found.data[i]))
    for (let i = 0; i < planes.length; i++) near.add(geometry.ownerOf(planes.data[i]))
    const { data } = population.serial
    return [...near].sort((p, q) => data[p] - data[q])
  }

  /** The pair of two colliders, or -1. */
  pairOf(c: number, other: number): number {
    const { data } = this.population.serial
    return data[c] < data[other] ? this.pairs.find(c, other) : this.pairs.find(other, c)
  }

  /** Of a plane, which is in no tree, and a piece: considers their colliders unless the piece is wholly outside. */
  private considerPieces(p: number, q: number): void {
    const { geometry } = this.broadPhase
    if (!geometry.wideApart(p, q)) this.consider(geometry.ownerOf(p), geometry.ownerOf(q))
  }

  /** Adds a pair that the filter and the watches let through, unless it is there. */
  private consider(c: number, other: number): void {
    const { pairs, population } = this
    const { filter, serial } = population
    const response = filter.respond(c, other)
    if (response === PASS) return
    const silent = this.isSilent(response, c, other)
    if (silent) {
      const { activeLayers, watched } = filter
      if ((activeLayers.data[c] & watched.data[other]) === 0 || (activeLayers.data[other] & watched.data[c]) === 0)
        return
    }
    if (this.pairOf(c, other) >= 0) return
    const a = serial.data[c] < serial.data[other] ? c : other
    const b = a === c ? other : c
    if (silent && !this.isWatched(a, b, response)) return
    pairs.add(a, b, response)
  }

  /** Whether a pair matters only to those who watch it: a sense pair, or a solid one that nobody presses apart. */
  isSilent(response: number, a: number, b: number): boolean {
    return response === SENSE || !this.population.filter.isPressed(a, b)
  }
}
