/** Joints of 2D: what they are made from, and their faces. What they do in a tick stands in `kind.ts`. */
import { AXLE, CARRY, type JointType, SLIDE, TURNS, WORLD } from '../../core/joints/book.ts'
import { type JointEnd, JointHandle, type JointStart } from '../../core/joints/joint.ts'
import { type JointFields, type JointSide, Joints, type JointsSetup } from '../../core/joints/joints.ts'
import {
  type Apart,
  type Driven,
  type Holding,
  type JointBase,
  type JointBetween,
  type JointOfPoints,
  jointFields,
  type Softness,
} from '../../core/joints/spec.ts'
import type { AnyKinds, Kinds } from '../../core/state/handle.ts'
import { finite, refuseAssignment } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { ANGLE } from '../../core/util/limits.ts'
import type { Body2 } from '../body.ts'
import type { Poses } from '../poses.ts'
import type { BodyRows2 } from '../solve/bodyRows.ts'
import type { Dynamics } from '../solve/dynamics.ts'
import { checkDirection, checkVec, type Pose2, type Vec2 } from '../vector.ts'
import { JointKind2 } from './kind.ts'

type Base<K extends Kinds> = JointBase<Body2<K>, JointEnd2<K>>
type Between<K extends Kinds> = JointBetween<Body2<K>, JointEnd2<K>>
type OfPoints<K extends Kinds> = JointOfPoints<Body2<K>, JointEnd2<K>, Vec2>

/** Two bodies that turn about a common point. */
export interface HingeSpec2<K extends Kinds = AnyKinds> extends Between<K>, Driven {
  /** Which type it is of. */
  type: 'hinge'
  /** Where it is, as a point of the world. */
  at: Vec2
}

/** Two points that keep a distance: a rod, or a rope. */
export interface DistanceSpec2<K extends Kinds = AnyKinds> extends OfPoints<K>, Apart {
  /** Which type it is of. */
  type: 'distance'
}

/** Two points that a spring pulls together and pushes apart. */
export interface SpringSpec2<K extends Kinds = AnyKinds> extends OfPoints<K>, Softness {
  /** Which type it is of. */
  type: 'spring'
  /** The length at which it pulls nobody. Default: as far as they are at joining. */
  length?: number | undefined
}

/** A body that slides along an axis of another, and does not turn against it. */
export interface SlideSpec2<K extends Kinds = AnyKinds> extends Between<K>, Driven {
  /** Which type it is of. */
  type: 'slide'
  /** Where it is, as a point of the world. */
  at: Vec2
  /** Along which the second body (the first, in the world) slides, as a direction of the world. */
  axis: Vec2
}

/** A wheel, the second body, on a sprung slide of the first. */
export interface AxleSpec2<K extends Kinds = AnyKinds> extends Between<K>, Driven, Softness {
  /** Which type it is of. */
  type: 'axle'
  /** Its axle, as a point of the world. */
  at: Vec2
  /** Along which it springs, as a direction of the world. */
  axis: Vec2
}

/** Two bodies that are one; with a `frequency` it gives. */
export interface FixedSpec2<K extends Kinds = AnyKinds> extends Between<K>, Softness {
  /** Which type it is of. */
  type: 'fixed'
  /** Where they are held together, as a point of the world. Default: the centre of mass of the first. */
  at?: Vec2 | undefined
}

/** A hand: draws a point of a body softly towards a target, and turns it there too where the target is a pose. */
export interface CarrySpec2<K extends Kinds = AnyKinds> extends Base<K>, Softness, Holding {
  /** Which type it is of. */
  type: 'carry'
  /** Where it holds the body, as a point of the world. Default: its centre of mass. */
  at?: Vec2 | undefined
  /** Where that point is to be, or point and angle. */
  target: Vec2 | Pose2
}

/** What a joint of 2D is made from. */
export type JointSpec2<K extends Kinds = AnyKinds> =
  | HingeSpec2<K>
  | DistanceSpec2<K>
  | SpringSpec2<K>
  | SlideSpec2<K>
  | AxleSpec2<K>
  | FixedSpec2<K>
  | CarrySpec2<K>

/** The end of a joint of 2D. */
export type JointEnd2<K extends Kinds = AnyKinds> = JointEnd<Joint2<K>, Body2<K>>

const FIELDS = jointFields({})

const scratch = new Float64Array(6)

