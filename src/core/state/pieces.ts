/**
 * The shapes of all colliders as flat numbers. A collider is made of pieces (most of one); a piece has a block of numbers about its
 * body and one in the world, bounds, and a place in a tree. World blocks are what every test reads; they are rebuilt when a body
 * moves. What the numbers of a block mean is the business of a dimension.
 */
import type { StateVisitor } from '../save/state.ts'
import { type Column, type IntList, Table } from './table.ts'

const NONE = -1
/** Everything about a piece is in one row, so that a walk reads one place in memory. */
const ROW = 8
const OWNER = 0
const OFFSET = 1
const KIND = 2
const CHILD = 3
const NEXT = 4
/** Numbers of its block; 0 in a row that is free. */
const SIZE = 5
const PART = 6
/** Its place among the pieces of its collider, from 1; 0 where it is the only one. */
const ORDINAL = 7

/** A piece as a shape has it. */
export interface SourcePiece {
  /** Its numbers; the first is its kind. */
  readonly block: Float64Array
  /** Index in the compound that it belongs to, -1 when there is none. */
  readonly child: number
  /** The user's number of an edge; left out where there is none. */
  readonly part?: number | undefined
}

/** Pieces that are changed together, each with its key. */
interface PieceRun {
  readonly keys: readonly number[]
  readonly pieces: number[]
}

/** Bits of {@link PieceTable.upright}: it is its bounds; it is whenever its body is not turned. */
export const UPRIGHT = 1
export const COULD_BE_UPRIGHT = 2

const NO_RUN: PieceRun = { keys: [], pieces: [] }
/** The first number of a block is its kind, of some with more times this number on top. */
const KINDS = 16

export abstract class PieceTable<S extends SourcePiece> {
  readonly pieces = new Table(64)
  /** Tight bounds in the world: the least coordinates, then the greatest. */
  readonly bounds: Column<Float64Array>
  /** Bounds in the tree: for movers wider than the tight ones. */
  readonly wideBounds: Column<Float64Array>
  /** Whether a piece is its bounds: {@link COULD_BE_UPRIGHT}, with {@link UPRIGHT} where it stands so that it is. */
  readonly upright: Column<Int32Array>
  /** First piece of a collider, and how many it has. */
  readonly first: Column<Int32Array>
  readonly pieceCount: Column<Int32Array>
  /** Distance of a collider's outermost point from the origin of its body; of a halfspace it is infinite. */
  readonly reach: Column<Float64Array>
  /** As {@link reach}, but of the cores only: a turn does not move the rounding. */
  readonly turnReach: Column<Float64Array>
  /** Blocks in the world; replaced when it grows. */
  world: Float64Array = new Float64Array(512)
  protected body: Float64Array = new Float64Array(512)
  private readonly row = this.pieces.i32(ROW)
  private readonly head: number
  private readonly endless: number
  private used = 0
  /** Colliders that are changed run by run; the piece before each of theirs. */
  private readonly runs = new Map<number, PieceRun[]>()
  private readonly before: Column<Int32Array>
  private ordinals = 0
  /** Free blocks by their size. */
  private readonly free = new Map<number, number[]>()

  /**
   * @param axes how many numbers a point has
   * @param head how many numbers of a block stand before the place that it is addressed by
   * @param endless the kind of those without bounds
   */
  constructor(colliders: Table, axes: number, head: number, endless: number) {
    this.head = head
    this.endless = endless
    this.bounds = this.pieces.f64(2 * axes)
    this.wideBounds = this.pieces.f64(2 * axes)
    this.upright = this.pieces.i32()
    this.before = this.pieces.i32()
    this.first = colliders.i32()
    this.pieceCount = colliders.i32()
    this.reach = colliders.f64()
    this.turnReach = colliders.f64()
  }

  /** The collider that a piece belongs to. */
  ownerOf(piece: number): number {
    return this.row.data[ROW * piece + OWNER]
  }

  /** The place of its block in {@link world}. */
  offsetOf(piece: number): number {
    return this.row.data[ROW * piece + OFFSET]
  }

  kindOf(piece: number): number {
    return this.row.data[ROW * piece + KIND]
  }

  /** Whether the bounds of two pieces are further apart than that along an axis. Cold. */
  isFurther(p: number, q: number, distance: number): boolean {
    const { data, width } = this.bounds
    const axes = width / 2
    for (let i = 0; i < axes; i++) {
      const [atP, atQ] = [width * p + i, width * q + i]
      if (data[atP] - data[atQ + axes] > distance || data[atQ] - data[atP + axes] > distance) return true
    }
    return false
  }

