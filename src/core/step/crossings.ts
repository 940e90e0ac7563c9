/**
 * The last times that two colliders met and parted within one tick: for explanations, which would else find them apart and have nothing to
 * say. Nothing simulated depends on it.
 */
import type { StateVisitor } from '../save/state.ts'
import type { Pairs } from './pairs.ts'

/** How many are kept. */
const KEPT = 256
/** Ages of the two colliders, the tick, the response, and whether one was held off. */
const WORDS = 5
/** Entry, exit, closing speed. */
const TIMES = 3

export interface Crossing {
  readonly tick: number
  /** 0 to 1 within that tick. */
  readonly entry: number
  readonly exit: number
  /** How fast they came together, a second. */
  readonly closing: number
  readonly response: number
  /** Whether the one was held off by the other: it bounced, and did not go through. */
  readonly pressed: boolean
}

export class Crossings {
  private readonly words = new Int32Array(WORDS * KEPT)
  private readonly times = new Float64Array(TIMES * KEPT)
  private count = 0
  private readonly serial: { readonly data: Int32Array }

  /** @param serial the age of colliders */
  constructor(serial: { readonly data: Int32Array }) {
    this.serial = serial
  }

  note(pair: number, pairs: Pairs, tick: number, closing: number, pressed: boolean): void {
    const at = this.count++ % KEPT
    this.words[WORDS * at] = this.serial.data[pairs.a.data[pair]]
    this.words[WORDS * at + 1] = this.serial.data[pairs.b.data[pair]]
    this.words[WORDS * at + 2] = tick
    this.words[WORDS * at + 3] = pairs.response.data[pair]
    this.words[WORDS * at + 4] = pressed ? 1 : 0
    this.times[TIMES * at] = pairs.when.data[pair]
    this.times[TIMES * at + 1] = pairs.exit.data[pair]
    this.times[TIMES * at + 2] = closing
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.count = v.number(this.count)
    v.numbers(this.words)
    v.numbers(this.times)
  }

  /** All that are kept, the latest first, with the ages of the colliders. */
  *all(): Generator<Crossing & { readonly a: number; readonly b: number }> {
    for (let back = 1; back <= Math.min(this.count, KEPT); back++) {
      const at = (this.count - back) % KEPT
      yield { a: this.words[WORDS * at], b: this.words[WORDS * at + 1], ...this.crossingAt(at) }
    }
  }

  private crossingAt(at: number): Crossing {
    return {
      tick: this.words[WORDS * at + 2],
      entry: this.times[TIMES * at],
      exit: this.times[TIMES * at + 1],
      closing: this.times[TIMES * at + 2],
      response: this.words[WORDS * at + 3],
      pressed: this.words[WORDS * at + 4] !== 0,
    }
  }

  /** The latest of two colliders, by their ages; null when none is kept. */
  last(a: number, b: number): Crossing | null {
    const older = Math.min(a, b)
    const younger = Math.max(a, b)
    for (let back = 1; back <= Math.min(this.count, KEPT); back++) {
      const at = (this.count - back) % KEPT
      if (this.words[WORDS * at] !== older || this.words[WORDS * at + 1] !== younger) continue
      return this.crossingAt(at)
    }
    return null
  }
}
