/**
 * Gaps between two colliders of any number of pieces. Few pieces are tried each against each; between many, the tree finds
 * those that are near.
 */
import { type Column, IntList } from '../core/state/table.ts'
import type { Geometry } from './geometry.ts'
import { turnGap } from './narrow/gap.ts'
import { DISTANCE, GAP_SIZE } from './narrow/records.ts'
import { gapToPiece } from './narrow/standing.ts'
import { PLANE, SURFACE, TRIANGLE_BLOCK } from './shapes/layout.ts'
import { boundsOf } from './shapes/place.ts'
import { boxInto, searchSurface, triangleInto } from './surface/search.ts'
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
  private readonly probe = new Float64Array(6)
  private readonly triangle = new Float64Array(TRIANGLE_BLOCK)
  private readonly triangleBox = new Float64Array(6)
  private readonly triangles = new IntList()
  private readonly triangleGap = new Float64Array(GAP_SIZE)
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
      for (let i = 0; i < 6; i++) probe[i] = bounds.data[6 * p + i] + (i < 3 ? -reach : reach)
      const kept = found.length
      this.trees[this.treeOf.data[other]].search(probe, 0, -1, found, stack)
      for (let i = kept; i < found.length; i++) {
        if (geometry.ownerOf(found.data[i]) === other) this.gapOfTwo(p, found.data[i], within, nearest, out)
      }
      found.length = kept
    }
    if (turned) turnGap(out)
  }

  /** Keeps the gap of two pieces in `out` when it is less than what is there. */
  private gapOfTwo(p: number, q: number, within: Float64Array, record: Float64Array, out: Float64Array): void {
    const reach = within[0]
    const { geometry } = this
    const bounds = geometry.bounds.data
    for (let i = 0; i < 3; i++) {
      if (bounds[6 * p + i] - bounds[6 * q + 3 + i] > reach || bounds[6 * q + i] - bounds[6 * p + 3 + i] > reach) return
    }
    this.tests++
    // A surface is asked by a convex piece; of two surfaces the one with fewer triangles asks, one by one.
    const ownTriangles = geometry.surfaces[p]?.count ?? 0
    const otherTriangles = geometry.surfaces[q]?.count ?? 0
    const turned = ownTriangles > otherTriangles
    this.gapToward(turned ? q : p, turned ? p : q, within, record)
    if (turned) turnGap(record)
    if (record[DISTANCE] < out[DISTANCE]) for (let i = 0; i < GAP_SIZE; i++) out[i] = record[i]
  }

  /** The gap of two pieces, of which the second may be a surface with more triangles than the first. */
  private gapToward(p: number, q: number, within: Float64Array, record: Float64Array): void {
    const { geometry, triangle, triangleBox, triangles, triangleGap, probe } = this
    const { world } = geometry
    const bounds = geometry.bounds.data
    const own = geometry.offsetOf(p)
    const other = geometry.offsetOf(q)
    const surface = geometry.surfaces[q]
    if (geometry.kindOf(p) !== SURFACE) {
      gapToPiece(world, own, bounds, 6 * p, world, other, surface, within, record)
      return
    }
    record[DISTANCE] = Infinity
    const asking = geometry.surfaces[p]!
    for (let i = 0; i < 6; i++) probe[i] = bounds[6 * q + i] + (i < 3 ? -within[0] : within[0])
    boxInto(world, own, probe, 0, triangleBox)
    triangles.clear()
    searchSurface(asking, triangleBox, triangles)
    for (let k = 0; k < triangles.length; k++) {
      triangleInto(asking, triangles.data[k], world, own, triangle)
      boundsOf(triangle, 0, triangleBox, 0, triangleBox, 0)
      gapToPiece(triangle, 0, triangleBox, 0, world, other, surface, within, triangleGap)
      if (triangleGap[DISTANCE] < record[DISTANCE]) for (let i = 0; i < GAP_SIZE; i++) record[i] = triangleGap[i]
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
      this.trees[this.treeOf.data[other]].search(fat.data, 6 * p, -1, found, stack)
      for (let i = 0; i < found.length; i++) if (this.geometry.ownerOf(found.data[i]) === other) return true
    }
    return false
  }
}
