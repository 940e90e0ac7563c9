/**
 * Values as bytes, and back: numbers to the bit, words with the low byte first whatever the machine. What has an identity (a body, a shape) is written
 * where it is met first, and as a number from then on. `docs/save-format.md` has the format.
 */
import type { Numbers } from './state.ts'

/** What the bytes of a value begin with. */
const NOTHING = 0
const UNDEFINED = 1
const FALSE = 2
const TRUE = 3
const DOUBLE = 4
const INTEGER = 5
const TEXT = 6
const LIST = 7
const RECORD = 8
const NUMBERS = 9
const MAP = 10
const SET = 11
const KNOWN = 12
const THING = 13

/** The arrays of numbers, by the byte that stands for them. */
const ARRAYS = [Uint8Array, Int32Array, Uint32Array, Float32Array, Float64Array] as const

/** The longest of what is compared with what was written before. */
const MOST_ALIKE = 4096
const FIRST_ROOM = 4096

const LITTLE = new Uint8Array(Uint32Array.of(1).buffer)[0] === 1

/** What the bytes of a save cannot be. */
export class Damage extends Error {}

/** A sort of things with an identity. */
export interface Sort<T = unknown> {
  /** They are plain objects, and no class has made them. Default false. */
  readonly plain?: boolean
  /** Whether a value is one. */
  is(value: unknown): value is T
  /** What it is made from again. */
  take(value: T): unknown
  make(taken: never): T
  /** Two that are written alike may be one. Default false. */
  readonly alike?: boolean
}

export class ByteWriter {
  private bytes = new Uint8Array(FIRST_ROOM)
  private view = new DataView(this.bytes.buffer)
  private at = 0
  private readonly sorts: readonly Sort[]
  private readonly known = new Map<unknown, number>()
  private readonly met: unknown[] = []
  /** Where things that may be one were written, by a sum of their bytes. */
  private readonly alike = new Map<
    number,
    { readonly from: number; readonly length: number; readonly number: number }[]
  >()

  constructor(sorts: readonly Sort[]) {
    this.sorts = sorts
  }

  get length(): number {
    return this.at
  }

  word(value: number): void {
    this.room(4)
    this.view.setInt32(this.at, value, true)
    this.at += 4
  }

  double(value: number): void {
    this.room(8)
    this.view.setFloat64(this.at, value, true)
    this.at += 8
  }

  /** The codes of a text that has only such as a byte can hold. */
  ascii(text: string): void {
    this.room(text.length)
    for (let i = 0; i < text.length; i++) this.bytes[this.at++] = text.charCodeAt(i)
  }

  numbers(data: Numbers): void {
    this.byte(ARRAYS.findIndex((Kind) => data instanceof Kind))
    // What comes last is often room that nobody has used.
    let used = data.length
    while (used > 0 && Object.is(data[used - 1], 0)) used--
    this.word(data.length)
    this.word(used)
    const from = new Uint8Array(data.buffer, data.byteOffset, used * data.BYTES_PER_ELEMENT)
    this.room(from.length)
    this.bytes.set(from, this.at)
    if (!LITTLE) turn(this.bytes, this.at, from.length, data.BYTES_PER_ELEMENT)
    this.at += from.length
  }

  value(value: unknown): void {
    if (value === null) this.byte(NOTHING)
    else if (value === undefined) this.byte(UNDEFINED)
    else if (typeof value === 'boolean') this.byte(value ? TRUE : FALSE)
    else if (typeof value === 'number') this.number(value)
    else if (typeof value === 'string') {
      this.byte(TEXT)
      this.text(value)
    } else if (typeof value === 'object') this.object(value)
    else throw new TypeError(`a ${typeof value} cannot be written`)
  }

  /** What was written. */
  take(): Uint8Array {
    return this.bytes.slice(0, this.at)
  }

