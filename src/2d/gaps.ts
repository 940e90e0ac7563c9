/**
 * Gaps between two colliders of any number of pieces. Few pieces are tried each against each; between many, the tree finds
 * those that are near.
 */
import { type Column, IntList } from '../core/state/table.ts'
import type { Geometry } from './geometry.ts'
import { gapOfPieces } from './narrow/pair.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from './narrow/records.ts'
import { PLANE } from './shapes/shape.ts'
import type { Tree } from './tree/tree.ts'

/** Up to so many pairs of pieces are tried one by one. */
const FEW = 16
const NONE = -1

export class Gaps {
  /** Exact tests of two pieces since it was last set to 0. */
  tests = 0
  private readonly geometry: Geometry
  private readonly trees: readonly Tree[]
  private readonly treeOf: Column<Int32Array>
  private readonly nearest = new Float64Array(GAP_SIZE)
  private readonly probe = new Float64Array(4)
  private readonly found = new IntList()
  private readonly stack = new IntList()

  constructor(geometry: Geometry, trees: readonly Tree[], treeOf: Column<Int32Array>) {
    this.geometry = geometry
    this.trees = trees
    this.treeOf = treeOf
  }

  /**
   * Writes the least gap between the pieces of two colliders; Infinity when no bounds are within `within[0]` of each other.
   * Between colliders of many pieces, the tree finds those that are near.
   */
  gapOf(a: number, b: number, within: Float64Array, out: Float64Array): void {
    const reach = within[0]
    const { geometry, nearest } = this
    const { first, pieceCount } = geometry
    out[DISTANCE] = Infinity
    const many = pieceCount.data[a] * pieceCount.data[b] > FEW
    const turned = many && pieceCount.data[a] > pieceCount.data[b]
    const one = turned ? b : a
    const other = turned ? a : b
    for (let p = first.data[one]; p !== NONE; p = geometry.after(p)) {
      if (!many) {
        for (let q = first.data[other]; q !== NONE; q = geometry.after(q)) this.gapOfTwo(p, q, within, nearest, out)
        continue
      }
      const { found, stack, probe } = this
      const { bounds } = geometry
      for (let i = 0; i < 4; i++) probe[i] = bounds.data[4 * p + i] + (i < 2 ? -reach : reach)
      const kept = found.length
      this.trees[this.treeOf.data[other]].search(probe, 0, -1, found, stack)
      for (let i = kept; i < found.length; i++) {
        if (geometry.ownerOf(found.data[i]) === other) this.gapOfTwo(p, found.data[i], within, nearest, out)
      }
      found.length = kept
    }
    if (turned) turnRecord(out)
  }

  /** Keeps the gap of two pieces in `out` when it is less than what is there. */
  private gapOfTwo(p: number, q: number, within: Float64Array, record: Float64Array, out: Float64Array): void {
    const reach = within[0]
    const { world } = this.geometry
    const bounds = this.geometry.bounds.data
    if (
      bounds[4 * p] - bounds[4 * q + 2] > reach ||
      bounds[4 * q] - bounds[4 * p + 2] > reach ||
      bounds[4 * p + 1] - bounds[4 * q + 3] > reach ||
      bounds[4 * q + 1] - bounds[4 * p + 3] > reach
    ) {
      return
    }
    this.tests++
    gapOfPieces(
      world,
      this.geometry.offsetOf(p),
      this.geometry.countOf(p),
      this.geometry.kindOf(p),
      world,
      this.geometry.offsetOf(q),
      this.geometry.countOf(q),
      this.geometry.kindOf(q),
      record,
    )
    if (record[DISTANCE] < out[DISTANCE]) for (let i = 0; i < GAP_SIZE; i++) out[i] = record[i]
  }

  /** Appends the pieces of two colliders whose bounds are within `within[0]` of each other, two by two, in their order. */
  near(a: number, b: number, within: Float64Array, out: IntList): void {
    const reach = within[0]
    const { geometry, found, stack, probe } = this
    const { first, pieceCount } = geometry
    const bounds = geometry.bounds.data
    const many = pieceCount.data[a] * pieceCount.data[b] > FEW
    const turned = many && pieceCount.data[a] > pieceCount.data[b]
    const one = turned ? b : a
    const other = turned ? a : b
    for (let p = first.data[one]; p !== NONE; p = geometry.after(p)) {
      const at = 4 * p
      if (!many) {
        for (let q = first.data[other]; q !== NONE; q = geometry.after(q)) {
          if (
            bounds[at] - bounds[4 * q + 2] > reach ||
            bounds[4 * q] - bounds[at + 2] > reach ||
            bounds[at + 1] - bounds[4 * q + 3] > reach ||
            bounds[4 * q + 1] - bounds[at + 3] > reach
          ) {
            continue
          }
          out.push(p)
          out.push(q)
        }
        continue
      }
      for (let i = 0; i < 4; i++) probe[i] = bounds[at + i] + (i < 2 ? -reach : reach)
      const kept = found.length
      this.trees[this.treeOf.data[other]].search(probe, 0, -1, found, stack)
      for (let i = kept; i < found.length; i++) {
        const q = found.data[i]
        if (geometry.ownerOf(q) !== other) continue
        out.push(turned ? q : p)
        out.push(turned ? p : q)
      }
      found.length = kept
    }
  }

  /** Whether no piece of the one is near any of the other, by the wide bounds. */
  fatApart(a: number, b: number): boolean {
    const { geometry } = this
    const { first, pieceCount } = geometry
    // What has no bounds is in no tree, and is the only piece of its collider.
    const bounded = geometry.kindOf(first.data[a]) !== PLANE && geometry.kindOf(first.data[b]) !== PLANE
    if (bounded && pieceCount.data[a] * pieceCount.data[b] > FEW) return !this.nearMany(a, b)
    for (let p = first.data[a]; p !== NONE; p = geometry.after(p)) {
      for (let q = first.data[b]; q !== NONE; q = geometry.after(q)) if (!geometry.wideApart(p, q)) return false
    }
    return true
  }

  private nearMany(a: number, b: number): boolean {
    const { first, pieceCount, fat } = this.geometry
    const { found, stack } = this
    const one = pieceCount.data[a] <= pieceCount.data[b] ? a : b
    const other = one === a ? b : a
    for (let p = first.data[one]; p !== NONE; p = this.geometry.after(p)) {
      found.clear()
      this.trees[this.treeOf.data[other]].search(fat.data, 4 * p, -1, found, stack)
      for (let i = 0; i < found.length; i++) if (this.geometry.ownerOf(found.data[i]) === other) return true
    }
    return false
  }
}

/** The same gap seen from the other side. */
function turnRecord(record: Float64Array): void {
  record[NORMAL] = -record[NORMAL]
  record[NORMAL + 1] = -record[NORMAL + 1]
  for (let i = 0; i < 2; i++) {
    const kept = record[POINT_A + i]
    record[POINT_A + i] = record[POINT_B + i]
    record[POINT_B + i] = kept
  }
}
