/**
 * What the rows of joints are in 3D: see `core/joints/kind.ts`. A row's Jacobian is x, y, z and the turn about them of the one body, then of the
 * other. Each body has the joint's frame: three axes, which are the same for both as they are joined; the first is the axis of the joint.
 */
import {
  AXLE,
  BALL,
  CARRY,
  DISTANCE,
  FIXED,
  HINGE,
  HOLD_FORCE,
  HOLD_TORQUE,
  type JointBook,
  type JointFace,
  LENGTH,
  MAX,
  MIN,
  SETTINGS,
  SLIDE,
  SPRING,
  SWING,
  TURNS,
  WORLD,
} from '../../core/joints/book.ts'
import { JointKind } from '../../core/joints/kind.ts'
import { invert } from '../../core/joints/tree.ts'
import type { Population } from '../../core/state/population.ts'
import type { Column } from '../../core/state/table.ts'
import { atan2, cosSin } from '../../core/util/maths.ts'
import type { Poses } from '../poses.ts'
import { BODY, type BodyRows3, DX, IX, JX, RX, VX, WX } from '../solve/bodyRows.ts'
import type { Dynamics3 } from '../solve/dynamics.ts'

/**
 * Of a joint as the tick begins: from the centre of each body to its anchor, the way between the centres, the frames of the two, and the axis of
 * a wheel about both.
 */
const START = 33
const ARM_A = 0
const ARM_B = 3
const APART = 6
const FRAME_A = 9
const FRAME_B = 18
const WHEEL_A = 27
const WHEEL_B = 30

/** Where things stand in what {@link JointKind3.read} writes: anchors instead of arms. */
export const JOINT_PLACE = { ARM_A, ARM_B, APART, FRAME_A, WHEEL_A, SIZE: START } as const

/** Places of rows, by which their impulses are known. */
const MOTOR = 0
const LOWER = 1
const UPPER = 2
/** A joint with six rows that hold has no motor and no limits. */
const SOFT = 2
const HOLD = 3
const HOLD_ALL = 2

/** Radians of a cone below which it has no side to be measured to. */
const NO_SIDE = 1e-9

interface RowOwner {
  rowOf(body: number): number
  centreOf(body: number, out: Float64Array, at: number): void
}

export class JointKind3<J extends JointFace> extends JointKind<J> {
  /** Where a joint holds each body, about it; of the world, in it. */
  readonly anchors: Column<Float64Array>
  /** The axes of the joint's frame, one after the other, about each body. */
  readonly frames: Column<Float64Array>
  /** The axis of a wheel about each body. */
  readonly wheels: Column<Float64Array>
  private start = new Float64Array(START * 16)
  private readonly centre = new Float64Array(6)
  /** Arms, the way between the anchors, frames and the axes of a wheel: as they are now. */
  private readonly now = new Float64Array(START)
  private readonly axis = new Float64Array(3)
  private readonly across = new Float64Array(6)
  private readonly turned = new Float64Array(3)
  /** An angle; before that its sine and cosine, times a length. */
  private readonly measured = new Float64Array(2)
  private readonly matrixA = new Float64Array(9)
  private readonly matrixB = new Float64Array(9)
  private readonly owner: RowOwner
  private readonly poses: Poses
  private readonly dynamics: Dynamics3

  constructor(
    book: JointBook<J>,
    population: Population<object, object>,
    bodyRows: BodyRows3,
    owner: RowOwner,
    poses: Poses,
    dynamics: Dynamics3,
    unit: number,
  ) {
    super(book, population, bodyRows, owner, { speeds: 6, axes: 3, body: BODY, unit })
    this.owner = owner
    this.poses = poses
    this.dynamics = dynamics
    this.anchors = book.table.f64(6)
    this.frames = book.table.f64(18)
    this.wheels = book.table.f64(6)
  }

  protected override place(index: number, joint: number, a: number, b: number): void {
    if (START * (index + 1) > this.start.length) {
      const wider = new Float64Array(2 * this.start.length)
      wider.set(this.start)
      this.start = wider
    }
    const at = START * index
    const { start, centre } = this
    for (let side = 0; side < 2; side++) this.placeSide(joint, side, side === 0 ? a : b, at)
    for (let k = 0; k < 3; k++) start[at + APART + k] = centre[3 + k] - centre[k]
  }

