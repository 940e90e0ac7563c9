/**
 * The bodies of a tick in rows, packed so that a pass of the solver runs straight through memory; and how they turn. Free motion is
 * split into turns about the three principal axes, which keeps the angular momentum to rounding and the energy within a bound, however long
 * it goes on (McLachlan, 1993; Touma and Wisdom, 1994).
 */
import { type BodyRows, SUBSTEP, TICK } from '../../core/solve/substeps.ts'
import { cosSin } from '../../core/util/maths.ts'
import { multiply, normalise, writeFrame } from '../vector.ts'

/**
 * Of a body: velocity, spin; inverse mass along x, y, z; inverse inertia about the world's axes (xx, yy, zz, xy, xz, yz) as the tick begins;
 * what it has moved and turned by in this tick (as a matrix, less the unit matrix); inverse inertia as it is turned now; acceleration, torque;
 * damping. What contacts read in every pass stands first.
 * Rooms that read them in a hot loop keep typed copies: see tree/layout.ts.
 */
export const BODY = 58
export const VX = 0
export const WX = 3
export const IX = 6
export const SX = 9
export const DX = 15
export const RX = 18
export const JX = 27
export const AX = 33
export const TX = 36
export const SLOW = 39
export const SLOW_SPIN = 40
/** The turn of this tick as a quaternion. */
export const QX = 41
/** Inverse moments about the principal axes, and these as the columns of a matrix, about the world, as the tick begins. */
export const MX = 45
export const PX = 48
/** 1 where it does not turn about some axis of the world. */
export const TURN_LOCKED = 57

/** The row of what cannot be moved. */
const FIXED_ROW = 0
/** Radians that are turned at once: in less, a turn about three axes is one about each. */
const FINE = 0.05
const MOST_PARTS = 64
/** Radians a substep below which the moments do not matter. */
const STILL = 1e-5
/** Square of half an angle up to which the series of cosine and sine are exact to rounding in three terms. */
const SMALL = 1e-5

/** Places in {@link BodyRows3.span}: the time that is worked on, half of it, a part of it, half of that. */
const WHOLE = 0
const HALF = 1
const PART = 2
const PART_HALF = 3

export class BodyRows3 implements BodyRows {
  data = new Float64Array(BODY * 64)
  count = 1
  /** 1 for rows that a constraint holds. */
  held = new Int32Array(64)
  /** Lengths and radians a second that no row goes beyond. */
  readonly most = new Float64Array(2)
  /** Angular momentum about the principal axes. */
  private readonly momentum = new Float64Array(3)
  /** The turn from the principal axes to the world. */
  private readonly frame = new Float64Array(4)
  private readonly part = new Float64Array(4)
  private readonly matrix = new Float64Array(9)
  private readonly angle = new Float64Array(3)
  /** Seconds that are worked on: in an array, for a double that crosses a call is boxed. */
  private readonly span = new Float64Array(4)
  private readonly way = new Float64Array(3)

  clear(): void {
    this.count = 1
    this.held[FIXED_ROW] = 0
  }

