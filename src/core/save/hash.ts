/**
 * A hash of what decides the future of a world, by which two worlds are told apart: whether a rollback came out as before, where two machines that
 * play together have parted. Order of memory that nobody sees (trees, places of pairs) is left out, so that asking questions changes nothing.
 *
 * Two lanes of 32 bits, mixed as in MurmurHash3 (Appleby, 2011): for comparing, not for secrets.
 */
import type { Table } from '../state/table.ts'

/** On the few machines that keep the high word of a double first, words are swapped, so that hashes agree. */
const LOW = new Uint8Array(Uint32Array.of(1).buffer)[0] === 1 ? 0 : 1

const double = new Float64Array(1)
const words = new Int32Array(double.buffer)

/** Numbers that are made words at a time. */
const BLOCK = 512
const blockDoubles = new Float64Array(BLOCK)
const blockWords = new Int32Array(blockDoubles.buffer)

function swap(data: Int32Array, at: number): void {
  const first = data[at]
  data[at] = data[at + 1]
  data[at + 1] = first
}

/** Whether there is anything but zeros among the first numbers. */
function holdsAny(data: Int32Array | Float64Array, used: number): boolean {
  for (let i = 0; i < used; i++) if (data[i] !== 0) return true
  return false
}

export class Hash {
  private one = 0x9747b28c | 0
  private two = 0x3c6ef372 | 0
  private count = 0

  /** A whole number of 32 bits. */
  word(value: number): void {
    let k = Math.imul(value, 0xcc9e2d51)
    k = (k << 15) | (k >>> 17)
    this.one ^= Math.imul(k, 0x1b873593)
    this.one = (Math.imul((this.one << 13) | (this.one >>> 19), 5) + 0xe6546b64) | 0
    k = Math.imul(value ^ this.count, 0x239b961b)
    k = (k << 17) | (k >>> 15)
    this.two ^= Math.imul(k, 0xab0e9789 | 0)
    this.two = (Math.imul((this.two << 16) | (this.two >>> 16), 5) + 0x561ccd1b) | 0
    this.count++
  }

  /** A number, with the sign of a zero; all that are none are alike. */
  number(value: number): void {
    double[0] = Number.isNaN(value) ? Number.NaN : value
    this.word(words[LOW])
    this.word(words[1 - LOW])
  }

  /**
   * All columns of the slots of a table up to its size. Those at the end that hold nothing but zeros are left out: a world that has walked and went
   * back has them, and one that never walked has not.
   */
  table(table: Table): void {
    this.word(table.size)
    let wanted = 0
    let columns = 0
    table.each((data, used) => {
      columns++
      if (holdsAny(data, used)) wanted = columns
    })
    this.word(wanted)
    table.each((data, used) => {
      if (wanted-- <= 0) return
      if (data instanceof Int32Array) this.words(data, used)
      else this.numbers(data, used)
    })
  }

  /** The numbers of an array as {@link number} takes them, a few thousand at a time: as words, in one go. */
  private numbers(data: ArrayLike<number>, used: number): void {
    for (let from = 0; from < used; from += BLOCK) {
      const count = Math.min(BLOCK, used - from)
      for (let i = 0; i < count; i++) {
        const value = data[from + i]
        blockDoubles[i] = Number.isNaN(value) ? Number.NaN : value
      }
      if (LOW === 1) for (let i = 0; i < count; i++) swap(blockWords, 2 * i)
      this.words(blockWords, 2 * count)
    }
  }

  /** As {@link word} for each, with both lanes at hand. */
  private words(data: Int32Array, used: number): void {
    let { one, two, count } = this
    for (let i = 0; i < used; i++) {
      const value = data[i]
      let k = Math.imul(value, 0xcc9e2d51)
      k = (k << 15) | (k >>> 17)
      one ^= Math.imul(k, 0x1b873593)
      one = (Math.imul((one << 13) | (one >>> 19), 5) + 0xe6546b64) | 0
      k = Math.imul(value ^ count, 0x239b961b)
      k = (k << 17) | (k >>> 15)
      two ^= Math.imul(k, 0xab0e9789 | 0)
      two = (Math.imul((two << 16) | (two >>> 16), 5) + 0x561ccd1b) | 0
      count++
    }
    this.one = one
    this.two = two
    this.count = count
  }

  /** As 16 hexadecimal digits. */
  text(): string {
    return [this.one, this.two].map((lane) => (finish(lane ^ this.count) >>> 0).toString(16).padStart(8, '0')).join('')
  }

  /** For sums that no order changes: two lanes as one number each. */
  lanes(): readonly [number, number] {
    return [finish(this.one), finish(this.two)]
  }
}

function finish(lane: number): number {
  let h = lane
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35)
  return h ^ (h >>> 16)
}
