/**
 * The shapes of all colliders as flat numbers. A collider is made of pieces (most of one); a piece has a block of
 * numbers about its body and one in the world (see shapes/words.ts), bounds, and a place in a tree; the triangles of a
 * surface stay with their shape. World blocks are what every test reads; they are made anew when a body moves.
 */
import { type Column, type IntList, Table } from '../core/state/table.ts'
import { BODY, CONE, CYLINDER, PLANE, POINT_COUNT, POINTS, RADIUS, SURFACE, TRIANGLE } from './shapes/layout.ts'
import { boundsOf, placed, placeInto } from './shapes/place.ts'
import type { Shape3 } from './shapes/shape.ts'
import type { Surface } from './surface/surface.ts'

const NONE = -1
/** What is known of a piece stands in one row, so that a walk that comes to it reads one place in memory. */
const ROW = 6
const OWNER = 0
const OFFSET = 1
const KIND = 2
const CHILD = 3
const NEXT = 4
/** Numbers of its block; 0 in a row that is free. */
const SIZE = 5

const NO_BOUNDS = new Float64Array(6)

export class Geometry {
  readonly pieces = new Table(64)
  private readonly row = this.pieces.i32(ROW)
  /** Tight bounds in the world: min x, y, z, max x, y, z. */
  readonly bounds = this.pieces.f64(6)
  /** Bounds in the tree: for movers wider than the tight ones. */
  readonly fat = this.pieces.f64(6)
  /** First piece of a collider, and how many it has. */
  readonly first: Column<Int32Array>
  readonly pieceCount: Column<Int32Array>
  /** Distance of a collider's outermost point from the origin of its body; of a halfspace it is infinite. */
  readonly reach: Column<Float64Array>
  /** The triangles of each piece; null for what is no surface. */
  readonly surfaces: (Surface | null)[] = []
  /** Blocks in the world; replaced when it grows. */
  world = new Float64Array(512)
  private body = new Float64Array(512)
  private used = 0
  /** Free blocks by their size. */
  private readonly free = new Map<number, number[]>()

  constructor(colliders: Table) {
    this.first = colliders.i32()
    this.pieceCount = colliders.i32()
    this.reach = colliders.f64()
  }

  /** The collider that a piece belongs to. */
  ownerOf(piece: number): number {
    return this.row.data[ROW * piece + OWNER]
  }

  /** Index of its block. */
  offsetOf(piece: number): number {
    return this.row.data[ROW * piece + OFFSET]
  }

  kindOf(piece: number): number {
    return this.row.data[ROW * piece + KIND]
  }

  /** The index in the compound; -1 for none. */
  childOf(piece: number): number {
    return this.row.data[ROW * piece + CHILD]
  }

  /** The next piece of the same collider, or -1. */
  after(piece: number): number {
    return this.row.data[ROW * piece + NEXT]
  }

  /** The user's number of a triangle of a piece; -1 where there is none. */
  partOf(piece: number, triangle: number): number {
    const surface = this.surfaces[piece]
    return surface === null || triangle < 0 ? -1 : surface.parts[triangle]
  }