  /** Writes where a joint is on one of its bodies, and the centre of that to `centre`. */
  private placeSide(joint: number, side: number, body: number, at: number): void {
    const { start, centre, anchors, frames, wheels, dynamics } = this
    const { matrix } = this.poses
    const anchor = 6 * joint + 3 * side
    const arm = at + (side === 0 ? ARM_A : ARM_B)
    const frame = at + (side === 0 ? FRAME_A : FRAME_B)
    const wheel = at + (side === 0 ? WHEEL_A : WHEEL_B)
    if (body === WORLD) {
      for (let k = 0; k < 3; k++) {
        centre[3 * side + k] = anchors.data[anchor + k]
        start[arm + k] = 0
        start[wheel + k] = wheels.data[anchor + k]
      }
      for (let k = 0; k < 9; k++) start[frame + k] = frames.data[18 * joint + 9 * side + k]
      return
    }
    this.owner.centreOf(body, centre, 3 * side)
    for (let i = 0; i < 3; i++) {
      const m = 9 * body + 3 * i
      let reach = 0
      let along = 0
      for (let k = 0; k < 3; k++) {
        reach += matrix.data[m + k] * (anchors.data[anchor + k] - dynamics.centre.data[3 * body + k])
        along += matrix.data[m + k] * wheels.data[anchor + k]
      }
      start[arm + i] = reach
      start[wheel + i] = along
      for (let n = 0; n < 3; n++) {
        const own = 18 * joint + 9 * side + 3 * n
        let sum = 0
        for (let k = 0; k < 3; k++) sum += matrix.data[m + k] * frames.data[own + k]
        start[frame + 3 * n + i] = sum
      }
    }
  }

  protected override writeRows(index: number, joint: number, rowA: number, rowB: number): void {
    const { start, now, bodyRows, ahead } = this
    const { data: bodies } = bodyRows
    const at = START * index
    const a = BODY * rowA
    const b = BODY * rowB
    this.writeTurned(a, this.matrixA)
    this.writeTurned(b, this.matrixB)
    this.turnAll(at, this.matrixA, ARM_A, FRAME_A, WHEEL_A)
    this.turnAll(at, this.matrixB, ARM_B, FRAME_B, WHEEL_B)
    for (let k = 0; k < 3; k++) {
      const moved = bodies[b + DX + k] - bodies[a + DX + k] + ahead * (bodies[b + VX + k] - bodies[a + VX + k])
      now[APART + k] = start[at + APART + k] + moved + now[ARM_B + k] - now[ARM_A + k]
    }
    switch (this.book.type.data[joint]) {
      case HINGE:
        this.turnRows(joint)
        this.openBlock(Infinity)
        this.pointRows(HOLD, false)
        this.alignRows(FRAME_A, FRAME_B, HOLD + 3)
        break
      case BALL:
        this.swingRow(joint)
        this.twistRows(joint)
        this.openBlock(Infinity)
        this.pointRows(HOLD, false)
        break
      case DISTANCE:
        this.distanceRows(joint)
        break
      case SPRING: {
        this.aim()
        this.off[0] -= this.book.settings.data[SETTINGS * joint + LENGTH]
        this.openBlock(Infinity)
        this.lineRow(SOFT, this.axis, 0)
        this.soften()
        break
      }
      case SLIDE:
        if (this.hasMotor(joint)) this.writeLine(this.addMotor(MOTOR, joint, false), now, FRAME_A, 1)
        this.limitsAlong(joint)
        this.openBlock(Infinity)
        this.acrossRows(HOLD)
        this.turnedRows(HOLD + 2, false)
        break
      case AXLE: {
        if (this.hasMotor(joint)) this.writeTurn(this.addMotor(MOTOR, joint, true), now, WHEEL_A, 1)
        this.limitsAlong(joint)
        this.openBlock(Infinity)
        this.writeAlong(FRAME_A)
        this.lineRow(HOLD + 4, now, FRAME_A)
        this.soften()
        this.acrossRows(HOLD)
        this.alignRows(WHEEL_A, WHEEL_B, HOLD + 2)
        break
      }
      case FIXED:
        this.openBlock(Infinity)
        this.pointRows(HOLD_ALL, true)
        this.turnedRows(HOLD_ALL + 3, true)
        break
      case CARRY:
        this.carryRows(joint)
        break
    }
  }