  /** A new row, all zero and not turned. */
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
    this.data[BODY * row + QX + 3] = 1
    this.held[row] = 0
    return row
  }

  accelerate(time: Float64Array): void {
    const h = time[SUBSTEP]
    this.span[WHOLE] = h
    this.span[HALF] = h / 2
    const { data: bodies, count, held } = this
    for (let row = 1; row < count; row++) {
      if (held[row] === 0) continue
      const at = BODY * row
      const slow = 1 / (1 + h * bodies[at + SLOW])
      bodies[at + VX] = (bodies[at + VX] + h * bodies[at + AX]) * slow
      bodies[at + VX + 1] = (bodies[at + VX + 1] + h * bodies[at + AX + 1]) * slow
      bodies[at + VX + 2] = (bodies[at + VX + 2] + h * bodies[at + AX + 2]) * slow
      this.twist(at, WHOLE)
      if (this.isUneven(at)) {
        this.readMomentum(at)
        this.spanParts(1)
        this.turnMomentum(at, false)
        this.writeSpin(at)
      }
      const slowSpin = 1 / (1 + h * bodies[at + SLOW_SPIN])
      bodies[at + WX] *= slowSpin
      bodies[at + WX + 1] *= slowSpin
      bodies[at + WX + 2] *= slowSpin
      this.clampSpeed(at)
    }
  }

  advance(time: Float64Array): void {
    const h = time[SUBSTEP]
    this.span[WHOLE] = h
    this.span[HALF] = h / 2
    const { data: bodies, count, held, way } = this
    for (let row = 1; row < count; row++) {
      if (held[row] === 0) continue
      const at = BODY * row
      this.clampSpeed(at)
      bodies[at + DX] += h * bodies[at + VX]
      bodies[at + DX + 1] += h * bodies[at + VX + 1]
      bodies[at + DX + 2] += h * bodies[at + VX + 2]
      const x = bodies[at + WX]
      const y = bodies[at + WX + 1]
      const z = bodies[at + WX + 2]
      if (x === 0 && y === 0 && z === 0) continue
      way[0] = h * x
      way[1] = h * y
      way[2] = h * z
      this.turn(at)
      this.writeTurned(at)
      if (this.isUneven(at)) this.writeInverse(at)
    }
  }

  /** Writes the inverse inertia about the world's axes, as the body is turned now: what joints hold together would gain spin by an old one. */
  private writeInverse(at: number): void {
    const { data: bodies, matrix: m } = this
    this.writeAxes(at)
    const a = bodies[at + MX]
    const b = bodies[at + MX + 1]
    const c = bodies[at + MX + 2]
    const j = at + JX
    bodies[j] = a * m[0] * m[0] + b * m[1] * m[1] + c * m[2] * m[2]
    bodies[j + 1] = a * m[3] * m[3] + b * m[4] * m[4] + c * m[5] * m[5]
    bodies[j + 2] = a * m[6] * m[6] + b * m[7] * m[7] + c * m[8] * m[8]
    bodies[j + 3] = a * m[0] * m[3] + b * m[1] * m[4] + c * m[2] * m[5]
    bodies[j + 4] = a * m[0] * m[6] + b * m[1] * m[7] + c * m[2] * m[8]
    bodies[j + 5] = a * m[3] * m[6] + b * m[4] * m[7] + c * m[5] * m[8]
  }

  /** What no constraint holds moves in closed form; what tumbles, in small turns. */
  fly(time: Float64Array): void {
    const dt = time[TICK]
    this.span[WHOLE] = dt
    this.span[HALF] = dt / 2
    const { data: bodies, count, held, way } = this
    for (let row = 1; row < count; row++) {
      if (held[row] !== 0) continue
      const at = BODY * row
      const slow = 1 / (1 + dt * bodies[at + SLOW])
      for (let k = 0; k < 3; k++) {
        bodies[at + DX + k] = bodies[at + VX + k]
        bodies[at + VX + k] = (bodies[at + VX + k] + dt * bodies[at + AX + k]) * slow
      }
      const slowSpin = 1 / (1 + dt * bodies[at + SLOW_SPIN])
      if (this.isUneven(at)) {
        this.twist(at, HALF)
        this.tumble(at)
        this.twist(at, HALF)
        for (let k = WX; k < WX + 3; k++) bodies[at + k] *= slowSpin
        this.clampSpeed(at)
      } else {
        const x = bodies[at + WX]
        const y = bodies[at + WX + 1]
        const z = bodies[at + WX + 2]
        this.twist(at, WHOLE)
        for (let k = WX; k < WX + 3; k++) bodies[at + k] *= slowSpin
        this.clampSpeed(at)
        const half = dt / 2
        way[0] = (x + bodies[at + WX]) * half
        way[1] = (y + bodies[at + WX + 1]) * half
        way[2] = (z + bodies[at + WX + 2]) * half
        this.turn(at)
      }
      // Without damping the mean of the two velocities is the exact way.
      for (let k = 0; k < 3; k++) bodies[at + DX + k] = ((bodies[at + DX + k] + bodies[at + VX + k]) / 2) * dt
    }
  }

  /** Adds what the torque does in a time. */
  private twist(at: number, which: number): void {
    const { data: bodies } = this
    const h = this.span[which]
    const x = bodies[at + TX]
    const y = bodies[at + TX + 1]
    const z = bodies[at + TX + 2]
    if (x === 0 && y === 0 && z === 0) return
    bodies[at + WX] += h * (bodies[at + JX] * x + bodies[at + JX + 3] * y + bodies[at + JX + 4] * z)
    bodies[at + WX + 1] += h * (bodies[at + JX + 3] * x + bodies[at + JX + 1] * y + bodies[at + JX + 5] * z)
    bodies[at + WX + 2] += h * (bodies[at + JX + 4] * x + bodies[at + JX + 5] * y + bodies[at + JX + 2] * z)
  }

  /** Whether a body turns, and its moments differ, so that its spin changes by itself. */
  private isUneven(at: number): boolean {
    const h = this.span[WHOLE]
    const { data: bodies } = this
    const m = bodies[at + MX]
    if (m === bodies[at + MX + 1] && m === bodies[at + MX + 2]) return false
    if (bodies[at + TURN_LOCKED] !== 0) return false
    const x = bodies[at + WX]
    const y = bodies[at + WX + 1]
    const z = bodies[at + WX + 2]
    return (x * x + y * y + z * z) * h * h > STILL * STILL
  }

  /** Writes the angular momentum about the principal axes, as they stand now, and how these stand. */
  private readMomentum(at: number): void {
    const { data: bodies, matrix, momentum } = this
    this.writeAxes(at)
    for (let k = 0; k < 3; k++) {
      const along =
        matrix[k] * bodies[at + WX] + matrix[3 + k] * bodies[at + WX + 1] + matrix[6 + k] * bodies[at + WX + 2]
      momentum[k] = along / bodies[at + MX + k]
    }
  }

  /** Writes the principal axes, as they stand now, as columns. */
  private writeAxes(at: number): void {
    const { data: bodies, matrix } = this
    for (let i = 0; i < 3; i++) {
      for (let k = 0; k < 3; k++) {
        let sum = bodies[at + PX + 3 * i + k]
        for (let j = 0; j < 3; j++) sum += bodies[at + RX + 3 * i + j] * bodies[at + PX + 3 * j + k]
        matrix[3 * i + k] = sum
      }
    }
  }

  /** The spin that belongs to the momentum, about the axes as they were read. */
  private writeSpin(at: number): void {
    const { data: bodies, matrix, momentum } = this
    const x = momentum[0] * bodies[at + MX]
    const y = momentum[1] * bodies[at + MX + 1]
    const z = momentum[2] * bodies[at + MX + 2]
    for (let i = 0; i < 3; i++) {
      bodies[at + WX + i] = matrix[3 * i] * x + matrix[3 * i + 1] * y + matrix[3 * i + 2] * z
    }
  }

  /** Turns the momentum about each principal axis as long as its part of the spin says: halves, then the third whole, and back. */
  private turnMomentum(at: number, framed: boolean): void {
    this.about(at, 0, PART_HALF, framed)
    this.about(at, 1, PART_HALF, framed)
    this.about(at, 2, PART, framed)
    this.about(at, 1, PART_HALF, framed)
    this.about(at, 0, PART_HALF, framed)
  }

  /** Splits the time that is worked on in so many parts. */
  private spanParts(parts: number): void {
    const { span } = this
    span[PART] = span[WHOLE] / parts
    span[PART_HALF] = span[PART] / 2
  }

  private about(at: number, axis: number, which: number, framed: boolean): void {
    const { momentum, angle, part, frame } = this
    const h = this.span[which]
    const turned = h * momentum[axis] * this.data[at + MX + axis]
    if (turned === 0) return
    angle[0] = turned
    cosSin(angle, 0)
    const next = axis === 2 ? 0 : axis + 1
    const last = axis === 0 ? 2 : axis - 1
    // Seen from the body the momentum turns the other way.
    const p = momentum[next]
    const q = momentum[last]
    momentum[next] = angle[1] * p + angle[2] * q
    momentum[last] = angle[1] * q - angle[2] * p
    if (!framed) return
    angle[0] = turned / 2
    cosSin(angle, 0)
    part[0] = part[1] = part[2] = 0
    part[axis] = angle[2]
    part[3] = angle[1]
    multiply(frame, 0, part, 0, frame, 0)
  }

  /** Free motion of a body for a time: its turn and its spin. */
  private tumble(at: number): void {
    const { data: bodies, frame, matrix } = this
    const h = this.span[WHOLE]
    const x = bodies[at + WX]
    const y = bodies[at + WX + 1]
    const z = bodies[at + WX + 2]
    const parts = Math.min(MOST_PARTS, Math.ceil((Math.sqrt(x * x + y * y + z * z) * h) / FINE))
    this.readMomentum(at)
    frame[0] = frame[1] = frame[2] = 0
    frame[3] = 1
    this.spanParts(parts)
    for (let i = 0; i < parts; i++) this.turnMomentum(at, true)
    normalise(frame, 0)
    // The turn about the principal axes as they stood is one about the world: P f P^-1.
    const u = matrix[0] * frame[0] + matrix[1] * frame[1] + matrix[2] * frame[2]
    const v = matrix[3] * frame[0] + matrix[4] * frame[1] + matrix[5] * frame[2]
    const w = matrix[6] * frame[0] + matrix[7] * frame[1] + matrix[8] * frame[2]
    const { part } = this
    part[0] = u
    part[1] = v
    part[2] = w
    part[3] = frame[3]
    multiply(part, 0, bodies, at + QX, bodies, at + QX)
    normalise(bodies, at + QX)
    this.writeTurned(at)
    this.writeAxes(at)
    this.writeSpin(at)
  }

  /** Turns a body by the vector in `way`: its direction is the axis, its length the radians. */
  private turn(at: number): void {
    const { part, data: bodies, angle, way } = this
    const x = way[0]
    const y = way[1]
    const z = way[2]
    const square = (x * x + y * y + z * z) / 4
    if (square === 0) return
    let sine: number
    if (square < SMALL) {
      sine = 0.5 * (1 - square / 6 + (square * square) / 120)
      part[3] = 1 - square / 2 + (square * square) / 24
    } else {
      const half = Math.sqrt(square)
      angle[0] = half
      cosSin(angle, 0)
      sine = angle[2] / (2 * half)
      part[3] = angle[1]
    }
    part[0] = x * sine
    part[1] = y * sine
    part[2] = z * sine
    multiply(part, 0, bodies, at + QX, bodies, at + QX)
    normalise(bodies, at + QX)
  }

  /** Writes the matrix of the turn of this tick, less the unit matrix. */
  private writeTurned(at: number): void {
    const { data: bodies } = this
    writeFrame(bodies, at + QX, bodies, at + RX)
    // Of a small turn what is left beside 1 would be rounded: it is computed by itself.
    const x = bodies[at + QX]
    const y = bodies[at + QX + 1]
    const z = bodies[at + QX + 2]
    bodies[at + RX] = -2 * (y * y + z * z)
    bodies[at + RX + 4] = -2 * (x * x + z * z)
    bodies[at + RX + 8] = -2 * (x * x + y * y)
  }

  /** Holds a row's speeds within their bounds. */
  private clampSpeed(at: number): void {
    const { data: bodies, most } = this
    const speed = most[0]
    for (let k = VX; k < VX + 3; k++) {
      if (bodies[at + k] > speed) bodies[at + k] = speed
      else if (bodies[at + k] < -speed) bodies[at + k] = -speed
    }
    const spin = most[1]
    const x = bodies[at + WX]
    const y = bodies[at + WX + 1]
    const z = bodies[at + WX + 2]
    const square = x * x + y * y + z * z
    if (!(square > spin * spin)) return
    const part = spin / Math.sqrt(square)
    for (let k = WX; k < WX + 3; k++) bodies[at + k] *= part
  }
}
