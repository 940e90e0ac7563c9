/** What the rows of joints are in 2D: see `core/joints/kind.ts`. A row's Jacobian is x, y and turn of the one body, then of the other. */
import {
  AXLE,
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
  TURNS,
  WORLD,
} from '../../core/joints/book.ts'
import { JointKind } from '../../core/joints/kind.ts'
import type { Population } from '../../core/state/population.ts'
import type { Column } from '../../core/state/table.ts'
import { cosSin } from '../../core/util/maths.ts'
import type { Poses } from '../poses.ts'
import { BODY, type BodyRows2, DX, DY, IX, SPIN, TURN, VX, VY } from '../solve/bodyRows.ts'
import type { Dynamics } from '../solve/dynamics.ts'

/** Of a joint as the tick begins: from the centre of each body to its anchor, the way between the centres, the axis, the turn between the two. */
const START = 9
const ARM_A = 0
const ARM_B = 2
const APART = 4
const AXIS = 6
const ANGLE = 8

/** Places of rows, by which their impulses are known. */
const MOTOR = 0
const LOWER = 1
const UPPER = 2
const SOFT = 3
const HOLD = 4

/** Stands for the mass along what a body is locked in. */
const IMMOVABLE = 1e30

interface RowOwner {
  rowOf(body: number): number
  centreOf(body: number, out: Float64Array, at: number): void
}

export class JointKind2<J extends JointFace> extends JointKind<J> {
  /** Where a joint holds each body, about it; of the world, in it. */
  readonly anchors: Column<Float64Array>
  /** The axis of a slide, about the first body. */
  readonly axis: Column<Float64Array>
  /** How much further the second body was turned than the first when they were joined. */
  readonly turn: Column<Float64Array>
  private start = new Float64Array(START * 16)
  private readonly centre = new Float64Array(4)
  private readonly turned = new Float64Array(3)
  /** The arms of the two, the way from the one anchor to the other, the axis, the turn: as they are now. */
  private readonly now = new Float64Array(9)
  private readonly owner: RowOwner
  private readonly poses: Poses
  private readonly dynamics: Dynamics

  constructor(
    book: JointBook<J>,
    population: Population<object, object>,
    bodyRows: BodyRows2,
    owner: RowOwner,
    poses: Poses,
    dynamics: Dynamics,
    unit: number,
  ) {
    super(book, population, bodyRows, owner, { speeds: 3, axes: 2, body: BODY, unit })
    this.owner = owner
    this.poses = poses
    this.dynamics = dynamics
    this.anchors = book.table.f64(4)
    this.axis = book.table.f64(2)
    this.turn = book.table.f64()
  }

  protected override place(index: number, joint: number, a: number, b: number): void {
    if (START * (index + 1) > this.start.length) {
      const wider = new Float64Array(2 * this.start.length)
      wider.set(this.start)
      this.start = wider
    }
    const at = START * index
    const { start, centre, poses } = this
    this.arm(joint, 0, a, at + ARM_A)
    this.arm(joint, 2, b, at + ARM_B)
    start[at + APART] = centre[2] - centre[0]
    start[at + APART + 1] = centre[3] - centre[1]
    const x = this.axis.data[2 * joint]
    const y = this.axis.data[2 * joint + 1]
    const cos = a === WORLD ? 1 : poses.turn.data[3 * a + 1]
    const sin = a === WORLD ? 0 : poses.turn.data[3 * a + 2]
    start[at + AXIS] = cos * x - sin * y
    start[at + AXIS + 1] = sin * x + cos * y
    const angleA = a === WORLD ? 0 : poses.turn.data[3 * a]
    const angleB = b === WORLD ? 0 : poses.turn.data[3 * b]
    start[at + ANGLE] = angleB - angleA - this.turn.data[joint]
  }

  /** Writes the centre of a body to `centre`, and the arm from there to its anchor. */
  private arm(joint: number, side: number, body: number, to: number): void {
    const { start, centre, poses, dynamics } = this
    const x = this.anchors.data[4 * joint + side]
    const y = this.anchors.data[4 * joint + side + 1]
    if (body === WORLD) {
      centre[side] = x
      centre[side + 1] = y
      start[to] = start[to + 1] = 0
      return
    }
    this.owner.centreOf(body, centre, side)
    const cos = poses.turn.data[3 * body + 1]
    const sin = poses.turn.data[3 * body + 2]
    const dx = x - dynamics.centre.data[2 * body]
    const dy = y - dynamics.centre.data[2 * body + 1]
    start[to] = cos * dx - sin * dy
    start[to + 1] = sin * dx + cos * dy
  }

