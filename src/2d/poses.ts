/** Where bodies are and how they move: now, before the last step, and where they were told to be. */

import type { Column, Table } from '../core/state/table.ts'
import { COORDINATE } from '../core/util/limits.ts'
import { cosSin } from '../core/util/maths.ts'

/** Numbers of a pose as it is kept: x, y, angle. */
export const KEPT = 3

export class Poses {
  readonly axes = 2
  readonly kept = KEPT
  /** Place of a body's origin: x, y. */
  readonly place: Column<Float64Array>
  /** Turn: angle (unwrapped), cos, sin. */
  readonly turn: Column<Float64Array>
  /** Velocity: x, y in lengths a second (of a dynamic body, of its centre of mass), spin in radians a second. */
  readonly velocity: Column<Float64Array>
  /** What a body that was led did in the last step, as a velocity; with a flag. */
  readonly done: Column<Float64Array>
  readonly isLed: Column<Int32Array>
  /** Place and angle before the last step, for drawing between ticks and for the way within it. */
  readonly previous: Column<Float64Array>
  /** Where a kinematic body is to be after the next step: x, y, angle; with a flag. */
  readonly target: Column<Float64Array>
  readonly hasTarget: Column<Int32Array>

  /** How often in this step a speed or a place was clamped to its limit. */
  held = 0

  constructor(bodies: Table) {
    this.place = bodies.f64(2)
    this.turn = bodies.f64(3)
    this.velocity = bodies.f64(3)
    this.done = bodies.f64(3)
    this.isLed = bodies.i32()
    this.previous = bodies.f64(3)
    this.target = bodies.f64(3)
    this.hasTarget = bodies.i32()
  }

  /** @param pose x, y, angle */
  set(body: number, pose: Float64Array): void {
    this.place.data[2 * body] = pose[0]
    this.place.data[2 * body + 1] = pose[1]
    this.turn.data[3 * body] = pose[2]
    cosSin(this.turn.data, 3 * body)
  }

  /** Writes the pose of a body: x, y, angle. */
  keep(body: number, out: Float64Array): void {
    out[0] = this.place.data[2 * body]
    out[1] = this.place.data[2 * body + 1]
    out[2] = this.turn.data[3 * body]
  }

  /** Takes down what a body that was led did in this step. */
  noteDone(body: number, dt: number): void {
    const { done, place, turn, previous, isLed } = this
    isLed.data[body] = 1
    const at = 3 * body
    done.data[at] = (place.data[2 * body] - previous.data[at]) / dt
    done.data[at + 1] = (place.data[2 * body + 1] - previous.data[at + 1]) / dt
    done.data[at + 2] = (turn.data[at] - previous.data[at + 2]) / dt
  }

  /** A body that was led goes on by itself, as it did. */
  takeDone(body: number): void {
    if (this.isLed.data[body] === 0) return
    this.isLed.data[body] = 0
    for (let k = 3 * body; k < 3 * (body + 1); k++) this.velocity.data[k] = this.done.data[k]
  }

  /** How a body moves, as it reads: what was led by what it did. */
  motionOf(body: number): Float64Array {
    return this.isLed.data[body] !== 0 ? this.done.data : this.velocity.data
  }

  /** Holds a place within its bounds; what moves a body out of them is taken away. */
  clampPlace(body: number): void {
    const { place, velocity } = this
    for (let k = 0; k < 2; k++) {
      const value = place.data[2 * body + k]
      if (value <= COORDINATE && value >= -COORDINATE) continue
      place.data[2 * body + k] = value > 0 ? COORDINATE : -COORDINATE
      velocity.data[3 * body + k] = 0
      this.held++
    }
  }