  /** Writes how a row of a body has turned since the tick began, and will turn. */
  private writeTurned(at: number, out: Float64Array): void {
    const { data: bodies } = this.bodyRows
    for (let i = 0; i < 9; i++) out[i] = bodies[at + RX + i]
    out[0] += 1
    out[4] += 1
    out[8] += 1
    if (this.ahead === 0) return
    const { turned } = this
    const h = this.ahead
    const wx = bodies[at + WX] * h
    const wy = bodies[at + WX + 1] * h
    const wz = bodies[at + WX + 2] * h
    const square = wx * wx + wy * wy + wz * wz
    if (square === 0) return
    const angle = Math.sqrt(square)
    turned[0] = angle
    cosSin(turned, 0)
    // Rodrigues: v cos + w x v sin / |w| + w (w . v) (1 - cos) / |w|^2, of each column.
    const s = turned[2] / angle
    const c = (1 - turned[1]) / square
    for (let k = 0; k < 3; k++) {
      const x = out[k]
      const y = out[3 + k]
      const z = out[6 + k]
      const along = c * (wx * x + wy * y + wz * z)
      out[k] = turned[1] * x + s * (wy * z - wz * y) + along * wx
      out[3 + k] = turned[1] * y + s * (wz * x - wx * z) + along * wy
      out[6 + k] = turned[1] * z + s * (wx * y - wy * x) + along * wz
    }
  }

  /** Turns what belongs to one of the two bodies. */
  private turnAll(at: number, matrix: Float64Array, arm: number, frame: number, wheel: number): void {
    this.turnOne(at + arm, matrix, arm)
    for (let n = 0; n < 9; n += 3) this.turnOne(at + frame + n, matrix, frame + n)
    this.turnOne(at + wheel, matrix, wheel)
  }

  private turnOne(from: number, matrix: Float64Array, to: number): void {
    const { start, now } = this
    const x = start[from]
    const y = start[from + 1]
    const z = start[from + 2]
    now[to] = matrix[0] * x + matrix[1] * y + matrix[2] * z
    now[to + 1] = matrix[3] * x + matrix[4] * y + matrix[5] * z
    now[to + 2] = matrix[6] * x + matrix[7] * y + matrix[8] * z
  }

  /** Writes how far the anchors are apart along an axis of the frame. */
  private writeAlong(axis: number): void {
    const { now } = this
    this.off[0] = now[APART] * now[axis] + now[APART + 1] * now[axis + 1] + now[APART + 2] * now[axis + 2]
  }

  private dot(one: number, other: number): number {
    const { now } = this
    return now[one] * now[other] + now[one + 1] * now[other + 1] + now[one + 2] * now[other + 2]
  }

  /** Both anchors are at one place. */
  private pointRows(place: number, soft: boolean): void {
    const { now } = this
    for (let k = 0; k < 3; k++) {
      this.off[0] = now[APART + k]
      const at = this.addRow(place + k, false)
      if (soft) this.soften()
      const { rows } = this
      for (let n = 0; n < 12; n++) rows[at + n] = 0
      rows[at + k] = -1
      rows[at + 6 + k] = 1
      // A direction e at an arm r turns by r x e.
      const next = k === 2 ? 0 : k + 1
      const last = k === 0 ? 2 : k - 1
      rows[at + 3 + next] = -now[ARM_A + last]
      rows[at + 3 + last] = now[ARM_A + next]
      rows[at + 9 + next] = now[ARM_B + last]
      rows[at + 9 + last] = -now[ARM_B + next]
    }
  }

