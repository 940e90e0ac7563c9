/** Joints of 3D: what they are made from, and their faces. What they do in a tick stands in `kind.ts`. */
import {
  AXLE,
  BALL,
  CARRY,
  DISTANCE,
  HINGE,
  type JointType,
  MAX,
  MIN,
  SETTINGS,
  SLIDE,
  SPRING,
  SWING,
  TURNS,
  WORLD,
} from '../../core/joints/book.ts'
import { type JointEnd, JointHandle, type JointStart } from '../../core/joints/joint.ts'
import { type JointFields, type JointSide, Joints, type JointsSetup } from '../../core/joints/joints.ts'
import {
  type Apart,
  checkLimits,
  type Driven,
  type Holding,
  type JointBase,
  type JointBetween,
  type JointOfPoints,
  jointFields,
  type Limits,
  type OpenLimits,
  type Softness,
} from '../../core/joints/spec.ts'
import type { AnyKinds, Kinds } from '../../core/state/handle.ts'
import { notNegative, refuseAssignment } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { ANGLE } from '../../core/util/limits.ts'
import type { Body3 } from '../body.ts'
import type { Poses } from '../poses.ts'
import type { BodyRows3 } from '../solve/bodyRows.ts'
import type { Dynamics3 } from '../solve/dynamics.ts'
import {
  checkDirection,
  checkRotation,
  checkVec,
  cross,
  dot,
  type Pose3,
  type Rotation,
  type Vec3,
  writeFrame,
} from '../vector.ts'
import { JOINT_PLACE, JointKind3 } from './kind.ts'

type Base<K extends Kinds> = JointBase<Body3<K>, JointEnd3<K>>
type Between<K extends Kinds> = JointBetween<Body3<K>, JointEnd3<K>>
type OfPoints<K extends Kinds> = JointOfPoints<Body3<K>, JointEnd3<K>, Vec3>

/** Two bodies that turn about a common axis. */
export interface HingeSpec3<K extends Kinds = AnyKinds> extends Between<K>, Driven {
  /** Which type it is of. */
  type: 'hinge'
  /** Where it is, as a point of the world. */
  at: Vec3
  /** About which the two turn, as a direction of the world; right-handed. */
  axis: Vec3
}

/** Two bodies that turn about a common point. */
export interface BallSpec3<K extends Kinds = AnyKinds> extends Between<K> {
  /** Which type it is of. */
  type: 'ball'
  /** Where it is, as a point of the world. */
  at: Vec3
  /** The axis of the cone and of the twist, as a direction of the world. Default: y. */
  axis?: Vec3 | undefined
  /** Radians by which the axis of the second may lean from that of the first. Default: any. */
  swing?: number | null | undefined
  /** Radians by which the second may be twisted about the axis, from how the two stand at joining. Default: any. */
  twist?: OpenLimits | null | undefined
}

/** Two points that keep a distance: a rod, or a rope. */
export interface DistanceSpec3<K extends Kinds = AnyKinds> extends OfPoints<K>, Apart {
  /** Which type it is of. */
  type: 'distance'
}

/** Two points that a spring pulls together and pushes apart. */
export interface SpringSpec3<K extends Kinds = AnyKinds> extends OfPoints<K>, Softness {
  /** Which type it is of. */
  type: 'spring'
  /** The length at which it pulls nobody. Default: as far as they are at joining. */
  length?: number | undefined
}

/** A body that slides along an axis of another, and does not turn against it. */
export interface SlideSpec3<K extends Kinds = AnyKinds> extends Between<K>, Driven {
  /** Which type it is of. */
  type: 'slide'
  /** Where it is, as a point of the world. */
  at: Vec3
  /** Along which the second body (the first, in the world) slides, as a direction of the world. */
  axis: Vec3
}

/** A wheel, the second body, on a sprung slide of the first. */
export interface AxleSpec3<K extends Kinds = AnyKinds> extends Between<K>, Driven, Softness {
  /** Which type it is of. */
  type: 'axle'
  /** Its axle, as a point of the world. */
  at: Vec3
  /** Along which it springs, as a direction of the world. */
  axis: Vec3
  /** About which the wheel turns, as a direction of the world. */
  turn: Vec3
}

/** Two bodies that are one; with a `frequency` it gives. */
export interface FixedSpec3<K extends Kinds = AnyKinds> extends Between<K>, Softness {
  /** Which type it is of. */
  type: 'fixed'
  /** Where they are held together, as a point of the world. Default: the centre of mass of the first. */
  at?: Vec3 | undefined
}