  protected override writeRows(index: number, joint: number, rowA: number, rowB: number): void {
    const { start, now, bodyRows, turned } = this
    const { data: bodies } = bodyRows
    const at = START * index
    const a = BODY * rowA
    const b = BODY * rowB
    const { ahead } = this
    turned[0] = bodies[a + TURN] + ahead * bodies[a + SPIN]
    cosSin(turned, 0)
    const cosA = turned[1]
    const sinA = turned[2]
    now[0] = cosA * start[at + ARM_A] - sinA * start[at + ARM_A + 1]
    now[1] = sinA * start[at + ARM_A] + cosA * start[at + ARM_A + 1]
    now[6] = cosA * start[at + AXIS] - sinA * start[at + AXIS + 1]
    now[7] = sinA * start[at + AXIS] + cosA * start[at + AXIS + 1]
    turned[0] = bodies[b + TURN] + ahead * bodies[b + SPIN]
    cosSin(turned, 0)
    now[2] = turned[1] * start[at + ARM_B] - turned[2] * start[at + ARM_B + 1]
    now[3] = turned[2] * start[at + ARM_B] + turned[1] * start[at + ARM_B + 1]
    now[4] =
      start[at + APART] + bodies[b + DX] - bodies[a + DX] + now[2] - now[0] + ahead * (bodies[b + VX] - bodies[a + VX])
    now[5] =
      start[at + APART + 1] +
      bodies[b + DY] -
      bodies[a + DY] +
      now[3] -
      now[1] +
      ahead * (bodies[b + VY] - bodies[a + VY])
    const turning = ahead * (bodies[b + SPIN] - bodies[a + SPIN])
    now[8] = start[at + ANGLE] + bodies[b + TURN] - bodies[a + TURN] + turning
    switch (this.book.type.data[joint]) {
      case HINGE:
        this.turnRows(joint)
        this.openBlock(Infinity)
        this.pointRows(false)
        break
      case DISTANCE:
        this.distanceRows(joint)
        break
      case SPRING:
        this.springRow(joint)
        break
      case SLIDE:
        this.slideRows(joint)
        this.openBlock(Infinity)
        this.acrossRow()
        this.turnRow(HOLD + 1)
        break
      case AXLE:
        if (this.hasMotor(joint)) this.writeTurn(this.addMotor(MOTOR, joint, true), 1)
        this.limitsAlong(joint)
        this.openBlock(Infinity)
        this.writeAlong()
        this.axisRow(SOFT)
        this.soften()
        this.acrossRow()
        break
      case FIXED:
        this.openBlock(Infinity)
        this.pointRows(true)
        this.turnRow(HOLD + 2)
        this.soften()
        break
      case CARRY:
        this.carryRows(joint)
        break
    }
  }

  /** Writes how far the anchors are apart along the axis. */
  private writeAlong(): void {
    const { now } = this
    this.off[0] = now[4] * now[6] + now[5] * now[7]
  }

  /** The anchors stay on one line along the axis. */
  private acrossRow(): void {
    const { now, off } = this
    off[0] = now[5] * now[6] - now[4] * now[7]
    const at = this.addRow(HOLD, false)
    const x = now[6]
    const y = now[7]
    now[6] = -y
    now[7] = x
    this.writeLine(at, 1)
    now[6] = x
    now[7] = y
  }

  /** The motor and the limits of a turn. */
  private turnRows(joint: number): void {
    if (this.hasMotor(joint)) this.writeTurn(this.addMotor(MOTOR, joint, true), 1)
    const { now, off } = this
    const { data } = this.book.settings
    const at = SETTINGS * joint
    if (data[at + MIN] > -Infinity) {
      off[0] = now[8] - data[at + MIN]
      this.writeTurn(this.addLimit(LOWER, true), 1)
    }
    if (data[at + MAX] < Infinity) {
      off[0] = data[at + MAX] - now[8]
      this.writeTurn(this.addLimit(UPPER, true), -1)
    }
  }

  /** The motor and the limits of a way along the axis. */
  private slideRows(joint: number): void {
    if (this.hasMotor(joint)) this.writeLine(this.addMotor(MOTOR, joint, false), 1)
    this.limitsAlong(joint)
  }

  private limitsAlong(joint: number): void {
    const { off } = this
    const { data } = this.book.settings
    const at = SETTINGS * joint
    if (data[at + MIN] > -Infinity) {
      this.writeAlong()
      off[0] -= data[at + MIN]
      this.writeLine(this.addLimit(LOWER, false), 1)
    }
    if (data[at + MAX] < Infinity) {
      this.writeAlong()
      off[0] = data[at + MAX] - off[0]
      this.writeLine(this.addLimit(UPPER, false), -1)
    }
  }

  /** Both anchors are at one place. */
  private pointRows(soft: boolean): void {
    const { now } = this
    for (let k = 0; k < 2; k++) {
      this.off[0] = now[4 + k]
      const at = this.addRow(HOLD + k, false)
      if (soft) this.soften()
      const { rows } = this
      rows[at] = k === 0 ? -1 : 0
      rows[at + 1] = k === 0 ? 0 : -1
      rows[at + 2] = k === 0 ? now[1] : -now[0]
      rows[at + 3] = k === 0 ? 1 : 0
      rows[at + 4] = k === 0 ? 0 : 1
      rows[at + 5] = k === 0 ? -now[3] : now[2]
    }
  }