  /** The two anchors stay on one line along the first axis of the frame. */
  private acrossRows(place: number): void {
    this.writeAlong(FRAME_A + 3)
    this.lineRow(place, this.now, FRAME_A + 3)
    this.writeAlong(FRAME_A + 6)
    this.lineRow(place + 1, this.now, FRAME_A + 6)
  }

  /** An axis of the one body stays along that of the other. */
  private alignRows(axisA: number, axisB: number, place: number): void {
    const { now, across } = this
    this.writeAcross(axisA)
    const cx = now[axisA + 1] * now[axisB + 2] - now[axisA + 2] * now[axisB + 1]
    const cy = now[axisA + 2] * now[axisB] - now[axisA] * now[axisB + 2]
    const cz = now[axisA] * now[axisB + 1] - now[axisA + 1] * now[axisB]
    for (let k = 0; k < 2; k++) {
      this.off[0] = cx * across[3 * k] + cy * across[3 * k + 1] + cz * across[3 * k + 2]
      this.writeTurn(this.addRow(place + k, true), across, 3 * k, 1)
    }
  }

  /** Writes two directions across an axis. */
  private writeAcross(axis: number): void {
    const { now, across } = this
    const x = now[axis]
    const y = now[axis + 1]
    const z = now[axis + 2]
    // Across the axis of the world that it is farthest from, always the same way.
    const ax = Math.abs(x)
    const ay = Math.abs(y)
    const az = Math.abs(z)
    let ux = 0
    let uy = 0
    let uz = 0
    if (ax <= ay && ax <= az) {
      uy = -z
      uz = y
    } else if (ay <= az) {
      ux = z
      uz = -x
    } else {
      ux = -y
      uy = x
    }
    const length = Math.sqrt(ux * ux + uy * uy + uz * uz)
    ux /= length
    uy /= length
    uz /= length
    across[0] = ux
    across[1] = uy
    across[2] = uz
    across[3] = y * uz - z * uy
    across[4] = z * ux - x * uz
    across[5] = x * uy - y * ux
  }

  /** The two frames stay turned alike, about each axis of the world. */
  private turnedRows(place: number, soft: boolean): void {
    const { now, axis } = this
    let x = 0
    let y = 0
    let z = 0
    // Half the sum of what turns each axis of the one onto that of the other.
    for (let n = 0; n < 9; n += 3) {
      const a = FRAME_A + n
      const b = FRAME_B + n
      x += (now[a + 1] * now[b + 2] - now[a + 2] * now[b + 1]) / 2
      y += (now[a + 2] * now[b] - now[a] * now[b + 2]) / 2
      z += (now[a] * now[b + 1] - now[a + 1] * now[b]) / 2
    }
    for (let k = 0; k < 3; k++) {
      this.off[0] = k === 0 ? x : k === 1 ? y : z
      axis[0] = axis[1] = axis[2] = 0
      axis[k] = 1
      this.writeTurn(this.addRow(place + k, true), axis, 0, 1)
      if (soft) this.soften()
    }
  }

  /** The motor and the limits of a turn about the axis. */
  private turnRows(joint: number): void {
    const { now } = this
    if (this.hasMotor(joint)) this.writeTurn(this.addMotor(MOTOR, joint, true), now, FRAME_A, 1)
    const { data } = this.book.settings
    const at = SETTINGS * joint
    if (data[at + MIN] === -Infinity && data[at + MAX] === Infinity) return
    this.writeAngle(joint)
    this.limitsOfTurn(joint, now, FRAME_A)
  }

  /** The limits of a turn that stands in `measured`, about an axis. */
  private limitsOfTurn(joint: number, from: Float64Array, axis: number): void {
    const { off, measured } = this
    const { data } = this.book.settings
    const at = SETTINGS * joint
    if (data[at + MIN] > -Infinity) {
      off[0] = measured[0] - data[at + MIN]
      this.writeTurn(this.addLimit(LOWER, true), from, axis, 1)
    }
    if (data[at + MAX] < Infinity) {
      off[0] = data[at + MAX] - measured[0]
      this.writeTurn(this.addLimit(UPPER, true), from, axis, -1)
    }
  }

