/** Where bodies are and how they move: now, before the last step, and where they were told to be. */

import type { Column, Table } from '../core/state/table.ts'
import { COORDINATE } from '../core/util/limits.ts'
import { writeAtan2 } from '../core/util/maths.ts'
import { multiply, normalise, writeFrame, writeTurn } from './vector.ts'

/** Numbers of a pose as it is kept: x, y, z, then the quaternion. */
export const KEPT = 7

export class Poses {
  readonly axes = 3
  readonly kept = KEPT
  /** Place of a body's origin: x, y, z. */
  readonly place: Column<Float64Array>
  /** Rotation: unit quaternion x, y, z, w, and its matrix row by row. */
  readonly rotation: Column<Float64Array>
  readonly matrix: Column<Float64Array>
  /** Velocity in lengths a second, and spin: the axis, as long as the radians a second. */
  readonly velocity: Column<Float64Array>
  /** What a body that was led did in the last step, as a velocity; with a flag. */
  readonly done: Column<Float64Array>
  readonly isLed: Column<Int32Array>
  /** Place and quaternion before the last step, for drawing between ticks. */
  readonly previous: Column<Float64Array>
  /** Where a kinematic body is to be after the next step; with a flag. */
  readonly target: Column<Float64Array>
  readonly hasTarget: Column<Int32Array>
  /** The turn of the last step, not wrapped: the axis, as long as the radians. */
  readonly swept: Column<Float64Array>
  private readonly turn = new Float64Array(3)
  private readonly quaternion = new Float64Array(4)

  /** How often in this step a speed or a place was clamped to its limit. */
  held = 0

  constructor(bodies: Table) {
    this.place = bodies.f64(3)
    this.rotation = bodies.f64(4)
    this.matrix = bodies.f64(9)
    this.velocity = bodies.f64(6)
    this.done = bodies.f64(6)
    this.isLed = bodies.i32()
    this.previous = bodies.f64(KEPT)
    this.target = bodies.f64(KEPT)
    this.hasTarget = bodies.i32()
    this.swept = bodies.f64(3)
  }

  /** @param pose place and unit quaternion */
  set(body: number, pose: Float64Array): void {
    for (let i = 0; i < 3; i++) this.place.data[3 * body + i] = pose[i]
    for (let i = 0; i < 4; i++) this.rotation.data[4 * body + i] = pose[3 + i]
    writeFrame(pose, 3, this.matrix.data, 9 * body)
  }

  /** No way to draw between ticks, and none within the next: the body is simply here. */
  resetMotion(body: number): void {
    const { previous, place, rotation, swept } = this
    for (let i = 0; i < 3; i++) swept.data[3 * body + i] = 0
    for (let i = 0; i < 3; i++) previous.data[KEPT * body + i] = place.data[3 * body + i]
    for (let i = 0; i < 4; i++) previous.data[KEPT * body + 3 + i] = rotation.data[4 * body + i]
  }

  /** Writes the pose of a body: place and quaternion. */
  keep(body: number, out: Float64Array): void {
    for (let i = 0; i < 3; i++) out[i] = this.place.data[3 * body + i]
    for (let i = 0; i < 4; i++) out[3 + i] = this.rotation.data[4 * body + i]
  }

  /** Turns a body about its origin: by an axis, as long as the radians. */
  turnBy(body: number, turn: Float64Array): void {
    const { rotation, quaternion } = this
    writeTurn(turn, 0, quaternion, 0)
    multiply(quaternion, 0, rotation.data, 4 * body, rotation.data, 4 * body)
    normalise(rotation.data, 4 * body)
    writeFrame(rotation.data, 4 * body, this.matrix.data, 9 * body)
  }

  /** Takes down what a body that was led did in this step. */
  noteDone(body: number, dt: number): void {
    const { done, place, previous, swept, isLed } = this
    isLed.data[body] = 1
    this.measureTurn(body)
    for (let i = 0; i < 3; i++) {
      done.data[6 * body + i] = (place.data[3 * body + i] - previous.data[KEPT * body + i]) / dt
      done.data[6 * body + 3 + i] = swept.data[3 * body + i] / dt
    }
  }

  /** A body that was led goes on by itself, as it did. */
  takeDone(body: number): void {
    if (this.isLed.data[body] === 0) return
    this.isLed.data[body] = 0
    for (let k = 6 * body; k < 6 * (body + 1); k++) this.velocity.data[k] = this.done.data[k]
  }

  /** How a body moves, as it reads: what was led by what it did. */
  motionOf(body: number): Float64Array {
    return this.isLed.data[body] !== 0 ? this.done.data : this.velocity.data
  }

  /** Puts a body elsewhere. */
  teleport(body: number, pose: Float64Array): void {
    this.set(body, pose)
    this.resetMotion(body)
    this.hasTarget.data[body] = 0
  }

  setTarget(body: number, pose: Float64Array): void {
    for (let i = 0; i < KEPT; i++) this.target.data[KEPT * body + i] = pose[i]
    this.hasTarget.data[body] = 1
  }

  /** The pose between the last two ticks: place and quaternion, the shorter way round. */
  interpolate(body: number, alpha: number, out: Float64Array): void {
    const { place, rotation, previous } = this
    for (let i = 0; i < 3; i++) {
      const from = previous.data[KEPT * body + i]
      out[i] = alpha === 1 ? place.data[3 * body + i] : from + (place.data[3 * body + i] - from) * alpha
    }
    let same = 0
    for (let i = 0; i < 4; i++) same += previous.data[KEPT * body + 3 + i] * rotation.data[4 * body + i]
    for (let i = 0; i < 4; i++) {
      const from = previous.data[KEPT * body + 3 + i]
      const to = rotation.data[4 * body + i]
      out[3 + i] = alpha === 1 ? to : from + ((same < 0 ? -to : to) - from) * alpha
    }
    if (alpha !== 1) normalise(out, 3)
  }

