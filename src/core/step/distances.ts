/**
 * Distances between two colliders of any number of pieces. Few pieces are tried each against each; between many, the tree finds
 * those that are near. A record of the distance of two is: signed distance, unit normal from the first to the second, the nearest
 * point of the first, that of the second.
 */
import type { PieceTable, SourcePiece } from '../state/pieces.ts'
import { type Column, IntList } from '../state/table.ts'
import type { BoundsTree } from '../tree/boundsTree.ts'

/** Up to so many pairs of pieces are tried one by one. */
const FEW = 16
const NONE = -1
const NO_DISTANCE = new Float64Array(1)

/** Places in a record; the points stand behind the normal, see {@link gapSize}. */
export const DISTANCE = 0
export const NORMAL = 1

/** Numbers of a record, by how many numbers a point has. */
export function gapSize(axes: number): number {
  return 1 + 3 * axes
}

export abstract class Distances<G extends PieceTable<SourcePiece>> {
  /** Exact tests of two pieces since it was last set to 0. */
  tests = 0
  protected readonly geometry: G
  protected readonly axes: number
  private readonly trees: readonly BoundsTree[]
  private readonly treeOf: Column<Int32Array>
  private readonly nearest: Float64Array
  private readonly probe: Float64Array
  private readonly met: Float64Array
  private readonly found = new IntList()
  private readonly stack = new IntList()

  /** @param treeOf which tree a collider is in */
  constructor(geometry: G, trees: readonly BoundsTree[], treeOf: Column<Int32Array>, axes: number) {
    this.geometry = geometry
    this.trees = trees
    this.treeOf = treeOf
    this.axes = axes
    this.nearest = new Float64Array(gapSize(axes))
    this.probe = new Float64Array(2 * axes)
    this.met = new Float64Array(gapSize(axes))
  }

  /** Writes the record of two colliders; the distance is Infinity when no bounds are within `within[0]` of each other. */
  between(a: number, b: number, within: Float64Array, out: Float64Array): void {
    const { geometry } = this
    const { first, pieceCount } = geometry
    out[DISTANCE] = Infinity
    const many = pieceCount.data[a] * pieceCount.data[b] > FEW
    const swapped = many && pieceCount.data[a] > pieceCount.data[b]
    const one = swapped ? b : a
    const other = swapped ? a : b
    for (let p = first.data[one]; p !== NONE; p = geometry.after(p)) {
      if (!many) {
        for (let q = first.data[other]; q !== NONE; q = geometry.after(q)) this.keepNearer(p, q, within, out)
        continue
      }
      const { found } = this
      const kept = found.length
      this.searchNear(p, other, within[0])
      for (let i = kept; i < found.length; i++) {
        if (geometry.ownerOf(found.data[i]) === other) this.keepNearer(p, found.data[i], within, out)
      }
      found.length = kept
    }
    if (swapped) swapRecord(out, this.axes)
  }

  /** Whether two colliders overlap or touch, to the same bit as their distance says. */
  meet(a: number, b: number): boolean {
    const { geometry } = this
    const { first, pieceCount } = geometry
    if (pieceCount.data[a] * pieceCount.data[b] > FEW) {
      this.between(a, b, NO_DISTANCE, this.met)
      return this.met[DISTANCE] <= 0
    }
    for (let p = first.data[a]; p !== NONE; p = geometry.after(p)) {
      for (let q = first.data[b]; q !== NONE; q = geometry.after(q)) if (this.piecesMeet(p, q)) return true
    }
    return false
  }

  /** Appends the pieces of two colliders whose bounds are within `within[0]` of each other, two by two, in their order. */
  nearPieces(a: number, b: number, within: Float64Array, out: IntList): void {
    const { geometry, found } = this
    const { first, pieceCount } = geometry
    const many = pieceCount.data[a] * pieceCount.data[b] > FEW
    const swapped = many && pieceCount.data[a] > pieceCount.data[b]
    const one = swapped ? b : a
    const other = swapped ? a : b
    for (let p = first.data[one]; p !== NONE; p = geometry.after(p)) {
      if (!many) {
        for (let q = first.data[other]; q !== NONE; q = geometry.after(q)) {
          if (this.boundsApart(p, q, within[0])) continue
          out.push(p)
          out.push(q)
        }
        continue
      }
      const kept = found.length
      this.searchNear(p, other, within[0])
      for (let i = kept; i < found.length; i++) {
        const q = found.data[i]
        if (geometry.ownerOf(q) !== other) continue
        out.push(swapped ? q : p)
        out.push(swapped ? p : q)
      }
      found.length = kept
    }
  }