/** A hand: draws a point of a body softly towards a target, and turns it there too where the target is a pose. */
export interface CarrySpec3<K extends Kinds = AnyKinds> extends Base<K>, Softness, Holding {
  /** Which type it is of. */
  type: 'carry'
  /** Where it holds the body, as a point of the world. Default: its centre of mass. */
  at?: Vec3 | undefined
  /** Where that point is to be, or point and rotation. */
  target: Vec3 | Pose3
}

/** What a joint of 3D is made from. */
export type JointSpec3<K extends Kinds = AnyKinds> =
  | HingeSpec3<K>
  | BallSpec3<K>
  | DistanceSpec3<K>
  | SpringSpec3<K>
  | SlideSpec3<K>
  | AxleSpec3<K>
  | FixedSpec3<K>
  | CarrySpec3<K>

/** The end of a joint of 3D. */
export type JointEnd3<K extends Kinds = AnyKinds> = JointEnd<Joint3<K>, Body3<K>>

const FIELDS = jointFields({ hinge: ['axis'], ball: ['axis', 'swing', 'twist'], axle: ['turn'] })
const UP: Vec3 = { x: 0, y: 1, z: 0 }

const { ARM_A, ARM_B, APART, FRAME_A, WHEEL_A, SIZE } = JOINT_PLACE
const scratch = new Float64Array(SIZE)

const vectorAt = (at: number): Vec3 => ({ x: scratch[at], y: scratch[at + 1], z: scratch[at + 2] })

/** A joint between two bodies, or a body and the world. Made by `world.join`. */
export class Joint3<K extends Kinds = AnyKinds> extends JointHandle<K, Body3<K>> {
  /** @internal */ protected override readonly keeper: Joints3<K>

  private readonly lastPlace = new Float64Array(SIZE)

  /** @internal */
  constructor(keeper: Joints3<K>, slot: number, serial: number, start: JointStart<Body3<K>>) {
    super(slot, serial, start)
    this.keeper = keeper
    Object.seal(this)
  }

  /** Radians by which the second body has turned about the axis against the first since they were joined; of a ball, its twist. Not wrapped. */
  get angle(): number {
    this.among('angle', HINGE, BALL)
    return this.alive ? this.keeper.kind.angleOf(this.slot) : Number.NaN
  }

  /** Radians between the axes of the two, of a ball. */
  get lean(): number {
    this.among('lean', BALL)
    return this.alive ? this.keeper.kind.swingOf(this.slot) : Number.NaN
  }

  /** Lengths along the axis, of a slide and an axle, from where the two stood at joining. */
  get offset(): number {
    this.among('offset', SLIDE, AXLE)
    this.readNow()
    return dot(vectorAt(APART), vectorAt(FRAME_A))
  }

  /** Lengths between the two points that it holds. */
  get distance(): number {
    this.readNow()
    const way = vectorAt(APART)
    return Math.sqrt(dot(way, way))
  }

  /**
   * How fast it goes: of a hinge and an axle radians a second about the axis, of a slide, a distance and a spring lengths a second.
   */
  override get speed(): number {
    if (!this.alive) return Number.NaN
    const [one, two] = this.b === null ? [null, this.a] : [this.a, this.b]
    this.readNow()
    const way = vectorAt(APART)
    if (this.type === 'hinge' || this.type === 'axle') {
      const axis = vectorAt(this.type === 'hinge' ? FRAME_A : WHEEL_A)
      return dot(two.spin, axis) - (one === null ? 0 : dot(one.spin, axis))
    }
    this.among('speed', HINGE, AXLE, SLIDE, DISTANCE, SPRING)
    const length = Math.sqrt(dot(way, way))
    const slides = this.type === 'slide'
    const axis = slides ? vectorAt(FRAME_A) : { x: way.x / length, y: way.y / length, z: way.z / length }
    const v = two.velocityAt(vectorAt(ARM_B))
    const u = one?.velocityAt(vectorAt(slides ? ARM_B : ARM_A)) ?? { x: 0, y: 0, z: 0 }
    return dot({ x: v.x - u.x, y: v.y - u.y, z: v.z - u.z }, axis)
  }