  /** Holds a velocity within its bounds: along an axis, and of the spin. */
  clampSpeed(body: number, bounds: Float64Array): void {
    const speed = bounds[0]
    const spin = bounds[1]
    const { data } = this.velocity
    let held = false
    for (let k = 0; k < 3; k++) {
      const most = k < 2 ? speed : spin
      const value = data[3 * body + k]
      if (value <= most && value >= -most) continue
      data[3 * body + k] = value > 0 ? most : -most
      held = true
    }
    if (held) this.held++
  }

  /** Writes by how many radians a body has turned in the last step, and how far it went. */
  readStep(body: number, out: Float64Array): void {
    const { data: was } = this.previous
    out[0] = this.turn.data[3 * body] - was[3 * body + 2]
    const dx = this.place.data[2 * body] - was[3 * body]
    const dy = this.place.data[2 * body + 1] - was[3 * body + 1]
    out[1] = Math.sqrt(dx * dx + dy * dy)
  }

  /** No way to draw between ticks, and none within the next: the body is simply here. */
  resetMotion(body: number): void {
    const { previous, place, turn } = this
    previous.data[3 * body] = place.data[2 * body]
    previous.data[3 * body + 1] = place.data[2 * body + 1]
    previous.data[3 * body + 2] = turn.data[3 * body]
  }

  /** Puts a body elsewhere. */
  teleport(body: number, pose: Float64Array): void {
    this.set(body, pose)
    this.resetMotion(body)
    this.hasTarget.data[body] = 0
  }

  /** Sends a kinematic body to x, y, angle. */
  setTarget(body: number, pose: Float64Array): void {
    for (let i = 0; i < 3; i++) this.target.data[3 * body + i] = pose[i]
    this.hasTarget.data[body] = 1
  }

  /** The pose between the last two ticks, as x, y, angle. */
  interpolate(body: number, alpha: number, out: Float64Array): void {
    const { place, turn, previous } = this
    const x = previous.data[3 * body]
    const y = previous.data[3 * body + 1]
    const angle = previous.data[3 * body + 2]
    out[0] = x + (place.data[2 * body] - x) * alpha
    out[1] = y + (place.data[2 * body + 1] - y) * alpha
    out[2] = angle + (turn.data[3 * body] - angle) * alpha
  }

  /**
   * What a kinematic body does in a tick of `dt`, as a velocity: x, y, spin.
   * @returns whether it moves at all
   */
  readKinematicVelocity(body: number, dt: number, out: Float64Array, at: number): boolean {
    const { target, velocity, place, turn } = this
    if (this.hasTarget.data[body] !== 0) {
      out[at] = (target.data[3 * body] - place.data[2 * body]) / dt
      out[at + 1] = (target.data[3 * body + 1] - place.data[2 * body + 1]) / dt
      out[at + 2] = (target.data[3 * body + 2] - turn.data[3 * body]) / dt
    } else for (let i = 0; i < 3; i++) out[at + i] = velocity.data[3 * body + i]
    return out[at] !== 0 || out[at + 1] !== 0 || out[at + 2] !== 0
  }

  /**
   * Moves a kinematic body to its end pose, to the bit where it was told one.
   * @returns whether it moved
   */
  moveKinematic(body: number, dt: number): boolean {
    const { place, turn, velocity, target } = this
    const x = place.data[2 * body]
    const y = place.data[2 * body + 1]
    const angle = turn.data[3 * body]
    const aimed = this.hasTarget.data[body] !== 0
    this.hasTarget.data[body] = 0
    const at = 3 * body
    const toX = aimed ? target.data[at] : x + velocity.data[at] * dt
    const toY = aimed ? target.data[at + 1] : y + velocity.data[at + 1] * dt
    const toAngle = aimed ? target.data[at + 2] : angle + velocity.data[at + 2] * dt
    if (toX === x && toY === y && toAngle === angle) return false
    place.data[2 * body] = toX
    place.data[2 * body + 1] = toY
    this.clampPlace(body)
    if (toAngle !== angle) {
      turn.data[at] = toAngle
      cosSin(turn.data, at)
    }
    return true
  }
}