  /** Holds a place within its bounds; what moves a body out of them is taken away. */
  clampPlace(body: number): void {
    const { place, velocity } = this
    for (let k = 0; k < 3; k++) {
      const value = place.data[3 * body + k]
      if (value <= COORDINATE && value >= -COORDINATE) continue
      place.data[3 * body + k] = value > 0 ? COORDINATE : -COORDINATE
      velocity.data[6 * body + k] = 0
      this.held++
    }
  }

  /** Holds a velocity within its bounds: along each axis, and the spin by its length. */
  clampSpeed(body: number, bounds: Float64Array): void {
    const speed = bounds[0]
    const spin = bounds[1]
    const { data } = this.velocity
    const at = 6 * body
    let held = false
    for (let k = at; k < at + 3; k++) {
      if (data[k] <= speed && data[k] >= -speed) continue
      data[k] = data[k] > 0 ? speed : -speed
      held = true
    }
    const turning = Math.sqrt(data[at + 3] * data[at + 3] + data[at + 4] * data[at + 4] + data[at + 5] * data[at + 5])
    if (!(turning <= spin)) {
      for (let k = at + 3; k < at + 6; k++) data[k] = turning < Infinity ? (data[k] * spin) / turning : 0
      held = true
    }
    if (held) this.held++
  }

  /**
   * What a kinematic body does in a tick of `dt`, as a velocity: along the axes, then its spin.
   * @returns whether it moves at all
   */
  readKinematicVelocity(body: number, dt: number, out: Float64Array, at: number): boolean {
    const { target, velocity, place, rotation, quaternion } = this
    if (this.hasTarget.data[body] === 0) {
      for (let i = 0; i < 6; i++) out[at + i] = velocity.data[6 * body + i]
    } else {
      const from = KEPT * body
      for (let i = 0; i < 3; i++) out[at + i] = (target.data[from + i] - place.data[3 * body + i]) / dt
      for (let i = 0; i < 4; i++) quaternion[i] = i < 3 ? -rotation.data[4 * body + i] : rotation.data[4 * body + i]
      multiply(target.data, from + 3, quaternion, 0, quaternion, 0)
      writeAngle(quaternion, out, at + 3)
      for (let i = 3; i < 6; i++) out[at + i] /= dt
    }
    for (let i = 0; i < 6; i++) if (out[at + i] !== 0) return true
    return false
  }

  /**
   * Moves a kinematic body to its end pose, to the bit where it was told one.
   * @returns whether it moved
   */
  moveKinematic(body: number, dt: number): boolean {
    const { place, rotation, velocity, target, turn, quaternion } = this
    const at = KEPT * body
    let moved = false
    if (this.hasTarget.data[body] !== 0) {
      this.hasTarget.data[body] = 0
      for (let i = 0; i < 3; i++) if (target.data[at + i] !== place.data[3 * body + i]) moved = true
      for (let i = 0; i < 4; i++) if (target.data[at + 3 + i] !== rotation.data[4 * body + i]) moved = true
      if (moved) {
        this.set(body, target.data.subarray(at, at + KEPT))
        this.measureTurn(body)
      }
      return moved
    }
    for (let i = 0; i < 3; i++) {
      const step = velocity.data[6 * body + i] * dt
      if (step !== 0) moved = true
      place.data[3 * body + i] += step
      turn[i] = velocity.data[6 * body + 3 + i] * dt
    }
    this.clampPlace(body)
    if (turn[0] === 0 && turn[1] === 0 && turn[2] === 0) return moved
    for (let i = 0; i < 3; i++) this.swept.data[3 * body + i] = turn[i]
    writeTurn(turn, 0, quaternion, 0)
    multiply(quaternion, 0, rotation.data, 4 * body, rotation.data, 4 * body)
    normalise(rotation.data, 4 * body)
    writeFrame(rotation.data, 4 * body, this.matrix.data, 9 * body)
    return true
  }

  /** Writes by how many radians a body has turned in the last step, and how far it went. */
  readStep(body: number, out: Float64Array): void {
    const { data } = this.swept
    const at = 3 * body
    out[0] = Math.sqrt(data[at] * data[at] + data[at + 1] * data[at + 1] + data[at + 2] * data[at + 2])
    let square = 0
    for (let k = 0; k < 3; k++) {
      const gone = this.place.data[at + k] - this.previous.data[KEPT * body + k]
      square += gone * gone
    }
    out[1] = Math.sqrt(square)
  }

  /** The shorter turn from the rotation before the step to the one after it. */
  measureTurn(body: number): void {
    const { previous, rotation, swept, quaternion } = this
    const at = KEPT * body + 3
    for (let i = 0; i < 4; i++) quaternion[i] = i < 3 ? -previous.data[at + i] : previous.data[at + i]
    multiply(rotation.data, 4 * body, quaternion, 0, quaternion, 0)
    writeAngle(quaternion, swept.data, 3 * body)
  }
}

const ratio = new Float64Array(2)

/** Writes the turn of a quaternion the shorter way round: the axis, as long as the radians. */
export function writeAngle(q: Float64Array, out: Float64Array, at: number): void {
  const sign = q[3] < 0 ? -1 : 1
  let square = 0
  for (let i = 0; i < 3; i++) square += q[i] * q[i]
  const sine = Math.sqrt(square)
  ratio[0] = sine
  ratio[1] = sign * q[3]
  writeAtan2(ratio)
  const angle = 2 * ratio[0]
  for (let i = 0; i < 3; i++) out[at + i] = sine > 0 ? (sign * angle * q[i]) / sine : 0
}