  /** Where it holds the first body and the second (or the world), in the world; its axis; and that about which a wheel turns. */
  get anchors(): { readonly a: Vec3; readonly b: Vec3; readonly axis: Vec3; readonly turn: Vec3 } {
    this.readNow()
    const [one, two] = [vectorAt(ARM_A), vectorAt(ARM_B)]
    const [a, b] = this.b === null ? [two, one] : [one, two]
    return { a, b, axis: vectorAt(FRAME_A), turn: vectorAt(WHEEL_A) }
  }

  /** Radians by which the axis of a ball's second body may lean from that of the first; null for any. */
  get swing(): number | null {
    this.among('swing', BALL)
    const most = this.setting(SWING)
    return most === Infinity ? null : most
  }

  set swing(value: number | null) {
    this.among('swing', BALL)
    this.put(SWING, checkSwing(value))
    this.changed()
  }

  /** Radians by which a ball's second body may be twisted about the axis; null for any. */
  get twist(): Limits | null {
    this.among('twist', BALL)
    const [min, max] = [this.setting(MIN), this.setting(MAX)]
    return min === -Infinity && max === Infinity ? null : Object.freeze({ min, max })
  }

  set twist(value: OpenLimits | null) {
    this.among('twist', BALL)
    const { min, max } = checkLimits(value, 'ball')
    this.put(MIN, min)
    this.put(MAX, max)
    this.changed()
  }

  /** Where a hand draws its point, and the rotation to which it turns it, or null. */
  get target(): { readonly at: Vec3; readonly rotation: Rotation | null } {
    this.among('target', CARRY)
    return this.keeper.targets.get(this.slot)!
  }

  set target(value: Vec3 | Pose3) {
    this.among('target', CARRY)
    this.use('target')
    this.keeper.writeTarget(this.slot, checkTarget(value))
    this.changed()
  }

  /** @internal */
  override markDead(): void {
    this.keeper.kind.read(this.slot, scratch)
    this.lastPlace.set(scratch)
    super.markDead()
  }

  private readNow(): void {
    if (this.alive) this.keeper.kind.read(this.slot, scratch)
    else scratch.set(this.lastPlace)
  }
}

interface Target {
  readonly at: Vec3
  readonly rotation: Rotation | null
}

export class Joints3<K extends Kinds = AnyKinds> extends Joints<K, Body3<K>, Joint3<K>, Vec3> {
  override readonly kind: JointKind3<Joint3<K>>
  protected override readonly fields = FIELDS
  /** What hands draw to, by their slots. */
  readonly targets = new Map<number, Target>()
  private readonly poses: Poses
  private readonly centreOf: (body: number, out: Float64Array, at: number) => void

  constructor(
    setup: JointsSetup,
    bodyRows: BodyRows3,
    owner: { rowOf(body: number): number; centreOf(body: number, out: Float64Array, at: number): void },
    poses: Poses,
    dynamics: Dynamics3,
  ) {
    super(setup)
    this.poses = poses
    this.centreOf = (body, out, at) => owner.centreOf(body, out, at)
    this.kind = new JointKind3<Joint3<K>>(this.book, setup.population, bodyRows, owner, poses, dynamics, setup.unit)
  }

  protected override checkType(): void {}

  protected override checkPoint(value: unknown, what: string): Vec3 {
    return checkVec(value, what)
  }

  protected override centre(body: number): Vec3 {
    this.centreOf(body, scratch, 0)
    return vectorAt(0)
  }

  protected override apart(one: Vec3, two: Vec3): number {
    const way = { x: two.x - one.x, y: two.y - one.y, z: two.z - one.z }
    return Math.sqrt(dot(way, way))
  }

  override makeHandle(slot: number, serial: number, start: JointStart<Body3<K>>): Joint3<K> {
    return new Joint3<K>(this, slot, serial, start)
  }

  protected override readPlace(
    type: JointType,
    spec: JointFields,
    one: JointSide<Vec3>,
    two: JointSide<Vec3>,
  ): (joint: number) => void {
    const what = (field: string): string => `'${field}' of a '${type}'`
    const needs = type === 'hinge' || type === 'slide' || type === 'axle'
    const axis = needs || spec['axis'] !== undefined ? checkDirection(spec['axis'], what('axis')) : UP
    const turn = type === 'axle' ? checkDirection(spec['turn'], what('turn')) : axis
    if (type === 'axle' && Math.abs(dot(axis, turn)) > 0.999) {
      throw new KeenError(
        'bad-argument',
        `${what('turn')} lies along its 'axis': a wheel turns across the way it springs`,
      )
    }
    const swing = checkSwing(spec['swing'])
    const twist = checkLimits(spec['twist'], 'ball')
    const target = type === 'carry' ? checkTarget(spec['target']) : null
    return (joint) => {
      const side = across(axis)
      const frame = [axis, side, cross(axis, side)]
      for (const [at, { body, point }] of [one, two].entries()) this.writeSide(joint, at, body, point, frame, turn)
      this.book.lastAngle.data[joint] = 0
      if (type === 'ball') {
        const { data } = this.book.settings
        data[SETTINGS * joint + SWING] = swing
        data[SETTINGS * joint + MIN] = twist.min
        data[SETTINGS * joint + MAX] = twist.max
      }
      if (target !== null) this.writeTarget(joint, target)
    }
  }

