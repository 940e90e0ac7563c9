/**
 * The shapes of all colliders as flat numbers. A collider is made of pieces (most of one); a piece has a block of
 * numbers about its body and one in the world (see shapes/shape.ts), bounds, and a place in a tree. World blocks are what
 * every test reads; they are made anew when a body moves.
 */
import { cosSin } from '../core/maths.ts'
import { type Column, Table } from '../core/table.ts'
import { placeInto } from './shapes/compound.ts'
import { PLANE, type Shape2 } from './shapes/shape.ts'

const NONE = -1

export class Geometry {
  readonly pieces = new Table(64)
  /** The collider that a piece belongs to. */
  readonly owner = this.pieces.i32()
  /** Index of its block: its radius, then x, y of each core point. */
  readonly offset = this.pieces.i32()
  /** Number of its core points. */
  readonly count = this.pieces.i32()
  readonly kind = this.pieces.i32()
  /** The user's number of the edge, and the index in the compound; -1 for none. */
  readonly part = this.pieces.i32()
  readonly child = this.pieces.i32()
  /** The next piece of the same collider, or -1. */
  readonly next = this.pieces.i32()
  /** Tight bounds in the world: min x, min y, max x, max y. */
  readonly bounds = this.pieces.f64(4)
  /** Bounds in the tree: for movers wider than the tight ones. */
  readonly fat = this.pieces.f64(4)
  /** First piece of a collider, and how many it has. */
  readonly first: Column<Int32Array>
  readonly pieceCount: Column<Int32Array>
  /** Blocks in the world; replaced when it grows. */
  world = new Float64Array(256)
  private body = new Float64Array(256)
  private used = 0
  /** Free blocks by their number of points. */
  private readonly free = new Map<number, number[]>()
  private readonly turn = new Float64Array(3)

  constructor(colliders: Table) {
    this.first = colliders.i32()
    this.pieceCount = colliders.i32()
  }

  /** Takes a shape in, placed at (x, y) and turned by `angle` within its body. */
  place(c: number, shape: Shape2, x: number, y: number, angle: number): void {
    this.turn[0] = angle
    cosSin(this.turn, 0)
    const [, cos, sin] = this.turn
    this.pieceCount.data[c] = shape.pieces.length
    this.first.data[c] = NONE
    // From the last to the first, so that the list runs in their order.
    for (let i = shape.pieces.length - 1; i >= 0; i--) {
      const source = shape.pieces[i]
      const n = (source.block.length - 1) / 2
      const piece = this.pieces.claim()
      const offset = this.claim(n)
      this.owner.data[piece] = c
      this.offset.data[piece] = offset
      this.count.data[piece] = n
      this.kind.data[piece] = source.kind
      this.part.data[piece] = source.part
      this.child.data[piece] = source.child
      this.next.data[piece] = this.first.data[c]
      this.first.data[c] = piece
      placeInto(source.kind, source.block, 0, n, x, y, cos, sin, this.body, offset)
    }
  }

  /**
   * Makes the world block and bounds of a piece.
   * @param place, placeAt where x, y of its body stand
   * @param turn, turnAt where cos, sin of its body stand
   */
  transform(piece: number, place: Float64Array, placeAt: number, turn: Float64Array, turnAt: number): void {
    const { body, world } = this
    const bounds = this.bounds.data
    const x = place[placeAt]
    const y = place[placeAt + 1]
    const cos = turn[turnAt]
    const sin = turn[turnAt + 1]
    const offset = this.offset.data[piece]
    if (this.kind.data[piece] === PLANE) {
      placeInto(PLANE, body, offset, 1, x, y, cos, sin, world, offset)
      bounds[4 * piece] = bounds[4 * piece + 1] = -Infinity
      bounds[4 * piece + 2] = bounds[4 * piece + 3] = Infinity
      return
    }
    const to = offset + 2 * this.count.data[piece]
    let minX = Infinity
    let minY = Infinity
    let maxX = -Infinity
    let maxY = -Infinity
    for (let i = offset + 1; i < to; i += 2) {
      const px = body[i]
      const py = body[i + 1]
      const wx = x + (cos * px - sin * py)
      const wy = y + (sin * px + cos * py)
      world[i] = wx
      world[i + 1] = wy
      if (wx < minX) minX = wx
      if (wx > maxX) maxX = wx
      if (wy < minY) minY = wy
      if (wy > maxY) maxY = wy
    }
    const r = body[offset]
    world[offset] = r
    bounds[4 * piece] = minX - r
    bounds[4 * piece + 1] = minY - r
    bounds[4 * piece + 2] = maxX + r
    bounds[4 * piece + 3] = maxY + r
  }

  /** Writes the block of a piece as it would be with its body at x, y, (angle,) cos, sin of `pose`. */
  blockAt(piece: number, pose: Float64Array, out: Float64Array): void {
    const n = this.count.data[piece]
    placeInto(this.kind.data[piece], this.body, this.offset.data[piece], n, pose[0], pose[1], pose[3], pose[4], out, 0)
  }

  /** Distance of the outermost point of a collider from the origin of its body; of a halfspace it is infinite. */
  reach(c: number): number {
    const { body } = this
    let most = 0
    for (let piece = this.first.data[c]; piece !== NONE; piece = this.next.data[piece]) {
      if (this.kind.data[piece] === PLANE) return Infinity
      const offset = this.offset.data[piece]
      const to = offset + 2 * this.count.data[piece]
      let square = 0
      for (let i = offset + 1; i < to; i += 2) {
        const here = body[i] * body[i] + body[i + 1] * body[i + 1]
        if (here > square) square = here
      }
      most = Math.max(most, Math.sqrt(square) + body[offset])
    }
    return most
  }

  /** Gives the pieces of a collider back. */
  remove(c: number): void {
    for (let piece = this.first.data[c]; piece !== NONE; ) {
      const next = this.next.data[piece]
      const n = this.count.data[piece]
      const blocks = this.free.get(n)
      if (blocks === undefined) this.free.set(n, [this.offset.data[piece]])
      else blocks.push(this.offset.data[piece])
      this.pieces.release(piece)
      piece = next
    }
    this.first.data[c] = NONE
  }

  private claim(n: number): number {
    const reused = this.free.get(n)?.pop()
    if (reused !== undefined) return reused
    const offset = this.used
    this.used += 1 + 2 * n
    if (this.used > this.world.length) {
      const size = Math.max(2 * this.world.length, this.used)
      this.world = widened(this.world, size)
      this.body = widened(this.body, size)
    }
    return offset
  }
}

function widened(data: Float64Array, size: number): Float64Array<ArrayBuffer> {
  const wider = new Float64Array(size)
  wider.set(data)
  return wider
}
