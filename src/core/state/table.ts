/** Columns of numbers that grow together: the hot state of the world. A slot is an index into every column. */

import type { StateVisitor } from '../save/state.ts'

type Words = Float64Array | Int32Array

/** One column; reload `data` at the start of a stage, for it is replaced when the table grows. */
export class Column<A extends Words = Words> {
  data: A
  /** Numbers a slot. */
  readonly width: number

  constructor(data: A, width: number) {
    this.data = data
    this.width = width
  }
}

/** A table with free slots that are used again, latest first, so that the same calls give the same slots. */
export class Table {
  /** Slots in use or free: loops run to here. */
  size = 0
  /** Slots in use. */
  count = 0
  private capacity: number
  private readonly columns: Column[] = []
  private readonly doubles: Column<Float64Array>[] = []
  private readonly words: Column<Int32Array>[] = []
  private readonly free = new IntList()

  constructor(capacity = 16) {
    this.capacity = capacity
  }

  f64(width = 1): Column<Float64Array> {
    const column = new Column(new Float64Array(this.capacity * width), width)
    this.doubles.push(column)
    return this.add(column)
  }

  i32(width = 1): Column<Int32Array> {
    const column = new Column(new Int32Array(this.capacity * width), width)
    this.words.push(column)
    return this.add(column)
  }

  private add<A extends Words>(column: Column<A>): Column<A> {
    this.columns.push(column)
    return column
  }

  /** A slot whose columns are all zero. */
  claim(): number {
    this.count++
    if (this.free.length > 0) return this.free.pop()
    if (this.size === this.capacity) this.grow()
    return this.size++
  }

  /** Makes room for so many more at once: growing by and by would copy all columns again and again. */
  reserve(more: number): void {
    let capacity = this.capacity
    while (capacity < this.size + more - this.free.length) capacity *= 2
    if (capacity > this.capacity) this.widen(capacity)
  }

  /** Makes sure that there is a slot of this number, in a table that nothing is claimed from. */
  seat(slot: number): void {
    while (slot >= this.capacity) this.grow()
    if (slot >= this.size) this.size = slot + 1
  }

  /** Gives a slot back and clears it. */
  release(slot: number): void {
    const { doubles, words } = this
    for (let i = 0; i < doubles.length; i++) {
      const { data, width } = doubles[i]
      for (let at = slot * width; at < (slot + 1) * width; at++) data[at] = 0
    }
    for (let i = 0; i < words.length; i++) {
      const { data, width } = words[i]
      for (let at = slot * width; at < (slot + 1) * width; at++) data[at] = 0
    }
    this.free.push(slot)
    this.count--
  }

  /** Moves the contents of slot `from[i]` to slot `to[i]`, for all i at once; both name the same slots. */
  permute(from: Int32Array, to: Int32Array): void {
    for (const { data, width } of this.columns) {
      const before = data.slice()
      for (let i = 0; i < from.length; i++) {
        for (let k = 0; k < width; k++) data[to[i] * width + k] = before[from[i] * width + k]
      }
    }
  }

  /** Its state: all columns, those that were added since a state was taken down with zeros. */
  visit(v: StateVisitor): void {
    this.size = v.number(this.size)
    this.count = v.number(this.count)
    this.capacity = v.number(this.capacity)
    this.free.visit(v)
    const kept = v.number(this.columns.length)
    for (let i = 0; i < this.columns.length; i++) {
      const column = this.columns[i]
      if (i < kept) column.data = v.numbers(column.data)
      else column.data = new (column.data.constructor as new (length: number) => Words)(this.capacity * column.width)
    }
  }

  /** Calls with each column and how many of its numbers are those of slots. */
  each(call: (data: Words, used: number) => void): void {
    for (const { data, width } of this.columns) call(data, this.size * width)
  }

  /** Bytes held by the columns. */
  get bytes(): number {
    return this.columns.reduce((sum, column) => sum + column.data.byteLength, 0)
  }

  private grow(): void {
    this.widen(2 * this.capacity)
  }

  private widen(capacity: number): void {
    this.capacity = capacity
    for (const column of this.columns) {
      const Kind = column.data.constructor as new (length: number) => Words
      const wider = new Kind(this.capacity * column.width)
      wider.set(column.data as Int32Array & Float64Array)
      column.data = wider
    }
  }
}

/** A list of numbers that keeps its memory: no allocation once it has reached its size. */
export class IntList {
  data = new Int32Array(16)
  length = 0

  push(value: number): void {
    if (this.length === this.data.length) {
      const wider = new Int32Array(this.length * 2)
      wider.set(this.data)
      this.data = wider
    }
    this.data[this.length++] = value
  }

  pop(): number {
    return this.data[--this.length]
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.data = v.numbers(this.data)
    this.length = v.number(this.length)
  }

  has(value: number): boolean {
    for (let i = 0; i < this.length; i++) if (this.data[i] === value) return true
    return false
  }

  /** Makes room for so many, keeping what is there. */
  reserve(size: number): void {
    if (size <= this.data.length) return
    const wider = new Int32Array(Math.max(2 * this.data.length, size))
    wider.set(this.data.subarray(0, this.length))
    this.data = wider
  }

  clear(): void {
    this.length = 0
  }

