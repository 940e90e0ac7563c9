/** What a query has found so far, as numbers: at most one hit a collider. A dimension says what its numbers are. */
import { IntList } from '../state/table.ts'

/** Hits are sorted by their first number. */
const KEY = 0

export class HitList {
  readonly colliders = new IntList()
  readonly pieces = new IntList()
  readonly inside = new IntList()
  values: Float64Array
  /** The order in which they are to be read, when it was sorted. */
  readonly order = new IntList()
  /** For each collider slot its place among the hits, plus 1. */
  private place = new Int32Array(64)
  private readonly size: number
  private readonly depth: number
  /** Knows the place of a piece among those of its collider. Set by whoever makes the scratch. */
  pieceOrder!: { ordinalOf(piece: number): number }
  private readonly byKey: (a: number, b: number) => boolean
  private readonly byAge: (a: number, b: number) => boolean

  /**
   * @param size numbers a hit
   * @param depth which of them is the depth
   * @param serial the age of colliders
   */
  constructor(size: number, depth: number, serial: { readonly data: Int32Array }) {
    this.size = size
    this.depth = depth
    this.values = new Float64Array(16 * size)
    const { colliders } = this
    this.byAge = (a, b) => serial.data[colliders.data[a]] < serial.data[colliders.data[b]]
    this.byKey = (a, b) => {
      const difference = this.values[size * a] - this.values[size * b]
      return difference === 0 ? this.byAge(a, b) : difference < 0
    }
  }

  clear(): void {
    for (let i = 0; i < this.colliders.length; i++) {
      const c = this.colliders.data[i]
      if (c < this.place.length) this.place[c] = 0
    }
    this.colliders.clear()
    this.pieces.clear()
    this.inside.clear()
    this.order.clear()
  }

  /** Puts a hit in without numbers. @param several whether the collider has several pieces, so that it may be there */
  add(c: number, piece: number, several: boolean): void {
    if (several) {
      this.reserve(c)
      if (this.place[c] !== 0) return
      this.place[c] = this.colliders.length + 1
    }
    this.colliders.push(c)
    this.pieces.push(piece)
  }

  /**
   * Puts a hit in, or keeps the better of two of the same collider: the smaller key, inside before outside, the deeper, the earlier
   * piece; in whatever order they come.
   */
  put(c: number, piece: number, inside: boolean, record: Float64Array): void {
    const { size, depth } = this
    this.reserve(c)
    let at = this.place[c] - 1
    if (at >= 0) {
      const before = this.values[size * at]
      if (record[KEY] > before) return
      if (record[KEY] === before) {
        const wasInside = this.inside.data[at] !== 0
        if (wasInside !== inside) {
          if (wasInside) return
        } else {
          const deeper = inside ? record[depth] - this.values[size * at + depth] : 0
          if (deeper < 0 || (deeper === 0 && this.isLater(piece, at))) return
        }
      }
    } else {
      at = this.colliders.length
      this.place[c] = at + 1
      this.colliders.push(c)
      this.pieces.push(piece)
      this.inside.push(0)
      if (size * (at + 1) > this.values.length) {
        const wider = new Float64Array(2 * this.values.length)
        wider.set(this.values)
        this.values = wider
      }
    }
    this.pieces.data[at] = piece
    this.inside.data[at] = inside ? 1 : 0
    for (let i = 0; i < size; i++) this.values[size * at + i] = record[i]
  }

  /** Sorts the hits by their key (equal ones by age), or by age alone. */
  sort(byKey: boolean): void {
    this.order.clear()
    for (let i = 0; i < this.colliders.length; i++) this.order.push(i)
    this.order.sort(byKey ? this.byKey : this.byAge)
  }

  private isLater(piece: number, at: number): boolean {
    return this.pieceOrder.ordinalOf(piece) >= this.pieceOrder.ordinalOf(this.pieces.data[at])
  }

  private reserve(c: number): void {
    if (c < this.place.length) return
    const wider = new Int32Array(Math.max(2 * this.place.length, c + 1))
    wider.set(this.place)
    this.place = wider
  }
}
