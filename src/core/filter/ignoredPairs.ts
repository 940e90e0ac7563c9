/** Pairs of slots that were told to ignore each other: what holds now, and what held at the last step. */

const NOW = 1
const BEFORE = 2
/** Slots are below this, so that two fit in one exact number. */
const SPAN = 2 ** 26

export class IgnoredPairs {
  /** Whether any pair is ignored or was. */
  any = false
  private readonly pairs = new Map<number, number>()
  private readonly changed = new Set<number>()

  /** Returns whether that changed anything. */
  set(a: number, b: number, ignored: boolean): boolean {
    const key = keyOf(a, b)
    const marks = this.pairs.get(key) ?? 0
    if (((marks & NOW) !== 0) === ignored) return false
    this.pairs.set(key, ignored ? marks | NOW : marks & ~NOW)
    this.changed.add(key)
    this.any = true
    return true
  }

  now(a: number, b: number): boolean {
    return this.any && ((this.pairs.get(keyOf(a, b)) ?? 0) & NOW) !== 0
  }

  before(a: number, b: number): boolean {
    return this.any && ((this.pairs.get(keyOf(a, b)) ?? 0) & BEFORE) !== 0
  }

  /** What holds now is what the last step saw. */
  endTick(): void {
    if (this.changed.size === 0) return
    for (const key of this.changed) {
      if (((this.pairs.get(key) ?? 0) & NOW) !== 0) this.pairs.set(key, NOW | BEFORE)
      else this.pairs.delete(key)
    }
    this.changed.clear()
    this.any = this.pairs.size > 0
  }

  /** A slot is about to be used again. */
  release(slot: number): void {
    if (!this.any) return
    for (const key of this.pairs.keys()) {
      if (key % SPAN !== slot && Math.floor(key / SPAN) !== slot) continue
      this.pairs.delete(key)
      this.changed.delete(key)
    }
    this.any = this.pairs.size > 0
  }
}

function keyOf(a: number, b: number): number {
  return a < b ? a * SPAN + b : b * SPAN + a
}