  private limitsAlong(joint: number): void {
    const { now, off } = this
    const { data } = this.book.settings
    const at = SETTINGS * joint
    if (data[at + MIN] > -Infinity) {
      this.writeAlong(FRAME_A)
      off[0] -= data[at + MIN]
      this.writeLine(this.addLimit(LOWER, false), now, FRAME_A, 1)
    }
    if (data[at + MAX] < Infinity) {
      this.writeAlong(FRAME_A)
      off[0] = data[at + MAX] - off[0]
      this.writeLine(this.addLimit(UPPER, false), now, FRAME_A, -1)
    }
  }

  /** The axis of the second stays within a cone about that of the first. */
  private swingRow(joint: number): void {
    const most = this.book.settings.data[SETTINGS * joint + SWING]
    if (!(most < Infinity)) return
    const { now, axis } = this
    const x = now[FRAME_A + 1] * now[FRAME_B + 2] - now[FRAME_A + 2] * now[FRAME_B + 1]
    const y = now[FRAME_A + 2] * now[FRAME_B] - now[FRAME_A] * now[FRAME_B + 2]
    const z = now[FRAME_A] * now[FRAME_B + 1] - now[FRAME_A + 1] * now[FRAME_B]
    const sine = Math.sqrt(x * x + y * y + z * z)
    const swing = atan2(sine, this.dot(FRAME_A, FRAME_B))
    for (let k = 0; k < 3; k++) {
      const part = k === 0 ? x : k === 1 ? y : z
      axis[k] = sine > NO_SIDE ? part / sine : now[FRAME_A + 3 + k]
    }
    this.off[0] = most - swing
    this.writeTurn(this.addLimit(MOTOR, true), axis, 0, -1)
  }

  /** How far the second is twisted about the axis stays within limits. */
  private twistRows(joint: number): void {
    const { data } = this.book.settings
    if (data[SETTINGS * joint + MIN] === -Infinity && data[SETTINGS * joint + MAX] === Infinity) return
    const { now, axis } = this
    this.writeTwist(joint)
    // About the middle of the two axes.
    let square = 0
    for (let k = 0; k < 3; k++) {
      axis[k] = now[FRAME_A + k] + now[FRAME_B + k]
      square += axis[k] * axis[k]
    }
    const length = Math.sqrt(square)
    for (let k = 0; k < 3; k++) axis[k] = length > NO_SIDE ? axis[k] / length : now[FRAME_A + k]
    this.limitsOfTurn(joint, axis, 0)
  }

  private distanceRows(joint: number): void {
    this.aim()
    const { axis, off } = this
    const { data } = this.book.settings
    const at = SETTINGS * joint
    const min = data[at + MIN]
    const max = data[at + MAX]
    if (min === max) {
      this.openBlock(Infinity)
      off[0] -= min
      this.lineRow(HOLD, axis, 0)
      return
    }
    const apart = off[0]
    if (min > 0) {
      off[0] = apart - min
      this.writeLine(this.addLimit(LOWER, false), axis, 0, 1)
    }
    if (max < Infinity) {
      off[0] = max - apart
      this.writeLine(this.addLimit(UPPER, false), axis, 0, -1)
    }
  }

  /** A hand: softly towards the target, with so much force and torque at most. */
  private carryRows(joint: number): void {
    const { settings, flags } = this.book
    const at = SETTINGS * joint
    if ((flags.data[joint] & TURNS) !== 0) {
      this.openBlock(settings.data[at + HOLD_TORQUE] * this.h)
      this.turnedRows(HOLD_ALL + 3, true)
    }
    this.openBlock(settings.data[at + HOLD_FORCE] * this.h)
    this.pointRows(HOLD_ALL, true)
  }

  /** Writes the direction from one anchor to the other to `axis`, and how far these are apart. */
  private aim(): void {
    const { now, axis } = this
    const x = now[APART]
    const y = now[APART + 1]
    const z = now[APART + 2]
    const length = Math.sqrt(x * x + y * y + z * z)
    axis[0] = length > 0 ? x / length : 0
    axis[1] = length > 0 ? y / length : 1
    axis[2] = length > 0 ? z / length : 0
    this.off[0] = length
  }

