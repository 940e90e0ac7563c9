/** The bodies of a tick in rows, packed so that a pass of the solver runs straight through memory. */
import { type BodyRows, SUBSTEP, TICK } from '../../core/solve/substeps.ts'

/**
 * Of a body: velocity x, y, spin; what it has moved by in this tick; inverse mass along x, y, of the turn; acceleration; damping.
 * Rooms that read them in a hot loop keep typed copies: see tree/layout.ts.
 */
export const BODY = 14
export const VX = 0
export const VY = 1
export const SPIN = 2
export const DX = 3
export const DY = 4
export const TURN = 5
export const IX = 6
export const IY = 7
export const IT = 8
export const AX = 9
export const AY = 10
export const AT = 11
export const SLOW = 12
export const SLOW_SPIN = 13

/** The row of what cannot be moved. */
const FIXED_ROW = 0

export class BodyRows2 implements BodyRows {
  data = new Float64Array(BODY * 64)
  count = 1
  /** 1 for rows that a constraint holds. */
  held = new Int32Array(64)
  /** Lengths and radians a second that no row goes beyond. */
  readonly most = new Float64Array(2)

  clear(): void {
    this.count = 1
    this.held[FIXED_ROW] = 0
  }

  /** A new row, all zero. */
  add(): number {
    const row = this.count++
    if (BODY * this.count > this.data.length) {
      const wider = new Float64Array(2 * this.data.length)
      wider.set(this.data)
      this.data = wider
      const marks = new Int32Array(2 * this.held.length)
      marks.set(this.held)
      this.held = marks
    }
    this.data.fill(0, BODY * row, BODY * row + BODY)
    this.held[row] = 0
    return row
  }

  accelerate(time: Float64Array): void {
    const h = time[SUBSTEP]
    const { data: bodies, count, held } = this
    for (let row = 1; row < count; row++) {
      if (held[row] === 0) continue
      const at = BODY * row
      const slow = 1 / (1 + h * bodies[at + SLOW])
      bodies[at + VX] = (bodies[at + VX] + h * bodies[at + AX]) * slow
      bodies[at + VY] = (bodies[at + VY] + h * bodies[at + AY]) * slow
      bodies[at + SPIN] = (bodies[at + SPIN] + h * bodies[at + AT]) / (1 + h * bodies[at + SLOW_SPIN])
      this.clampSpeed(at)
    }
  }

  /** Holds a row's speeds within their bounds. */
  private clampSpeed(at: number): void {
    const { data: bodies, most } = this
    const speed = most[0]
    const spin = most[1]
    if (bodies[at + VX] > speed) bodies[at + VX] = speed
    else if (bodies[at + VX] < -speed) bodies[at + VX] = -speed
    if (bodies[at + VY] > speed) bodies[at + VY] = speed
    else if (bodies[at + VY] < -speed) bodies[at + VY] = -speed
    if (bodies[at + SPIN] > spin) bodies[at + SPIN] = spin
    else if (bodies[at + SPIN] < -spin) bodies[at + SPIN] = -spin
  }

  advance(time: Float64Array): void {
    const h = time[SUBSTEP]
    const { data: bodies, count, held } = this
    for (let row = 1; row < count; row++) {
      if (held[row] === 0) continue
      const at = BODY * row
      this.clampSpeed(at)
      bodies[at + DX] += h * bodies[at + VX]
      bodies[at + DY] += h * bodies[at + VY]
      bodies[at + TURN] += h * bodies[at + SPIN]
    }
  }

  /** What no constraint holds moves in closed form. */
  fly(time: Float64Array): void {
    const dt = time[TICK]
    const { data: bodies, count, held } = this
    for (let row = 1; row < count; row++) {
      if (held[row] !== 0) continue
      const at = BODY * row
      const slow = 1 / (1 + dt * bodies[at + SLOW])
      const slowSpin = 1 / (1 + dt * bodies[at + SLOW_SPIN])
      const vx = bodies[at + VX]
      const vy = bodies[at + VY]
      const spin = bodies[at + SPIN]
      bodies[at + VX] = (vx + dt * bodies[at + AX]) * slow
      bodies[at + VY] = (vy + dt * bodies[at + AY]) * slow
      bodies[at + SPIN] = (spin + dt * bodies[at + AT]) * slowSpin
      this.clampSpeed(at)
      // Without damping the mean of the two velocities is the exact way.
      bodies[at + DX] = ((vx + bodies[at + VX]) / 2) * dt
      bodies[at + DY] = ((vy + bodies[at + VY]) / 2) * dt
      bodies[at + TURN] = ((spin + bodies[at + SPIN]) / 2) * dt
    }
  }
}