  /** Inserts keeping the order that `before(a, b)` gives; moves what comes after. */
  insertSorted(value: number, before: (a: number, b: number) => boolean): void {
    this.push(value)
    let low = 0
    let high = this.length - 1
    while (low < high) {
      const middle = (low + high) >> 1
      if (before(value, this.data[middle])) high = middle
      else low = middle + 1
    }
    this.data.copyWithin(low + 1, low, this.length - 1)
    this.data[low] = value
  }

  /** Removes the first that equals `value`, keeping the order of the rest. */
  remove(value: number): boolean {
    for (let i = 0; i < this.length; i++) {
      if (this.data[i] !== value) continue
      this.data.copyWithin(i, i + 1, this.length)
      this.length--
      return true
    }
    return false
  }

  /** Heap sort in place: no allocation, the same result for the same strict order. */
  sort(before: (a: number, b: number) => boolean): void {
    const { data, length } = this
    if (length < 2) return
    for (let i = (length >> 1) - 1; i >= 0; i--) sift(data, i, length, before)
    for (let end = length - 1; end > 0; end--) {
      const top = data[0]
      data[0] = data[end]
      data[end] = top
      sift(data, 0, end, before)
    }
  }
}

function sift(data: Int32Array, root: number, end: number, before: (a: number, b: number) => boolean): void {
  const value = data[root]
  for (;;) {
    let child = 2 * root + 1
    if (child >= end) break
    if (child + 1 < end && before(data[child], data[child + 1])) child++
    if (!before(value, data[child])) break
    data[root] = data[child]
    root = child
  }
  data[root] = value
}

/** From an ordered pair of slots to a number: open addressing with linear probing, no objects. */
export class PairMap {
  count = 0
  /** a + 1, b, value; 0 in the first marks an empty cell. */
  private cells = new Int32Array(3 * 64)
  private mask = 63

  /** Its state. */
  visit(v: StateVisitor): void {
    this.count = v.number(this.count)
    this.cells = v.numbers(this.cells)
    this.mask = this.cells.length / 3 - 1
  }

  get(a: number, b: number): number {
    const { cells, mask } = this
    for (let cell = spread(a, b) & mask; ; cell = (cell + 1) & mask) {
      const key = cells[3 * cell]
      if (key === 0) return -1
      if (key === a + 1 && cells[3 * cell + 1] === b) return cells[3 * cell + 2]
    }
  }

  set(a: number, b: number, value: number): void {
    if (2 * (this.count + 1) > this.mask + 1) this.grow()
    const { cells, mask } = this
    for (let cell = spread(a, b) & mask; ; cell = (cell + 1) & mask) {
      const key = cells[3 * cell]
      if (key === a + 1 && cells[3 * cell + 1] === b) {
        cells[3 * cell + 2] = value
        return
      }
      if (key !== 0) continue
      cells[3 * cell] = a + 1
      cells[3 * cell + 1] = b
      cells[3 * cell + 2] = value
      this.count++
      return
    }
  }

  delete(a: number, b: number): void {
    const { cells, mask } = this
    let cell = spread(a, b) & mask
    while (cells[3 * cell] !== a + 1 || cells[3 * cell + 1] !== b) {
      if (cells[3 * cell] === 0) return
      cell = (cell + 1) & mask
    }
    this.count--
    // Backward shift: pull later cells of the run into the hole, so that no tombstones gather.
    for (let next = (cell + 1) & mask; cells[3 * next] !== 0; next = (next + 1) & mask) {
      const home = spread(cells[3 * next] - 1, cells[3 * next + 1]) & mask
      if (((next - home) & mask) < ((next - cell) & mask)) continue
      cells.copyWithin(3 * cell, 3 * next, 3 * next + 3)
      cell = next
    }
    cells[3 * cell] = 0
  }

  private grow(): void {
    const old = this.cells
    this.mask = 2 * this.mask + 1
    this.cells = new Int32Array(3 * (this.mask + 1))
    this.count = 0
    for (let at = 0; at < old.length; at += 3) if (old[at] !== 0) this.set(old[at] - 1, old[at + 1], old[at + 2])
  }
}

function spread(a: number, b: number): number {
  let h = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b)
  h ^= h >>> 15
  h = Math.imul(h, 0x2c1b3c6d)
  return h ^ (h >>> 13)
}

/** A set of slots that is walked in their order: a walk costs what is in it, and a little for every 32 slots that there could be. */
export class SlotSet {
  private words = new Int32Array(8)
  private count = 0

  /** Puts a slot in, or takes it out. */
  set(slot: number, isIn: boolean): void {
    const word = slot >> 5
    if (word >= this.words.length) {
      if (!isIn) return
      const wider = new Int32Array(Math.max(2 * this.words.length, word + 1))
      wider.set(this.words)
      this.words = wider
    }
    const bit = 1 << (slot & 31)
    if (((this.words[word] & bit) !== 0) === isIn) return
    this.words[word] ^= bit
    this.count += isIn ? 1 : -1
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.words = v.numbers(this.words)
    this.count = v.number(this.count)
  }

  /** The first slot of the set from one on; -1 for none. */
  from(slot: number): number {
    const { words } = this
    if (this.count === 0) return -1
    let word = slot >> 5
    if (word >= words.length) return -1
    let bits = words[word] & (-1 << (slot & 31))
    while (bits === 0) {
      if (++word === words.length) return -1
      bits = words[word]
    }
    return 32 * word + 31 - Math.clz32(bits & -bits)
  }
}
