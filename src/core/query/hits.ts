/** What every hit has, and what the modes of queries need of a kernel. */
import type { IntList } from '../state/table.ts'
import type { BoundsTree } from '../tree/boundsTree.ts'

/** Answers of a ray and a cast against one piece. A miss by no more than rounding, or nearly, is NEAR. */
export const NEAR = -1
export const MISS = 0
export const HIT = 1
export const INSIDE = 2

/** What every hit says. */
export interface AnyHit<B, C> {
  collider: C
  body: B
  /** Index in the compound; -1 for other shapes. */
  child: number
}

/** What a ray and a cast say besides. */
export interface AnyRayHit<B, C> extends AnyHit<B, C> {
  fraction: number
  distance: number
  startedInside: boolean
}

/** The part of a kernel that queries go through. */
export interface QueryKernel {
  readonly geometry: {
    readonly first: { readonly data: Int32Array }
    readonly pieceCount: { readonly data: Int32Array }
    ownerOf(piece: number): number
    childOf(piece: number): number
    hasSiblings(piece: number): boolean
    after(piece: number): number
  }
  /** Pieces that are halfspaces: they are in no tree. */
  readonly planes: IntList
  readonly trees: readonly BoundsTree[]
  /** Brings geometry and trees up to date. */
  refresh(): void
  /** Whether a ray runs along a piece; writes a graze record. */
  graze(piece: number, line: Float64Array, out: Float64Array): boolean
}
