/**
 * The shapes of all colliders as flat numbers. A collider is made of pieces (most of one); a piece has a block of
 * numbers about its body and one in the world (see shapes/shape.ts), bounds, and a place in a tree. World blocks are what
 * every test reads; they are made anew when a body moves.
 */

import { type Column, type IntList, Table } from '../core/state/table.ts'
import { cosSin } from '../core/util/maths.ts'
import { placeInto } from './shapes/compound.ts'
import { PLANE, type Shape2 } from './shapes/shape.ts'

const NONE = -1
/** What is known of a piece stands in one row, so that a walk that comes to it reads one place in memory. */
const ROW = 8
const OWNER = 0
const OFFSET = 1
const COUNT = 2
const KIND = 3
const PART = 4
const CHILD = 5
const NEXT = 6
/** Its place among the pieces of its collider, from 1; 0 where it is the only one. */
const ORDINAL = 7

export class Geometry {
  readonly pieces = new Table(64)
  private readonly row = this.pieces.i32(ROW)
  /** Tight bounds in the world: min x, min y, max x, max y. */
  readonly bounds = this.pieces.f64(4)
  /** Bounds in the tree: for movers wider than the tight ones. */
  readonly fat = this.pieces.f64(4)
  /** First piece of a collider, and how many it has. */
  readonly first: Column<Int32Array>
  readonly pieceCount: Column<Int32Array>
  /** Distance of a collider's outermost point from the origin of its body; of a halfspace it is infinite. */
  readonly reach: Column<Float64Array>
  /** The same of its core points: as far as a turn carries it, for a radius stays round about its core. */
  readonly coreReach: Column<Float64Array>
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
    this.reach = colliders.f64()
    this.coreReach = colliders.f64()
  }

  /** The collider that a piece belongs to. */
  ownerOf(piece: number): number {
    return this.row.data[ROW * piece + OWNER]
  }

  /** Index of its block: its radius, then x, y of each core point. */
  offsetOf(piece: number): number {
    return this.row.data[ROW * piece + OFFSET]
  }

  /** Number of its core points. */
  countOf(piece: number): number {
    return this.row.data[ROW * piece + COUNT]
  }

  kindOf(piece: number): number {
    return this.row.data[ROW * piece + KIND]
  }

  /** The user's number of the edge; -1 for none. */
  partOf(piece: number): number {
    return this.row.data[ROW * piece + PART]
  }

  /** The index in the compound; -1 for none. */
  childOf(piece: number): number {
    return this.row.data[ROW * piece + CHILD]
  }

  /** Whether its collider has other pieces besides. */
  hasSiblings(piece: number): boolean {
    return this.row.data[ROW * piece + ORDINAL] !== 0
  }

  /** Its place among the pieces of its collider, which lasts as long as the collider has its shape. */
  ordinalOf(piece: number): number {
    return this.row.data[ROW * piece + ORDINAL]
  }

  /** The next piece of the same collider, or -1. */
  after(piece: number): number {
    return this.row.data[ROW * piece + NEXT]
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
      const row = this.row.data
      const at = ROW * piece
      row[at + OWNER] = c
      row[at + OFFSET] = offset
      row[at + COUNT] = n
      row[at + KIND] = source.kind
      row[at + PART] = source.part
      row[at + CHILD] = source.child
      row[at + NEXT] = this.first.data[c]
      row[at + ORDINAL] = shape.pieces.length > 1 ? i + 1 : 0
      this.first.data[c] = piece
      placeInto(source.kind, source.block, 0, n, x, y, cos, sin, this.body, offset)
    }
    this.measureReach(c)
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
    const offset = this.offsetOf(piece)
    if (this.kindOf(piece) === PLANE) {
      placeInto(PLANE, body, offset, 1, x, y, cos, sin, world, offset)
      bounds[4 * piece] = bounds[4 * piece + 1] = -Infinity
      bounds[4 * piece + 2] = bounds[4 * piece + 3] = Infinity
      return
    }
    const to = offset + 2 * this.countOf(piece)
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

  /**
   * Whether the wide bounds of two pieces are apart. A plane has no bounds: a piece is apart from it when its own are wholly
   * outside the solid half. Two planes never are.
   */
  wideApart(p: number, q: number): boolean {
    const fat = this.fat.data
    if (this.kindOf(q) === PLANE) return this.kindOf(p) !== PLANE && this.isOutside(fat, p, q)
    if (this.kindOf(p) === PLANE) return this.isOutside(fat, q, p)
    return (
      fat[4 * p] > fat[4 * q + 2] ||
      fat[4 * q] > fat[4 * p + 2] ||
      fat[4 * p + 1] > fat[4 * q + 3] ||
      fat[4 * q + 1] > fat[4 * p + 3]
    )
  }

  /** Whether a box lies wholly outside a plane: its corner that reaches farthest in does. */
  private isOutside(box: Float64Array, p: number, plane: number): boolean {
    const { world } = this
    const offset = this.offsetOf(plane)
    const nx = world[offset + 1]
    const ny = world[offset + 2]
    const x = nx > 0 ? box[4 * p] : box[4 * p + 2]
    const y = ny > 0 ? box[4 * p + 1] : box[4 * p + 3]
    return nx * x + ny * y > world[offset]
  }

  /** Writes the block of a piece, as it would be with its body at x, y, (angle,) cos, sin of `pose`, to `out[at]`. */
  blockAt(piece: number, pose: Float64Array, out: Float64Array, at: number): void {
    const n = this.countOf(piece)
    placeInto(this.kindOf(piece), this.body, this.offsetOf(piece), n, pose[0], pose[1], pose[3], pose[4], out, at)
  }

  /** Writes the bounds of a piece with its body at x, y, (angle,) cos, sin of `pose`: min x, min y, max x, max y. */
  boundsAt(piece: number, pose: Float64Array, out: Float64Array): void {
    const { body } = this
    const offset = this.offsetOf(piece)
    const to = offset + 2 * this.countOf(piece)
    const r = body[offset]
    out[0] = out[1] = Infinity
    out[2] = out[3] = -Infinity
    for (let i = offset + 1; i < to; i += 2) {
      const x = pose[0] + pose[3] * body[i] - pose[4] * body[i + 1]
      const y = pose[1] + pose[4] * body[i] + pose[3] * body[i + 1]
      if (x - r < out[0]) out[0] = x - r
      if (y - r < out[1]) out[1] = y - r
      if (x + r > out[2]) out[2] = x + r
      if (y + r > out[3]) out[3] = y + r
    }
  }

  private measureReach(c: number): void {
    const { body, reach, coreReach } = this
    reach.data[c] = 0
    coreReach.data[c] = 0
    for (let piece = this.first.data[c]; piece !== NONE; piece = this.after(piece)) {
      const offset = this.offsetOf(piece)
      const to = offset + 2 * this.countOf(piece)
      let square = this.kindOf(piece) === PLANE ? Infinity : 0
      for (let i = offset + 1; i < to; i += 2) {
        const here = body[i] * body[i] + body[i + 1] * body[i + 1]
        if (here > square) square = here
      }
      const core = Math.sqrt(square)
      if (core > coreReach.data[c]) coreReach.data[c] = core
      if (core + body[offset] > reach.data[c]) reach.data[c] = core + body[offset]
    }
  }

  /** Gives the pieces of a collider back. */
  remove(c: number): void {
    for (let piece = this.first.data[c]; piece !== NONE; ) {
      const next = this.after(piece)
      const n = this.countOf(piece)
      const blocks = this.free.get(n)
      if (blocks === undefined) this.free.set(n, [this.offsetOf(piece)])
      else blocks.push(this.offsetOf(piece))
      this.pieces.release(piece)
      piece = next
    }
    this.first.data[c] = NONE
  }

  /**
   * Gives these pieces their numbers anew, so that they rise in this order, and lays their blocks one behind the other:
   * what a walk comes to next is then near in memory. Takes time and memory in proportion to all pieces.
   * @returns the new number of each piece by its old one
   */
  arrange(pieces: IntList): Int32Array {
    const order = pieces.data.subarray(0, pieces.length)
    const numbers = order.slice().sort()
    const renumbered = Int32Array.from({ length: this.pieces.size }, (_, piece) => piece)
    for (let i = 0; i < order.length; i++) renumbered[order[i]] = numbers[i]
    this.pieces.permute(order, numbers)
    const { data: row } = this.row
    const firstRead = new Uint8Array(this.first.data.length)
    for (let i = 0; i < numbers.length; i++) {
      const owner = row[ROW * numbers[i] + OWNER]
      if (firstRead[owner] === 0) this.first.data[owner] = renumbered[this.first.data[owner]]
      firstRead[owner] = 1
    }
    // A free row is all zero: it has no points.
    for (let piece = 0; piece < this.pieces.size; piece++) {
      const next = row[ROW * piece + NEXT]
      if (row[ROW * piece + COUNT] > 0 && next !== NONE) row[ROW * piece + NEXT] = renumbered[next]
    }
    this.compact(numbers)
    return renumbered
  }

  /** Lays all blocks anew, those of these pieces first. */
  private compact(pieces: Int32Array): void {
    const { world, body } = this
    const row = this.row.data
    this.world = new Float64Array(world.length)
    this.body = new Float64Array(body.length)
    this.used = 0
    this.free.clear()
    const moved = new Uint8Array(this.pieces.size)
    const move = (piece: number): void => {
      const from = row[ROW * piece + OFFSET]
      const size = 1 + 2 * row[ROW * piece + COUNT]
      for (let i = 0; i < size; i++) {
        this.world[this.used + i] = world[from + i]
        this.body[this.used + i] = body[from + i]
      }
      row[ROW * piece + OFFSET] = this.used
      this.used += size
      moved[piece] = 1
    }
    for (let i = 0; i < pieces.length; i++) move(pieces[i])
    for (let piece = 0; piece < this.pieces.size; piece++) {
      if (moved[piece] === 0 && row[ROW * piece + COUNT] > 0) move(piece)
    }
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