/** A joint between two bodies, or a body and the world. Made by `world.join`. */
export class Joint2<K extends Kinds = AnyKinds> extends JointHandle<K, Body2<K>> {
  /** @internal */ protected override readonly keeper: Joints2<K>

  private readonly lastPlace = new Float64Array(6)

  /** @internal */
  constructor(keeper: Joints2<K>, slot: number, serial: number, start: JointStart<Body2<K>>) {
    super(slot, serial, start)
    this.keeper = keeper
    Object.seal(this)
  }

  /** Radians by which the second body has turned against the first since they were joined; of what is joined to the world, the first in it. Not wrapped. */
  get angle(): number {
    return this.alive ? this.keeper.kind.angleOf(this.slot) : Number.NaN
  }

  /** Lengths along the axis, of a slide and an axle, from where the two stood at joining. */
  get offset(): number {
    this.among('offset', SLIDE, AXLE)
    this.anchorsNow()
    return (scratch[2] - scratch[0]) * scratch[4] + (scratch[3] - scratch[1]) * scratch[5]
  }

  /** Lengths between the two points that it holds. */
  get distance(): number {
    this.anchorsNow()
    const x = scratch[2] - scratch[0]
    const y = scratch[3] - scratch[1]
    return Math.sqrt(x * x + y * y)
  }

  /** How fast it goes: radians a second, or lengths for a slide, a distance and a spring. */
  override get speed(): number {
    if (!this.alive) return Number.NaN
    const [one, two] = this.b === null ? [null, this.a] : [this.a, this.b]
    if (this.type !== 'slide' && this.type !== 'distance' && this.type !== 'spring') {
      return two.spin - (one?.spin ?? 0)
    }
    this.anchorsNow()
    const [x0, y0, x1, y1] = scratch
    let [, , , , x, y] = scratch
    if (this.type !== 'slide') {
      const length = Math.sqrt((x1 - x0) * (x1 - x0) + (y1 - y0) * (y1 - y0))
      x = length > 0 ? (x1 - x0) / length : 0
      y = length > 0 ? (y1 - y0) / length : 1
    }
    const v = two.velocityAt({ x: x1, y: y1 })
    const u = one?.velocityAt({ x: this.type === 'slide' ? x1 : x0, y: this.type === 'slide' ? y1 : y0 }) ?? {
      x: 0,
      y: 0,
    }
    return (v.x - u.x) * x + (v.y - u.y) * y
  }

  /** Where it holds the first body and the second (or the world), in the world; and along which axis, for a slide and an axle. */
  get anchors(): { readonly a: Vec2; readonly b: Vec2; readonly axis: Vec2 } {
    this.anchorsNow()
    const one = { x: scratch[0], y: scratch[1] }
    const two = { x: scratch[2], y: scratch[3] }
    const axis = { x: scratch[4], y: scratch[5] }
    return this.b === null ? { a: two, b: one, axis } : { a: one, b: two, axis }
  }

  /** Where a hand draws its point, and the angle to which it turns it, or null. */
  get target(): { readonly at: Vec2; readonly angle: number | null } {
    this.among('target', CARRY)
    return this.keeper.readTarget(this.slot)
  }

  set target(value: Vec2 | Pose2) {
    this.among('target', CARRY)
    this.use('target')
    this.keeper.writeTarget(this.slot, value)
    this.changed()
  }

  /** @internal */
  override markDead(): void {
    this.keeper.kind.readAnchors(this.slot, scratch)
    this.lastPlace.set(scratch)
    super.markDead()
  }

  private anchorsNow(): void {
    if (this.alive) this.keeper.kind.readAnchors(this.slot, scratch)
    else scratch.set(this.lastPlace)
  }
}

export class Joints2<K extends Kinds = AnyKinds> extends Joints<K, Body2<K>, Joint2<K>, Vec2> {
  override readonly kind: JointKind2<Joint2<K>>
  protected override readonly fields = FIELDS
  private readonly poses: Poses
  private readonly centreOf: (body: number, out: Float64Array, at: number) => void

  constructor(
    setup: JointsSetup,
    bodyRows: BodyRows2,
    owner: { rowOf(body: number): number; centreOf(body: number, out: Float64Array, at: number): void },
    poses: Poses,
    dynamics: Dynamics,
  ) {
    super(setup)
    this.poses = poses
    this.centreOf = (body, out, at) => owner.centreOf(body, out, at)
    this.kind = new JointKind2<Joint2<K>>(this.book, setup.population, bodyRows, owner, poses, dynamics, setup.unit)
  }