  /** Takes a shape in, at a pose of numbers within its body. */
  place(c: number, shape: Shape3, pose: Float64Array): void {
    this.pieceCount.data[c] = shape.pieces.length
    this.first.data[c] = NONE
    let reach = 0
    // From the last to the first, so that the list runs in their order.
    for (let i = shape.pieces.length - 1; i >= 0; i--) {
      const source = shape.pieces[i]
      const piece = this.pieces.claim()
      const offset = this.claim(source.block.length)
      const row = this.row.data
      const at = ROW * piece
      row[at + OWNER] = c
      row[at + OFFSET] = offset
      row[at + KIND] = source.block[0]
      row[at + CHILD] = source.child
      row[at + NEXT] = this.first.data[c]
      row[at + SIZE] = source.block.length
      this.first.data[c] = piece
      this.surfaces[piece] = source.surface
      const block = placed(source.block, pose)
      this.body.set(block, offset)
      reach = Math.max(reach, reachOf(block, 0, source.surface))
    }
    this.reach.data[c] = reach
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
      fat[6 * p] > fat[6 * q + 3] ||
      fat[6 * q] > fat[6 * p + 3] ||
      fat[6 * p + 1] > fat[6 * q + 4] ||
      fat[6 * q + 1] > fat[6 * p + 4] ||
      fat[6 * p + 2] > fat[6 * q + 5] ||
      fat[6 * q + 2] > fat[6 * p + 5]
    )
  }

  /** Whether a box lies wholly outside a plane: its corner that reaches farthest in does. */
  private isOutside(box: Float64Array, p: number, plane: number): boolean {
    const { world } = this
    const at = this.offsetOf(plane) + BODY
    let least = 0
    for (let i = 0; i < 3; i++) {
      const along = world[at + 1 + i]
      least += along * (along > 0 ? box[6 * p + i] : box[6 * p + 3 + i])
    }
    return least > world[at]
  }

  /**
   * Makes the world block and bounds of a piece.
   * @param place, placeAt where x, y, z of its body stand
   * @param frame, frameAt where the matrix of its body's rotation stands
   */
  transform(piece: number, place: Float64Array, placeAt: number, frame: Float64Array, frameAt: number): void {
    const offset = this.offsetOf(piece)
    placeInto(this.body, offset, place, placeAt, frame, frameAt, this.world, offset)
    const own = this.kindOf(piece) === SURFACE ? this.surfaces[piece]!.bounds : NO_BOUNDS
    boundsOf(this.world, offset, own, 0, this.bounds.data, 6 * piece)
  }

  /** Numbers of a piece's block. */
  sizeOf(piece: number): number {
    return this.row.data[ROW * piece + SIZE]
  }

  /** Writes the block of a piece, as it would be with its body at a pose of numbers, to `out[at]`. */
  blockAt(piece: number, pose: Float64Array, out: Float64Array, at: number): void {
    placeInto(this.body, this.offsetOf(piece), pose, 0, pose, 3, out, at)
  }

  /** Gives the pieces of a collider back. */
  remove(c: number): void {
    for (let piece = this.first.data[c]; piece !== NONE; ) {
      const next = this.after(piece)
      const size = this.sizeOf(piece)
      const blocks = this.free.get(size)
      if (blocks === undefined) this.free.set(size, [this.offsetOf(piece)])
      else blocks.push(this.offsetOf(piece))
      this.surfaces[piece] = null
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
    const surfaces = this.surfaces.slice()
    for (let i = 0; i < order.length; i++) {
      renumbered[order[i]] = numbers[i]
      this.surfaces[numbers[i]] = surfaces[order[i]]
    }
    this.pieces.permute(order, numbers)
    const { data: row } = this.row
    const firstRead = new Uint8Array(this.first.data.length)
    for (let i = 0; i < numbers.length; i++) {
      const owner = row[ROW * numbers[i] + OWNER]
      if (firstRead[owner] === 0) this.first.data[owner] = renumbered[this.first.data[owner]]
      firstRead[owner] = 1
    }
    for (let piece = 0; piece < this.pieces.size; piece++) {
      const next = row[ROW * piece + NEXT]
      if (row[ROW * piece + SIZE] > 0 && next !== NONE) row[ROW * piece + NEXT] = renumbered[next]
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
      const size = row[ROW * piece + SIZE]
      this.world.set(world.subarray(from, from + size), this.used)
      this.body.set(body.subarray(from, from + size), this.used)
      row[ROW * piece + OFFSET] = this.used
      this.used += size
      moved[piece] = 1
    }
    for (let i = 0; i < pieces.length; i++) move(pieces[i])
    for (let piece = 0; piece < this.pieces.size; piece++) {
      if (moved[piece] === 0 && row[ROW * piece + SIZE] > 0) move(piece)
    }
  }

  private claim(size: number): number {
    const reused = this.free.get(size)?.pop()
    if (reused !== undefined) return reused
    const offset = this.used
    this.used += size
    if (this.used > this.world.length) {
      const capacity = Math.max(2 * this.world.length, this.used)
      this.world = widened(this.world, capacity)
      this.body = widened(this.body, capacity)
    }
    return offset
  }
}

/** How far a block reaches from the origin it is placed about, at most. */
export function reachOf(block: Float64Array, at: number, surface: Surface | null): number {
  const kind = block[at]
  const b = at + BODY
  if (kind === PLANE) return Infinity
  if (kind === POINTS || kind === TRIANGLE) {
    let square = 0
    for (let i = b; i < b + 3 * block[at + POINT_COUNT]; i += 3) {
      square = Math.max(square, block[i] * block[i] + block[i + 1] * block[i + 1] + block[i + 2] * block[i + 2])
    }
    return Math.sqrt(square) + block[at + RADIUS]
  }
  const away = length(block[b], block[b + 1], block[b + 2])
  if (kind === CYLINDER || kind === CONE) return away + length(block[b + 6], block[b + 7], 0) + block[at + RADIUS]
  if (kind === SURFACE) {
    const { bounds } = surface!
    const most = (i: number): number => Math.max(Math.abs(bounds[i]), Math.abs(bounds[3 + i]))
    return away + length(most(0), most(1), most(2))
  }
  return away + length(block[b + 12], block[b + 13], block[b + 14]) + block[at + RADIUS]
}

function length(x: number, y: number, z: number): number {
  return Math.sqrt(x * x + y * y + z * z)
}

function widened(data: Float64Array, size: number): Float64Array<ArrayBuffer> {
  const wider = new Float64Array(size)
  wider.set(data)
  return wider
}