  private number(value: number): void {
    const whole = (value | 0) === value && !Object.is(value, -0)
    this.byte(whole ? INTEGER : DOUBLE)
    if (whole) this.word(value)
    else this.double(value)
  }

  /** Its length, and then two bytes a code. */
  private text(text: string): void {
    this.word(text.length)
    this.room(2 * text.length)
    for (let i = 0; i < text.length; i++, this.at += 2) this.view.setUint16(this.at, text.charCodeAt(i), true)
  }

  private object(value: object): void {
    const before = this.known.get(value)
    if (before !== undefined) {
      this.byte(KNOWN)
      this.word(before)
      return
    }
    const plain = Object.getPrototypeOf(value) === Object.prototype
    const sort = Array.isArray(value) ? -1 : this.sortOf(value, plain)
    if (sort >= 0) this.thing(value, sort)
    else if (ArrayBuffer.isView(value)) {
      this.byte(NUMBERS)
      this.numbers(value as Numbers)
    } else if (Array.isArray(value) || value instanceof Set) {
      const all = [...value]
      this.byte(Array.isArray(value) ? LIST : SET)
      this.word(all.length)
      for (const each of all) this.value(each)
    } else if (value instanceof Map) {
      this.byte(MAP)
      this.word(value.size)
      for (const [key, each] of value) {
        this.value(key)
        this.value(each)
      }
    } else {
      if (!plain) throw new TypeError(`what is made by ${value.constructor?.name} cannot be written`)
      const keys = Object.keys(value)
      this.byte(RECORD)
      this.word(keys.length)
      for (const key of keys) {
        this.text(key)
        this.value((value as Record<string, unknown>)[key])
      }
    }
  }

  private sortOf(value: object, plain: boolean): number {
    const { sorts } = this
    for (let i = 0; i < sorts.length; i++) {
      const each = sorts[i]
      if ((each.plain === true) === plain && each.is(value)) return i
    }
    return -1
  }

  private thing(value: object, number: number): void {
    const sort = this.sorts[number]
    const from = this.at
    const met = this.met.length
    this.byte(THING)
    this.byte(number)
    this.value(sort.take(value))
    if (sort.alike && this.at - from <= MOST_ALIKE) {
      const before = this.findAlike(from)
      if (before >= 0) {
        // There is one already: what was written is taken back, with all that was met first in it.
        this.at = from
        for (const each of this.met.splice(met)) this.known.delete(each)
        this.known.set(value, before)
        this.byte(KNOWN)
        this.word(before)
        return
      }
    }
    this.known.set(value, this.met.length)
    this.met.push(value)
  }

  /** The number of the thing that was written with the same bytes as what was written last; -1 for none, and then it is noted. */
  private findAlike(from: number): number {
    const { bytes, at } = this
    let key = 0
    for (let i = from; i < at; i++) key = (Math.imul(key, 31) + bytes[i]) | 0
    const alike = this.alike.get(key) ?? []
    for (const each of alike) {
      let same = each.length === at - from
      for (let i = 0; same && i < each.length; i++) same = bytes[each.from + i] === bytes[from + i]
      if (same) return each.number
    }
    alike.push({ from, length: at - from, number: this.met.length })
    this.alike.set(key, alike)
    return -1
  }

  private byte(value: number): void {
    this.room(1)
    this.bytes[this.at++] = value
  }

  private room(more: number): void {
    if (this.at + more <= this.bytes.length) return
    const wider = new Uint8Array(Math.max(2 * this.bytes.length, this.at + more))
    wider.set(this.bytes.subarray(0, this.at))
    this.bytes = wider
    this.view = new DataView(wider.buffer)
  }
}

export class ByteReader {
  private readonly bytes: Uint8Array
  private readonly view: DataView
  private readonly end: number
  private readonly sorts: readonly Sort[]
  private readonly met: unknown[] = []
  private at: number

