/** Pairs of slots that were told to ignore each other: what holds now, and what held at the last step. */

import type { StateVisitor } from '../save/state.ts'
import { PairMap } from '../state/table.ts'

const NOW = 1
const BEFORE = 2
/** Slots are below this, so that two fit in one exact number. */
const SPAN = 2 ** 26

export class IgnoredPairs {
  /** Whether any pair is ignored or was. */
  any = false
  /** The marks of each pair, the lesser slot first: looked up in every tick, and so without a key that would be boxed. */
  private readonly marks = new PairMap()
  /** The pairs that have marks, and those of them that changed since the last step, as one number each. */
  private readonly keys = new Set<number>()
  private readonly changed = new Set<number>()

  /** Returns whether that changed anything. */
  set(a: number, b: number, ignored: boolean): boolean {
    const marks = this.marksOf(a, b)
    if (((marks & NOW) !== 0) === ignored) return false
    this.mark(a, b, ignored ? marks | NOW : marks & ~NOW)
    this.changed.add(keyOf(a, b))
    return true
  }

  now(a: number, b: number): boolean {
    return this.any && (this.marksOf(a, b) & NOW) !== 0
  }

  before(a: number, b: number): boolean {
    return this.any && (this.marksOf(a, b) & BEFORE) !== 0
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.any = v.flag(this.any)
    this.marks.visit(v)
    for (const keys of [this.keys, this.changed]) {
      v.copy(
        () => [...keys],
        (kept) => {
          keys.clear()
          for (const key of kept) keys.add(key)
        },
      )
    }
  }

  /** What holds now is what the last step saw. */
  endTick(): void {
    if (this.changed.size === 0) return
    for (const key of this.changed) {
      const [a, b] = slotsOf(key)
      this.mark(a, b, (this.marksOf(a, b) & NOW) !== 0 ? NOW | BEFORE : 0)
    }
    this.changed.clear()
  }

  /** A slot is about to be used again. */
  release(slot: number): void {
    if (!this.any) return
    for (const key of this.keys) {
      const [a, b] = slotsOf(key)
      if (a !== slot && b !== slot) continue
      this.mark(a, b, 0)
      this.changed.delete(key)
    }
  }

  private marksOf(a: number, b: number): number {
    const marks = a < b ? this.marks.get(a, b) : this.marks.get(b, a)
    return marks < 0 ? 0 : marks
  }

  private mark(a: number, b: number, marks: number): void {
    const key = keyOf(a, b)
    const [one, other] = slotsOf(key)
    if (marks !== 0) {
      this.marks.set(one, other, marks)
      this.keys.add(key)
    } else if (this.keys.delete(key)) this.marks.delete(one, other)
    this.any = this.keys.size > 0
  }
}

function slotsOf(key: number): [number, number] {
  return [Math.floor(key / SPAN), key % SPAN]
}

function keyOf(a: number, b: number): number {
  return a < b ? a * SPAN + b : b * SPAN + a
}
