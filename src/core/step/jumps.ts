/**
 * The last teleports: from where to where. For explanations, which would else find two apart and have nothing to say. Nothing simulated
 * depends on it.
 */

import type { StateVisitor } from '../save/state.ts'

/** How many are kept, of all bodies together. */
const KEPT = 256

/** A teleport: before which tick, and the poses as they are kept. */
export interface Jump {
  readonly tick: number
  readonly from: Float64Array
  readonly to: Float64Array
}

export class Jumps {
  private readonly size: number
  /** Ages of the bodies. */
  private readonly serials = new Int32Array(KEPT)
  private readonly ticks = new Int32Array(KEPT)
  private readonly poses: Float64Array
  private count = 0

  /** @param size numbers of a pose */
  constructor(size: number) {
    this.size = size
    this.poses = new Float64Array(2 * size * KEPT)
  }

  /** A body, by its age, was teleported before a tick. */
  note(serial: number, tick: number, from: Float64Array, to: Float64Array): void {
    const at = this.count++ % KEPT
    this.serials[at] = serial
    this.ticks[at] = tick
    this.poses.set(from, 2 * this.size * at)
    this.poses.set(to, 2 * this.size * at + this.size)
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.count = v.number(this.count)
    for (const numbers of [this.serials, this.ticks, this.poses]) v.numbers(numbers)
  }

  /** Those of a body, the latest first. */
  of(serial: number): Jump[] {
    const { size, poses } = this
    const found: Jump[] = []
    for (let back = 1; back <= Math.min(this.count, KEPT); back++) {
      const at = (this.count - back) % KEPT
      if (this.serials[at] !== serial) continue
      const first = 2 * size * at
      const from = poses.slice(first, first + size)
      found.push({ tick: this.ticks[at], from, to: poses.slice(first + size, first + 2 * size) })
    }
    return found
  }
}