  /** Reads from one place up to another. */
  constructor(bytes: Uint8Array, at: number, end: number, sorts: readonly Sort[]) {
    this.bytes = bytes
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    this.at = at
    this.end = end
    this.sorts = sorts
  }

  get isDone(): boolean {
    return this.at === this.end
  }

  word(): number {
    this.need(4)
    this.at += 4
    return this.view.getInt32(this.at - 4, true)
  }

  double(): number {
    this.need(8)
    this.at += 8
    return this.view.getFloat64(this.at - 8, true)
  }

  /** How many things follow, of at least so many bytes each. */
  count(size: number): number {
    const count = this.word()
    if (count < 0) throw new Damage('there cannot be fewer than none')
    this.need(count * size)
    return count
  }

  ascii(length: number): string {
    this.need(length)
    let text = ''
    for (let i = 0; i < length; i++) text += String.fromCharCode(this.bytes[this.at++])
    return text
  }

  numbers(): Numbers {
    const Kind = ARRAYS[this.byte()] ?? refuse('a sort of numbers')
    const length = this.word()
    const size = Kind.BYTES_PER_ELEMENT
    const bytes = size * this.count(size)
    if (length < 0 || size * length < bytes || length > LEAST_ROOM + SPARE * this.bytes.length) refuse('a length')
    const data = new Kind(length)
    const into = new Uint8Array(data.buffer, 0, bytes)
    into.set(this.bytes.subarray(this.at, this.at + bytes))
    if (!LITTLE) turn(into, 0, bytes, size)
    this.at += bytes
    return data
  }

  /** A value; lists and records are frozen. */
  value(): unknown {
    const tag = this.byte()
    switch (tag) {
      case NOTHING:
        return null
      case UNDEFINED:
        return undefined
      case FALSE:
        return false
      case TRUE:
        return true
      case DOUBLE:
        return this.double()
      case INTEGER:
        return this.word()
      case TEXT:
        return this.text()
      case LIST:
        return Object.freeze(this.list())
      case RECORD: {
        const count = this.count(5)
        const made: Record<string, unknown> = {}
        for (let i = 0; i < count; i++) {
          const key = this.text()
          if (key === '__proto__') refuse('a field')
          made[key] = this.value()
        }
        return Object.freeze(made)
      }
      case NUMBERS:
        return this.numbers()
      case MAP: {
        const made = new Map<unknown, unknown>()
        const count = this.count(2)
        for (let i = 0; i < count; i++) made.set(this.value(), this.value())
        return made
      }
      case SET:
        return new Set(this.list())
      case KNOWN: {
        const number = this.word()
        return number >= 0 && number < this.met.length ? this.met[number] : refuse('a number of a thing')
      }
      case THING: {
        const sort = this.sorts[this.byte()] ?? refuse('a sort of thing')
        const made = sort.make(this.value() as never)
        this.met.push(made)
        return made
      }
      default:
        return refuse('a sort of value')
    }
  }

  private list(): unknown[] {
    const made: unknown[] = []
    const count = this.count(1)
    for (let i = 0; i < count; i++) made.push(this.value())
    return made
  }

  private text(): string {
    const count = this.count(2)
    let text = ''
    for (let i = 0; i < count; i++, this.at += 2) text += String.fromCharCode(this.view.getUint16(this.at, true))
    return text
  }

  private byte(): number {
    this.need(1)
    return this.bytes[this.at++]
  }

  private need(bytes: number): void {
    if (this.at + bytes > this.end) throw new Damage('it ends too early')
  }
}

/** Numbers that an array may have: what is in no proportion to the bytes that there are is not made room for. */
const LEAST_ROOM = 4096
const SPARE = 64

function refuse(what: string): never {
  throw new Damage(`${what} is none that there is`)
}

/** Turns the order of the bytes of each number round. */
function turn(bytes: Uint8Array, at: number, length: number, size: number): void {
  for (let from = at; from < at + length; from += size) bytes.subarray(from, from + size).reverse()
}
