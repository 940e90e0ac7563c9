/**
 * The last times that two colliders met and parted within one tick: for explanations, which would else find them apart and have nothing to
 * say. Nothing simulated depends on it.
 */
import type { Pairs } from './pairs.ts'

/** How many are kept. */
const KEPT = 256
/** Ages of the two colliders, the tick, and the response. */
const WORDS = 4

export interface Crossing {
  readonly tick: number
  /** 0 to 1 within that tick. */
  readonly entry: number
  readonly exit: number
  readonly response: number
}

export class Crossings {
  private readonly words = new Int32Array(WORDS * KEPT)
  private readonly times = new Float64Array(2 * KEPT)
  private count = 0
  private readonly serial: { readonly data: Int32Array }

  /** @param serial the age of colliders */
  constructor(serial: { readonly data: Int32Array }) {
    this.serial = serial
  }

  note(pair: number, pairs: Pairs, tick: number): void {
    const at = this.count++ % KEPT
    this.words[WORDS * at] = this.serial.data[pairs.a.data[pair]]
    this.words[WORDS * at + 1] = this.serial.data[pairs.b.data[pair]]
    this.words[WORDS * at + 2] = tick
    this.words[WORDS * at + 3] = pairs.response.data[pair]
    this.times[2 * at] = pairs.when.data[pair]
    this.times[2 * at + 1] = pairs.exit.data[pair]
  }

  /** The latest of two colliders, by their ages; null when none is kept. */
  last(a: number, b: number): Crossing | null {
    const older = Math.min(a, b)
    const younger = Math.max(a, b)
    for (let back = 1; back <= Math.min(this.count, KEPT); back++) {
      const at = (this.count - back) % KEPT
      if (this.words[WORDS * at] !== older || this.words[WORDS * at + 1] !== younger) continue
      return {
        tick: this.words[WORDS * at + 2],
        entry: this.times[2 * at],
        exit: this.times[2 * at + 1],
        response: this.words[WORDS * at + 3],
      }
    }
    return null
  }
}