  /** Writes where a joint is on one of its bodies: a point of the world, its frame and the axis of a wheel. */
  private writeSide(joint: number, side: number, body: number, point: Vec3, frame: readonly Vec3[], turn: Vec3): void {
    const { anchors, frames, wheels } = this.kind
    const from = 6 * joint + 3 * side
    this.writeAbout(body, point, true, anchors.data, from)
    for (const [n, axis] of frame.entries())
      this.writeAbout(body, axis, false, frames.data, 18 * joint + 9 * side + 3 * n)
    this.writeAbout(body, turn, false, wheels.data, from)
  }

  /** Writes a point or a direction of the world as one of a body. */
  private writeAbout(body: number, value: Vec3, isPoint: boolean, out: Float64Array, at: number): void {
    const { matrix, place } = this.poses
    const parts = [value.x, value.y, value.z]
    for (let i = 0; i < 3; i++) {
      if (body === WORLD) {
        out[at + i] = parts[i]
        continue
      }
      let sum = 0
      for (let k = 0; k < 3; k++) {
        sum += matrix.data[9 * body + 3 * k + i] * (parts[k] - (isPoint ? place.data[3 * body + k] : 0))
      }
      out[at + i] = sum
    }
  }

  /** @internal */
  writeTarget(joint: number, target: Target): void {
    const { kind, book } = this
    const { at, rotation } = target
    this.targets.set(joint, target)
    this.writeAbout(WORLD, at, true, kind.anchors.data, 6 * joint)
    if (rotation === null) {
      book.flags.data[joint] &= ~TURNS
      return
    }
    book.flags.data[joint] |= TURNS
    // The frame of the world is that of the body as it is to be turned, and that of the body its own axes.
    writeFrame(Float64Array.of(rotation.x, rotation.y, rotation.z, rotation.w), 0, scratch, 0)
    const { data } = kind.frames
    for (let n = 0; n < 3; n++) {
      for (let i = 0; i < 3; i++) {
        data[18 * joint + 3 * n + i] = scratch[3 * i + n]
        data[18 * joint + 9 + 3 * n + i] = n === i ? 1 : 0
      }
    }
  }
}

/** A direction across another one. */
function across(axis: Vec3): Vec3 {
  const [x, y, z] = [Math.abs(axis.x), Math.abs(axis.y), Math.abs(axis.z)]
  const other = x <= y && x <= z ? { x: 1, y: 0, z: 0 } : y <= z ? { x: 0, y: 1, z: 0 } : { x: 0, y: 0, z: 1 }
  return checkDirection(cross(other, axis), 'a direction')
}

function checkSwing(value: unknown): number {
  if (value === null || value === undefined || value === Infinity) return Infinity
  return notNegative(value, "'swing' of a 'ball'", ANGLE)
}

function checkTarget(value: unknown): Target {
  if (typeof value !== 'object' || value === null) {
    const what = "'target' of a 'carry' is a point { x, y, z } or a pose { at, rotation }"
    throw new KeenError('bad-argument', `${what}, got ${show(value)}`)
  }
  if (!('at' in value)) return { at: checkVec(value, "'target' of a 'carry'"), rotation: null }
  const { at, rotation } = value as Pose3
  const q = new Float64Array(4)
  checkRotation(rotation, "'rotation' of the 'target' of a 'carry'", q, 0)
  return {
    at: checkVec(at, "'at' of the 'target' of a 'carry'"),
    rotation: Object.freeze({ x: q[0], y: q[1], z: q[2], w: q[3] }),
  }
}

refuseAssignment(Joint3.prototype, {
  angle: 'a motor, limits or a push on its bodies change it',
  speed: 'set the speed of its motor',
})