  /**
   * Appends the pieces of a collider that may be near to another one, by the wide bounds: all where they are few. In the order of the tree.
   * @param of whose pieces
   * @param by the other
   */
  listNear(of: number, by: number, out: IntList): void {
    const { geometry, axes, stack } = this
    const { first, pieceCount, wideBounds } = geometry
    if (pieceCount.data[of] <= FEW || geometry.isEndless(first.data[by])) {
      for (let p = first.data[of]; p !== NONE; p = geometry.after(p)) out.push(p)
      return
    }
    const from = out.length
    for (let q = first.data[by]; q !== NONE; q = geometry.after(q)) {
      const kept = out.length
      this.trees[this.treeOf.data[of]].search(wideBounds.data, 2 * axes * q, -1, out, stack)
      let count = kept
      for (let i = kept; i < out.length; i++) {
        const p = out.data[i]
        if (geometry.ownerOf(p) === of && !(kept > from && hasFrom(out, from, kept, p))) out.data[count++] = p
      }
      out.length = count
    }
  }

  /** Appends the pieces of a collider whose bounds meet a box: the least coordinates, then the greatest. */
  listWithin(of: number, box: Float64Array, out: IntList): void {
    const { geometry } = this
    const from = out.length
    if (geometry.pieceCount.data[of] <= FEW) {
      for (let p = geometry.first.data[of]; p !== NONE; p = geometry.after(p)) out.push(p)
      return
    }
    this.trees[this.treeOf.data[of]].search(box, 0, -1, out, this.stack)
    let count = from
    for (let i = from; i < out.length; i++) if (geometry.ownerOf(out.data[i]) === of) out.data[count++] = out.data[i]
    out.length = count
  }

  /** Whether no piece of the one is near any of the other, by the wide bounds. */
  wideApart(a: number, b: number): boolean {
    const { geometry } = this
    const { first, pieceCount } = geometry
    // What has no bounds is in no tree, and is the only piece of its collider.
    const bounded = !geometry.isEndless(first.data[a]) && !geometry.isEndless(first.data[b])
    if (bounded && pieceCount.data[a] * pieceCount.data[b] > FEW) return !this.nearMany(a, b)
    for (let p = first.data[a]; p !== NONE; p = geometry.after(p)) {
      for (let q = first.data[b]; q !== NONE; q = geometry.after(q)) if (!geometry.wideApart(p, q)) return false
    }
    return true
  }

  /** The distance of the bounds of two colliders, 0 where they overlap. Cold. */
  betweenBounds(a: number, b: number): number {
    const { geometry, axes } = this
    const box = geometry.bounds.data
    let least = Infinity
    for (let p = geometry.first.data[a]; p !== NONE; p = geometry.after(p)) {
      for (let q = geometry.first.data[b]; q !== NONE; q = geometry.after(q)) {
        const [atP, atQ] = [2 * axes * p, 2 * axes * q]
        let square = 0
        for (let i = 0; i < axes; i++) {
          const apart = Math.max(box[atP + i] - box[atQ + axes + i], box[atQ + i] - box[atP + axes + i], 0)
          square += apart * apart
        }
        least = Math.min(least, Math.sqrt(square))
      }
    }
    return least
  }

  /** How far a point is off the bounds of colliders, and the largest extent of these. Cold. */
  toPoint(colliders: readonly number[], point: readonly number[]): { readonly off: number; readonly extent: number } {
    const { geometry, axes } = this
    const box = geometry.bounds.data
    let off = Infinity
    let extent = 0
    for (const c of colliders) {
      for (let p = geometry.first.data[c]; p !== NONE; p = geometry.after(p)) {
        const at = 2 * axes * p
        let square = 0
        for (let i = 0; i < axes; i++) {
          const apart = Math.max(box[at + i] - point[i], point[i] - box[at + axes + i], 0)
          square += apart * apart
          extent = Math.max(extent, box[at + axes + i] - box[at + i])
        }
        off = Math.min(off, Math.sqrt(square))
      }
    }
    return { off, extent }
  }

  /** Writes the record of two pieces; what is further away than `within[0]` need not be exact. */
  protected abstract betweenPieces(p: number, q: number, within: Float64Array, record: Float64Array): void

  /** Writes lengths by which two colliders that meet can surely be moved against each other while they meet: 0 where that is not told cheaply. */
  depthBound(a: number, b: number, out: Float64Array): void {
    const { first, pieceCount } = this.geometry
    out[0] = 0
    if (pieceCount.data[a] === 1 && pieceCount.data[b] === 1) this.depthOfPieces(first.data[a], first.data[b], out)
  }