  private distanceRows(joint: number): void {
    this.aim()
    const { off } = this
    const { data } = this.book.settings
    const at = SETTINGS * joint
    const min = data[at + MIN]
    const max = data[at + MAX]
    if (min === max) {
      this.openBlock(Infinity)
      off[0] -= min
      this.axisRow(HOLD)
      return
    }
    const apart = off[0]
    if (min > 0) {
      off[0] = apart - min
      this.writeLine(this.addLimit(LOWER, false), 1)
    }
    if (max < Infinity) {
      off[0] = max - apart
      this.writeLine(this.addLimit(UPPER, false), -1)
    }
  }

  private springRow(joint: number): void {
    this.aim()
    this.off[0] -= this.book.settings.data[SETTINGS * joint + LENGTH]
    this.openBlock(Infinity)
    this.axisRow(SOFT)
    this.soften()
  }

  /** A hand: softly towards the target, with so much force and torque at most. */
  private carryRows(joint: number): void {
    const { settings, flags } = this.book
    const at = SETTINGS * joint
    if ((flags.data[joint] & TURNS) !== 0) {
      this.openBlock(settings.data[at + HOLD_TORQUE] * this.h)
      this.turnRow(HOLD + 2)
      this.soften()
    }
    this.openBlock(settings.data[at + HOLD_FORCE] * this.h)
    this.pointRows(true)
  }

  /** Makes the axis that from one anchor to the other, and writes how far these are apart. */
  private aim(): void {
    const { now, off } = this
    const length = Math.sqrt(now[4] * now[4] + now[5] * now[5])
    now[6] = length > 0 ? now[4] / length : 0
    now[7] = length > 0 ? now[5] / length : 1
    off[0] = length
  }

  private axisRow(place: number): void {
    this.writeLine(this.addRow(place, false), 1)
  }

  private turnRow(place: number): void {
    this.off[0] = this.now[8]
    this.writeTurn(this.addRow(place, true), 1)
  }

  /** How the way between the anchors changes along the axis, or against it: that is fixed to the first body. */
  private writeLine(at: number, sign: number): void {
    const { rows, now } = this
    const x = sign * now[6]
    const y = sign * now[7]
    const armX = now[0] + now[4]
    const armY = now[1] + now[5]
    rows[at] = -x
    rows[at + 1] = -y
    rows[at + 2] = -(armX * y - armY * x)
    rows[at + 3] = x
    rows[at + 4] = y
    rows[at + 5] = now[2] * y - now[3] * x
  }

  private writeTurn(at: number, sign: number): void {
    const { rows } = this
    rows[at] = rows[at + 1] = rows[at + 3] = rows[at + 4] = 0
    rows[at + 2] = -sign
    rows[at + 5] = sign
  }

  protected override writeAnswer(row: number, from: number, to: number): void {
    const { rows } = this
    const { data: bodies } = this.bodyRows
    const at = BODY * row + IX
    for (let k = 0; k < 3; k++) rows[to + k] = rows[from + k] * bodies[at + k]
  }

  override isFree(row: number): boolean {
    const { data } = this.bodyRows
    const at = BODY * row + IX
    return data[at] > 0 || data[at + 1] > 0 || data[at + 2] > 0
  }

  override writeMass(row: number, out: Float64Array, at: number): void {
    const { data } = this.bodyRows
    for (let k = 0; k < 9; k++) out[at + k] = 0
    for (let k = 0; k < 3; k++) {
      const inverse = data[BODY * row + IX + k]
      out[at + 4 * k] = inverse > 0 ? 1 / inverse : IMMOVABLE
    }
  }

  protected override measureAfter(): void {}

  /** Writes where the two anchors are in the world, then the axis. */
  readAnchors(joint: number, out: Float64Array): void {
    const { anchors, axis, poses } = this
    const { one, two } = this.book
    for (let side = 0; side < 2; side++) {
      const body = (side === 0 ? one : two).data[joint]
      const x = anchors.data[4 * joint + 2 * side]
      const y = anchors.data[4 * joint + 2 * side + 1]
      const cos = body === WORLD ? 1 : poses.turn.data[3 * body + 1]
      const sin = body === WORLD ? 0 : poses.turn.data[3 * body + 2]
      out[2 * side] = (body === WORLD ? 0 : poses.place.data[2 * body]) + cos * x - sin * y
      out[2 * side + 1] = (body === WORLD ? 0 : poses.place.data[2 * body + 1]) + sin * x + cos * y
      if (side > 0) continue
      out[4] = cos * axis.data[2 * joint] - sin * axis.data[2 * joint + 1]
      out[5] = sin * axis.data[2 * joint] + cos * axis.data[2 * joint + 1]
    }
  }

  /** How much further the second body is turned than when they were joined, as seen from the first: radians, not wrapped. */
  angleOf(joint: number): number {
    const { one, two } = this.book
    const { turn } = this.poses
    const a = one.data[joint]
    const b = two.data[joint]
    return (b === WORLD ? 0 : turn.data[3 * b]) - (a === WORLD ? 0 : turn.data[3 * a]) - this.turn.data[joint]
  }
}