  private lineRow(place: number, from: Float64Array, direction: number): void {
    this.writeLine(this.addRow(place, false), from, direction, 1)
  }

  /** How the way between the anchors changes along a direction that is fixed to the first body. */
  private writeLine(at: number, from: Float64Array, direction: number, sign: number): void {
    const { rows, now } = this
    const x = sign * from[direction]
    const y = sign * from[direction + 1]
    const z = sign * from[direction + 2]
    const ax = now[ARM_A] + now[APART]
    const ay = now[ARM_A + 1] + now[APART + 1]
    const az = now[ARM_A + 2] + now[APART + 2]
    rows[at] = -x
    rows[at + 1] = -y
    rows[at + 2] = -z
    rows[at + 3] = -(ay * z - az * y)
    rows[at + 4] = -(az * x - ax * z)
    rows[at + 5] = -(ax * y - ay * x)
    rows[at + 6] = x
    rows[at + 7] = y
    rows[at + 8] = z
    rows[at + 9] = now[ARM_B + 1] * z - now[ARM_B + 2] * y
    rows[at + 10] = now[ARM_B + 2] * x - now[ARM_B] * z
    rows[at + 11] = now[ARM_B] * y - now[ARM_B + 1] * x
  }

  private writeTurn(at: number, from: Float64Array, axis: number, sign: number): void {
    const { rows } = this
    for (let k = 0; k < 3; k++) {
      rows[at + k] = rows[at + 6 + k] = 0
      rows[at + 3 + k] = -sign * from[axis + k]
      rows[at + 9 + k] = sign * from[axis + k]
    }
  }

  protected override writeAnswer(row: number, from: number, to: number): void {
    const { rows } = this
    const { data: bodies } = this.bodyRows
    const at = BODY * row
    for (let k = 0; k < 3; k++) rows[to + k] = rows[from + k] * bodies[at + IX + k]
    const x = rows[from + 3]
    const y = rows[from + 4]
    const z = rows[from + 5]
    const j = at + JX
    rows[to + 3] = bodies[j] * x + bodies[j + 3] * y + bodies[j + 4] * z
    rows[to + 4] = bodies[j + 3] * x + bodies[j + 1] * y + bodies[j + 5] * z
    rows[to + 5] = bodies[j + 4] * x + bodies[j + 5] * y + bodies[j + 2] * z
  }

  override isFree(row: number): boolean {
    const { data } = this.bodyRows
    const at = BODY * row
    for (let k = 0; k < 3; k++) if (data[at + IX + k] > 0 || data[at + JX + k] > 0) return true
    return false
  }

  override writeMass(row: number, out: Float64Array, at: number): void {
    const { data } = this.bodyRows
    const { matrixA: inverse } = this
    const body = BODY * row
    for (let k = 0; k < 36; k++) out[at + k] = 0
    const j = body + JX
    const whole = data[j] + data[j + 1] + data[j + 2]
    // What is locked is as good as immovable.
    const least = whole > 0 ? whole * LEAST_ANSWER : 1 / IMMOVABLE
    for (let i = 0; i < 3; i++) {
      out[at + 7 * i] = data[body + IX + i] > 0 ? 1 / data[body + IX + i] : IMMOVABLE
      for (let k = 0; k < 3; k++) inverse[3 * i + k] = data[j + (i === k ? i : i + k + 2)]
      inverse[4 * i] += least
    }
    invert(inverse, 0, 3, 3)
    for (let i = 0; i < 3; i++) for (let k = 0; k < 3; k++) out[at + 6 * (3 + i) + 3 + k] = inverse[3 * i + k]
  }

  protected override measureAfter(joint: number): void {
    const type = this.book.type.data[joint]
    if (type !== HINGE && type !== BALL) return
    this.read(joint, this.now)
    this.writeAngle(joint)
    this.book.lastAngle.data[joint] = this.measured[0]
  }