  /** Writes lengths by which two pieces are surely apart: by their bounds, along one axis. */
  gapBound(p: number, q: number, out: Float64Array): void {
    const { axes } = this
    const bounds = this.geometry.bounds.data
    let most = -Infinity
    for (let i = 0; i < axes; i++) {
      const ahead = bounds[2 * axes * p + i] - bounds[2 * axes * q + axes + i]
      const behind = bounds[2 * axes * q + i] - bounds[2 * axes * p + axes + i]
      if (ahead > most) most = ahead
      if (behind > most) most = behind
    }
    out[0] = most
  }

  /** {@link depthBound} of two pieces that meet. */
  protected abstract depthOfPieces(p: number, q: number, out: Float64Array): void

  /** Writes by how much the bounds of two pieces overlap, along the axis along which they do so least. */
  protected overlapOfBounds(p: number, q: number, out: Float64Array): void {
    const { axes } = this
    const bounds = this.geometry.bounds.data
    let least = Infinity
    for (let i = 0; i < axes; i++) {
      const ahead = bounds[2 * axes * q + axes + i] - bounds[2 * axes * p + i]
      const behind = bounds[2 * axes * p + axes + i] - bounds[2 * axes * q + i]
      if (ahead < least) least = ahead
      if (behind < least) least = behind
    }
    out[0] = least
  }

  /** Whether two pieces overlap or touch, to the same bit as {@link betweenPieces} and their bounds say. */
  protected abstract piecesMeet(p: number, q: number): boolean

  /** Keeps the record of two pieces in `out` when they are nearer than what is there. */
  private keepNearer(p: number, q: number, within: Float64Array, out: Float64Array): void {
    if (this.boundsApart(p, q, within[0])) return
    const { nearest } = this
    this.tests++
    this.betweenPieces(p, q, within, nearest)
    if (nearest[DISTANCE] < out[DISTANCE]) for (let i = 0; i < nearest.length; i++) out[i] = nearest[i]
  }

  /** Whether the tight bounds of two pieces are further apart than a reach along any axis. */
  private boundsApart(p: number, q: number, reach: number): boolean {
    const { axes } = this
    const bounds = this.geometry.bounds.data
    const atP = 2 * axes * p
    const atQ = 2 * axes * q
    return (
      bounds[atP] - bounds[atQ + axes] > reach ||
      bounds[atQ] - bounds[atP + axes] > reach ||
      bounds[atP + 1] - bounds[atQ + axes + 1] > reach ||
      bounds[atQ + 1] - bounds[atP + axes + 1] > reach ||
      (axes === 3 && (bounds[atP + 2] - bounds[atQ + 5] > reach || bounds[atQ + 2] - bounds[atP + 5] > reach))
    )
  }

  /** Appends to `found` the pieces in the tree of a collider that are within reach of a piece. */
  private searchNear(p: number, other: number, reach: number): void {
    const { probe, axes, found, stack } = this
    const bounds = this.geometry.bounds.data
    for (let i = 0; i < 2 * axes; i++) probe[i] = bounds[2 * axes * p + i] + (i < axes ? -reach : reach)
    this.trees[this.treeOf.data[other]].search(probe, 0, -1, found, stack)
  }

  private nearMany(a: number, b: number): boolean {
    const { first, pieceCount, wideBounds } = this.geometry
    const { found, stack } = this
    const one = pieceCount.data[a] <= pieceCount.data[b] ? a : b
    const other = one === a ? b : a
    for (let p = first.data[one]; p !== NONE; p = this.geometry.after(p)) {
      found.clear()
      this.trees[this.treeOf.data[other]].search(wideBounds.data, 2 * this.axes * p, -1, found, stack)
      for (let i = 0; i < found.length; i++) if (this.geometry.ownerOf(found.data[i]) === other) return true
    }
    return false
  }
}

function hasFrom(list: IntList, from: number, to: number, value: number): boolean {
  for (let i = from; i < to; i++) if (list.data[i] === value) return true
  return false
}

/** The same record seen from the other side. */
export function swapRecord(record: Float64Array, axes: number): void {
  const pointA = NORMAL + axes
  const pointB = pointA + axes
  for (let i = 0; i < axes; i++) {
    record[NORMAL + i] = -record[NORMAL + i]
    const kept = record[pointA + i]
    record[pointA + i] = record[pointB + i]
    record[pointB + i] = kept
  }
}