  /** The tight bounds of a collider in the world: the least coordinates, then the greatest; without end for what has none. Cold. */
  boundsOf(collider: number): number[] {
    const { data, width } = this.bounds
    const axes = width / 2
    const box = Array.from({ length: width }, (_, i) => (i < axes ? Infinity : -Infinity))
    for (let piece = this.first.data[collider]; piece !== NONE; piece = this.after(piece)) {
      if (this.isEndless(piece)) return box.map((edge) => -edge)
      for (let i = 0; i < axes; i++) {
        box[i] = Math.min(box[i], data[width * piece + i])
        box[i + axes] = Math.max(box[i + axes], data[width * piece + i + axes])
      }
    }
    return box
  }

  /** Whether it has no bounds: it is in no tree, and the only piece of its collider. */
  isEndless(piece: number): boolean {
    return this.row.data[ROW * piece + KIND] === this.endless
  }

  /** Numbers of its block. */
  sizeOf(piece: number): number {
    return this.row.data[ROW * piece + SIZE]
  }

  /** The user's number of the edge; -1 for none. */
  edgeOf(piece: number): number {
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

  /** Its state. */
  visit(v: StateVisitor): void {
    this.pieces.visit(v)
    this.world = v.numbers(this.world)
    this.body = v.numbers(this.body)
    this.used = v.number(this.used)
    this.ordinals = v.number(this.ordinals)
    v.copy(
      () => copied(this.free, (offsets) => offsets.slice()),
      (kept) => putBack(kept, this.free, (offsets) => offsets.slice()),
    )
    v.copy(
      () => copied(this.runs, copyRuns),
      (kept) => putBack(kept, this.runs, copyRuns),
    )
  }

  /** Takes the pieces of a shape in, at a pose of numbers within its body. */
  add(c: number, sources: readonly S[], pose: Float64Array): void {
    this.pieceCount.data[c] = sources.length
    this.first.data[c] = NONE
    // From the last to the first, so that the list runs in their order.
    for (let i = sources.length - 1; i >= 0; i--) this.addFirst(c, sources[i], sources.length > 1 ? i + 1 : 0, pose)
    this.measureReach(c)
  }

  /** A new piece before all others of its collider. */
  private addFirst(c: number, source: S, ordinal: number, pose: Float64Array): number {
    const piece = this.pieces.claim()
    const offset = this.claim(source.block.length)
    const row = this.row.data
    const at = ROW * piece
    row[at + OWNER] = c
    row[at + OFFSET] = offset
    row[at + KIND] = source.block[0] % KINDS
    row[at + CHILD] = source.child
    row[at + NEXT] = this.first.data[c]
    row[at + SIZE] = source.block.length
    row[at + PART] = source.part ?? NONE
    row[at + ORDINAL] = ordinal
    this.first.data[c] = piece
    this.put(piece, source, pose)
    return piece
  }

  /** A collider whose pieces come run by run, see {@link setRun}. It begins without any. @param reach how far they may reach */
  addRuns(c: number, count: number, reach: number): void {
    this.reach.data[c] = reach
    this.turnReach.data[c] = reach
    this.pieceCount.data[c] = 0
    this.first.data[c] = NONE
    this.runs.set(
      c,
      Array.from({ length: count }, () => NO_RUN),
    )
  }

  /**
   * Other pieces for one run of a collider: those with a key that was there stay as they are. Cost: the pieces of the run.
   * @param keys a number of each that is the same when the piece is
   * @param leaves hears of each piece that is about to go
   * @param comes hears of each new one
   */
  setRun(
    c: number,
    index: number,
    sources: readonly S[],
    keys: readonly number[],
    pose: Float64Array,
    leaves: (piece: number) => void,
    comes: (piece: number) => void,
  ): void {
    const runs = this.runs.get(c)!
    const { row, before, first } = this
    const kept = new Map<number, number>()
    runs[index].keys.forEach((key, i) => {
      kept.set(key, runs[index].pieces[i])
    })
    const pieces = keys.map((key) => {
      const piece = kept.get(key) ?? NONE
      if (piece !== NONE) kept.delete(key)
      return piece
    })
    for (const piece of kept.values()) {
      leaves(piece)
      const next = this.after(piece)
      const previous = before.data[piece]
      if (previous === NONE) first.data[c] = next
      else row.data[ROW * previous + NEXT] = next
      if (next !== NONE) before.data[next] = previous
      this.giveBack(piece)
    }
    pieces.forEach((there, i) => {
      if (there !== NONE) return
      const piece = this.addFirst(c, sources[i], ++this.ordinals, pose)
      const next = this.after(piece)
      before.data[piece] = NONE
      if (next !== NONE) before.data[next] = piece
      pieces[i] = piece
      comes(piece)
    })
    this.pieceCount.data[c] += pieces.length - runs[index].pieces.length
    runs[index] = pieces.length === 0 ? NO_RUN : { keys, pieces }
  }

  /** Gives the pieces of a collider back. */
  remove(c: number): void {
    for (let piece = this.first.data[c]; piece !== NONE; ) {
      const next = this.after(piece)
      this.giveBack(piece)
      piece = next
    }
    this.first.data[c] = NONE
    this.runs.delete(c)
  }

  private giveBack(piece: number): void {
    const size = this.sizeOf(piece)
    const blocks = this.free.get(size)
    if (blocks === undefined) this.free.set(size, [this.offsetOf(piece)])
    else blocks.push(this.offsetOf(piece))
    this.released(piece)
    this.pieces.release(piece)
  }

  /**
   * Gives these pieces their numbers again, so that they rise in this order, and lays their blocks one behind the other:
   * pieces that a walk visits in turn are then near each other in memory. Time and memory: linear in the number of all pieces.
   * @returns the new number of each piece by its old one
   */
  arrange(pieces: IntList): Int32Array {
    const order = pieces.data.subarray(0, pieces.length)
    const numbers = order.slice().sort()
    const renumbered = Int32Array.from({ length: this.pieces.size }, (_, piece) => piece)
    for (let i = 0; i < order.length; i++) renumbered[order[i]] = numbers[i]
    this.pieces.permute(order, numbers)
    this.permuted(order, numbers)
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
    for (const [c, runs] of this.runs) this.renumberRuns(c, runs, renumbered)
    this.compact(numbers)
    return renumbered
  }

  private renumberRuns(c: number, runs: PieceRun[], renumbered: Int32Array): void {
    for (const { pieces } of runs) for (let i = 0; i < pieces.length; i++) pieces[i] = renumbered[pieces[i]]
    let previous = NONE
    for (let piece = this.first.data[c]; piece !== NONE; piece = this.after(piece)) {
      this.before.data[piece] = previous
      previous = piece
    }
  }

  /** The user's number of the part that a record at `values[at]` is about; -1 for none. */
  abstract partOf(piece: number, values: Float64Array, at: number): number

  /** Makes the world block and bounds of a piece, where its body stands now. */
  abstract transform(piece: number, body: number): void

  /**
   * Whether the wide bounds of two pieces are apart. A plane has no bounds: a piece is apart from it when its own are wholly
   * outside the solid half. Two planes never are.
   */
  abstract wideApart(p: number, q: number): boolean

  /** Writes the body block of a piece, at a pose within its body. */
  protected abstract put(piece: number, source: S, pose: Float64Array): void

  /** Writes how far the pieces of a collider reach. */
  protected abstract measureReach(c: number): void

  /** A piece is about to be given back. */
  protected released(_piece: number): void {}

  /** Pieces got other numbers: what was `order[i]` is `numbers[i]`. */
  protected permuted(_order: Int32Array, _numbers: Int32Array): void {}

  /** Lays all blocks out again, those of these pieces first. */
  private compact(pieces: Int32Array): void {
    const { world, body, head } = this
    const row = this.row.data
    this.world = new Float64Array(world.length)
    this.body = new Float64Array(body.length)
    this.used = 0
    this.free.clear()
    const moved = new Uint8Array(this.pieces.size)
    const move = (piece: number): void => {
      const from = row[ROW * piece + OFFSET] - head
      const size = row[ROW * piece + SIZE]
      for (let i = 0; i < size; i++) {
        this.world[this.used + i] = world[from + i]
        this.body[this.used + i] = body[from + i]
      }
      row[ROW * piece + OFFSET] = this.used + head
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
    const offset = this.used + this.head
    this.used += size
    if (this.used > this.world.length) {
      const capacity = Math.max(2 * this.world.length, this.used)
      this.world = widened(this.world, capacity)
      this.body = widened(this.body, capacity)
    }
    return offset
  }
}

const NOTHING: readonly (readonly [number, never])[] = []

/** The entries of a map, each value copied. */
function copied<V>(map: ReadonlyMap<number, V>, copy: (value: V) => V): readonly (readonly [number, V])[] {
  return map.size === 0 ? NOTHING : [...map].map(([key, value]) => [key, copy(value)] as const)
}

function putBack<V>(kept: readonly (readonly [number, V])[], map: Map<number, V>, copy: (value: V) => V): void {
  map.clear()
  for (const [key, value] of kept) map.set(key, copy(value))
}

function copyRuns(runs: PieceRun[]): PieceRun[] {
  return runs.map((run) => (run.pieces.length === 0 ? run : { keys: run.keys, pieces: run.pieces.slice() }))
}

function widened(data: Float64Array, size: number): Float64Array {
  const wider = new Float64Array(size)
  wider.set(data)
  return wider
}