  protected override checkType(type: JointType): void {
    if (type !== 'ball') return
    throw new KeenError('bad-argument', "'type' of a joint: a 'ball' belongs to 3D; in 2D a 'hinge' is one")
  }

  protected override checkPoint(value: unknown, what: string): Vec2 {
    return checkVec(value, what)
  }

  protected override centre(body: number): Vec2 {
    this.centreOf(body, scratch, 0)
    return { x: scratch[0], y: scratch[1] }
  }

  protected override apart(one: Vec2, two: Vec2): number {
    const [x, y] = [two.x - one.x, two.y - one.y]
    return Math.sqrt(x * x + y * y)
  }

  override makeHandle(slot: number, serial: number, start: JointStart<Body2<K>>): Joint2<K> {
    return new Joint2<K>(this, slot, serial, start)
  }

  protected override readPlace(
    type: JointType,
    spec: JointFields,
    one: JointSide<Vec2>,
    two: JointSide<Vec2>,
  ): (joint: number) => void {
    const along = type === 'slide' || type === 'axle'
    const axis = along ? checkDirection(spec['axis'], `'axis' of a '${type}'`) : { x: 0, y: 0 }
    const target = type === 'carry' ? checkTarget(spec['target']) : null
    return (joint) => {
      const { kind, poses } = this
      this.writeAnchor(joint, 0, one)
      this.writeAnchor(joint, 2, two)
      const cos = one.body === WORLD ? 1 : poses.turn.data[3 * one.body + 1]
      const sin = one.body === WORLD ? 0 : poses.turn.data[3 * one.body + 2]
      kind.axis.data[2 * joint] = cos * axis.x + sin * axis.y
      kind.axis.data[2 * joint + 1] = cos * axis.y - sin * axis.x
      kind.turn.data[joint] = 0
      kind.turn.data[joint] = kind.angleOf(joint)
      if (target !== null) this.putTarget(joint, target)
    }
  }

  /** Writes a point of the world as one of a body. */
  private writeAnchor(joint: number, side: number, { body, point: { x, y } }: JointSide<Vec2>): void {
    const { anchors } = this.kind
    const { place, turn } = this.poses
    const dx = x - (body === WORLD ? 0 : place.data[2 * body])
    const dy = y - (body === WORLD ? 0 : place.data[2 * body + 1])
    const cos = body === WORLD ? 1 : turn.data[3 * body + 1]
    const sin = body === WORLD ? 0 : turn.data[3 * body + 2]
    anchors.data[4 * joint + side] = cos * dx + sin * dy
    anchors.data[4 * joint + side + 1] = cos * dy - sin * dx
  }

  /** @internal */
  writeTarget(joint: number, value: unknown): void {
    this.putTarget(joint, checkTarget(value))
  }

  private putTarget(joint: number, { at, angle }: { readonly at: Vec2; readonly angle: number | null }): void {
    const { kind, book } = this
    kind.anchors.data[4 * joint] = at.x
    kind.anchors.data[4 * joint + 1] = at.y
    if (angle === null) book.flags.data[joint] &= ~TURNS
    else {
      book.flags.data[joint] |= TURNS
      kind.turn.data[joint] = angle
    }
  }

  /** @internal */
  readTarget(joint: number): { readonly at: Vec2; readonly angle: number | null } {
    const { kind, book } = this
    const at = { x: kind.anchors.data[4 * joint], y: kind.anchors.data[4 * joint + 1] }
    return { at, angle: (book.flags.data[joint] & TURNS) !== 0 ? kind.turn.data[joint] : null }
  }
}

function checkTarget(value: unknown): { readonly at: Vec2; readonly angle: number | null } {
  if (typeof value !== 'object' || value === null) {
    const what = `'target' of a 'carry' is a point { x, y } or a pose { at, angle }`
    throw new KeenError('bad-argument', `${what}, got ${show(value)}`)
  }
  if (!('at' in value)) return { at: checkVec(value, "'target' of a 'carry'"), angle: null }
  const { at, angle } = value as Pose2
  return {
    at: checkVec(at, "'at' of the 'target' of a 'carry'"),
    angle: finite(angle, "'angle' of the 'target' of a 'carry'", ANGLE),
  }
}

refuseAssignment(Joint2.prototype, {
  angle: 'a motor, limits or a push on its bodies change it',
  speed: 'set the speed of its motor',
})