  /** Writes how far the second is turned about the axis against the first, of a ball how far it is twisted, to `measured`. */
  private writeAngle(joint: number): void {
    if (this.book.type.data[joint] === BALL) {
      this.writeTwist(joint)
      return
    }
    const { now, measured } = this
    let sine = 0
    let cosine = 0
    for (let k = 0; k < 3; k++) {
      sine += now[FRAME_B + 3 + k] * now[FRAME_A + 6 + k]
      cosine += now[FRAME_B + 3 + k] * now[FRAME_A + 3 + k]
    }
    measured[0] = sine
    measured[1] = cosine
    this.nearLast(joint)
  }

  /** Writes the twist of the second about the axis, when the swing between the two axes is taken back the shortest way. */
  private writeTwist(joint: number): void {
    const { now, measured } = this
    let sine = 0
    let cosine = 0
    for (let k = 0; k < 3; k++) {
      sine += now[FRAME_B + 3 + k] * now[FRAME_A + 6 + k] - now[FRAME_B + 6 + k] * now[FRAME_A + 3 + k]
      cosine += now[FRAME_B + 3 + k] * now[FRAME_A + 3 + k] + now[FRAME_B + 6 + k] * now[FRAME_A + 6 + k]
    }
    measured[0] = sine
    measured[1] = cosine
    this.nearLast(joint)
  }

  /** Makes of a sine and a cosine in `measured` that of all angles that are the same which is nearest to the last. */
  private nearLast(joint: number): void {
    const { measured } = this
    const angle = atan2(measured[0], measured[1])
    const turn = 2 * Math.PI
    measured[0] = angle + turn * Math.round((this.book.lastAngle.data[joint] - angle) / turn)
  }

  /** Writes where the joint is in the world now, as in {@link START}, without the arms: anchors in their place. */
  read(joint: number, out: Float64Array): void {
    const { anchors, frames, wheels } = this
    const { place } = this.poses
    for (let side = 0; side < 2; side++) {
      const body = (side === 0 ? this.book.one : this.book.two).data[joint]
      const arm = side === 0 ? ARM_A : ARM_B
      this.readOne(body, anchors.data, 6 * joint + 3 * side, out, arm)
      if (body !== WORLD) for (let i = 0; i < 3; i++) out[arm + i] += place.data[3 * body + i]
      for (let n = 0; n < 9; n += 3) {
        this.readOne(body, frames.data, 18 * joint + 9 * side + n, out, (side === 0 ? FRAME_A : FRAME_B) + n)
      }
      this.readOne(body, wheels.data, 6 * joint + 3 * side, out, side === 0 ? WHEEL_A : WHEEL_B)
    }
    for (let i = 0; i < 3; i++) out[APART + i] = out[ARM_B + i] - out[ARM_A + i]
  }

  /** Writes a vector about a body as one of the world. */
  private readOne(body: number, from: Float64Array, at: number, out: Float64Array, to: number): void {
    const { matrix } = this.poses
    for (let i = 0; i < 3; i++) {
      if (body === WORLD) out[to + i] = from[at + i]
      else {
        const m = 9 * body + 3 * i
        out[to + i] = matrix.data[m] * from[at] + matrix.data[m + 1] * from[at + 1] + matrix.data[m + 2] * from[at + 2]
      }
    }
  }

  /** Radians by which the second is turned about the axis against the first: not wrapped. */
  angleOf(joint: number): number {
    this.read(joint, this.now)
    this.writeAngle(joint)
    return this.measured[0]
  }

  /** Radians between the axes of the two. */
  swingOf(joint: number): number {
    const { now } = this
    this.read(joint, now)
    const x = now[FRAME_A + 1] * now[FRAME_B + 2] - now[FRAME_A + 2] * now[FRAME_B + 1]
    const y = now[FRAME_A + 2] * now[FRAME_B] - now[FRAME_A] * now[FRAME_B + 2]
    const z = now[FRAME_A] * now[FRAME_B + 1] - now[FRAME_A + 1] * now[FRAME_B]
    return atan2(Math.sqrt(x * x + y * y + z * z), this.dot(FRAME_A, FRAME_B))
  }
}

/** Stands for the mass along what a body is locked in, and the part of an answer that stands for none. */
const IMMOVABLE = 1e30
const LEAST_ANSWER = 1e-12
