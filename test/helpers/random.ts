/** A small seeded generator (mulberry32), for long runs of operations whose seed is printed on failure. */
export class Random {
  private state: number

  constructor(seed: number) {
    this.state = seed | 0
  }

  /** 0 up to, but not with, 1. */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }

  between(low: number, high: number): number {
    return low + (high - low) * this.next()
  }

  below(count: number): number {
    return Math.floor(this.next() * count)
  }

  chance(part: number): boolean {
    return this.next() < part
  }

  pick<T>(list: readonly T[]): T {
    return list[this.below(list.length)]
  }
}
