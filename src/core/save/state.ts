/**
 * The state of a world, part by part. Each room has a `visit` that hands a visitor whatever it keeps from one tick to the next, always in the same
 * order; one visitor takes it down, another puts it back. So there is one list of what is state, and it stands where the state does.
 */

/** Arrays of numbers that state is kept in. */
export type Numbers = Float64Array | Float32Array | Int32Array | Uint32Array | Uint8Array

/** Goes over the state of a world. What its methods return is to be used from then on. */
export interface StateVisitor {
  /** Whether it is for bytes that last: then what was told in the last tick is left out, for it may be of handles that are gone. */
  readonly portable: boolean
  number(value: number): number
  flag(value: boolean): boolean
  /** All numbers of an array, which may be another one afterwards, of another length. */
  numbers<A extends Numbers>(data: A): A
  /** An object that is not looked into: a handle, a shape. */
  object<T>(value: T): T
  /** A list of such; another list afterwards. */
  objects<T>(list: readonly T[]): T[]
  /**
   * Anything else.
   * @param copy gives what can be kept: later changes must not reach it
   * @param put takes over what was kept, and leaves it as it is
   */
  copy<T>(copy: () => T, put: (kept: T) => void): void
}

/** The state of a world at one moment, in the memory of the process. Made by `world.snapshot()`, for `world.restore()`. */
export class Snapshot {
  /** The ticks that the world had made. */
  readonly tick: number = 0
  /** Bytes of the numbers that are kept. */
  get bytes(): number {
    return this.arrays.reduce((sum, array) => sum + array.byteLength, 8 * this.single.length)
  }

  /** Whose state it is. @internal */ world: object | null = null
  /** @internal */ readonly single: number[] = []
  /** @internal */ readonly arrays: Numbers[] = []
  /** @internal */ readonly things: unknown[] = []
}

/** Takes the state down, in the memory of a snapshot that was filled before as far as it fits. */
export class Keeper implements StateVisitor {
  readonly portable: boolean
  private readonly into: Snapshot
  private singles = 0
  private arrays = 0
  private things = 0

  constructor(into: Snapshot, portable = false) {
    this.into = into
    this.portable = portable
  }

  number(value: number): number {
    this.into.single[this.singles++] = value
    return value
  }

  flag(value: boolean): boolean {
    this.into.single[this.singles++] = value ? 1 : 0
    return value
  }

  numbers<A extends Numbers>(data: A): A {
    const kept = this.into.arrays[this.arrays]
    if (kept !== undefined && kept.length === data.length && kept.constructor === data.constructor) {
      kept.set(data as Float64Array & Int32Array)
    } else this.into.arrays[this.arrays] = data.slice()
    this.arrays++
    return data
  }

  object<T>(value: T): T {
    this.into.things[this.things++] = value
    return value
  }

  objects<T>(list: T[]): T[] {
    const before = this.into.things[this.things]
    const kept = Array.isArray(before) ? before : []
    kept.length = list.length
    for (let i = 0; i < list.length; i++) kept[i] = list[i]
    this.into.things[this.things++] = kept
    return list
  }

  copy<T>(copy: () => T, _put: (kept: T) => void): void {
    this.into.things[this.things++] = copy()
  }

  /** All is taken down: forgets what an earlier, longer state has left. */
  end(): void {
    const { single, arrays, things } = this.into
    single.length = this.singles
    arrays.length = this.arrays
    things.length = this.things
  }
}

/** Puts back what a {@link Keeper} took down. */
export class Restorer implements StateVisitor {
  readonly portable: boolean = false
  private readonly from: Snapshot
  private singles = 0
  private arrays = 0
  private things = 0

  constructor(from: Snapshot) {
    this.from = from
  }

  number(_value: number): number {
    return this.from.single[this.singles++]
  }

  flag(_value: boolean): boolean {
    return this.from.single[this.singles++] !== 0
  }

  numbers<A extends Numbers>(data: A): A {
    const kept = this.from.arrays[this.arrays++] as A
    if (kept.length !== data.length) return kept.slice() as A
    data.set(kept as Float64Array & Int32Array)
    return data
  }

  object<T>(_value: T): T {
    return this.from.things[this.things++] as T
  }

  objects<T>(_list: T[]): T[] {
    return (this.from.things[this.things++] as T[]).slice()
  }

  copy<T>(_copy: () => T, put: (kept: T) => void): void {
    put(this.from.things[this.things++] as T)
  }
}
