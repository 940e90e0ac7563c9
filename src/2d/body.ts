/** A body of 2D: a pose, a motion, and the colliders that move with it. */

import type { Overlap, Touch } from '../core/bodies.ts'
import type { DYNAMIC_FIELDS } from '../core/solve/dynamics.ts'
import { checkForced, ForcedBody } from '../core/solve/forcedBody.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { finite, flag, onlyFields, positive, record, refuseAssignment } from '../core/util/checks.ts'
import { KeenError, show } from '../core/util/errors.ts'
import { ANGLE, FORCE, INERTIA, LEAST_INERTIA, SPEED, SPIN } from '../core/util/limits.ts'
import type { Collider2 } from './collider.ts'
import type { Joint2 } from './joints/joints.ts'
import { LOCK_TURN, LOCK_X, LOCK_Y, type Locks } from './solve/dynamics.ts'
import type { Forces2 } from './solve/forces.ts'
import type { TravelOptions2, TravelResult2 } from './travelling.ts'
import { checkVec, type MutablePose2, type Pose2, type Vec2 } from './vector.ts'
import type { BodySpec2, ColliderSpec2, World2 } from './world.ts'

/** Whom a body overlaps now: asked afresh from shapes and filter. */
export type Overlap2<K extends Kinds = AnyKinds> = Overlap<Body2<K>, Collider2<K>>

/** Whom a body touched in the last step. */
export type Touch2<K extends Kinds = AnyKinds> = Touch<Body2<K>, Collider2<K>, Vec2>

const scratch = new Float64Array(3)
const RESTING: Vec2 = Object.freeze({ x: 0, y: 0 })
/** Of a body that lives, where it was in the end. */
const NOWHERE: Pose2 = Object.freeze({ at: RESTING, angle: 0 })
/** How far beyond the two ticks a pose may be asked for. */
const ALPHA = 1e6

/** A body of 2D: a pose, a motion, and the colliders that move with it. Made by `world.add`. */
export class Body2<K extends Kinds = AnyKinds> extends ForcedBody<
  Forces2,
  K,
  Body2<K>,
  Collider2<K>,
  Vec2,
  Pose2,
  MutablePose2,
  ColliderSpec2<K>
> {
  /** @internal */ protected readonly host: World2<K>
  private lastPose = NOWHERE

  /** @internal */
  constructor(host: World2<K>, slot: number, name: string | null, data: K['data']) {
    super(host, slot, name, data)
    this.host = host
    Object.seal(this)
  }

  /** Where its origin is, in the world. Assign with {@link teleport}. */
  get at(): Vec2 {
    if (!this.alive) return this.lastPose.at
    const { data } = this.host.kernel.poses.place
    return Object.freeze({ x: data[2 * this.slot], y: data[2 * this.slot + 1] })
  }

  /** Its turn, radians counter-clockwise; not wrapped. */
  get angle(): number {
    return this.alive ? this.host.kernel.poses.turn.data[3 * this.slot] : this.lastPose.angle
  }

  /** Place and angle. Assign with {@link teleport}. */
  get pose(): Pose2 {
    return Object.freeze({ at: this.at, angle: this.angle })
  }

  /**
   * Metres a second; of a dynamic body, of its centre of mass. A kinematic body keeps it; of one that was led by `arriveAt` or `travel`
   * it is what the body did in the last step. A static one has none. Setting it wakes.
   */
  get velocity(): Vec2 {
    if (!this.alive) return RESTING
    const data = this.host.kernel.poses.motionOf(this.slot)
    return Object.freeze({ x: data[3 * this.slot], y: data[3 * this.slot + 1] })
  }

  set velocity(value: Vec2) {
    this.useMover('velocity')
    checkVec(value, "'velocity' of a body", SPEED * this.host.unit)
    const { poses } = this.host.kernel
    const { data } = poses.velocity
    // Its own velocity reads as that again.
    poses.isLed.data[this.slot] = 0
    data[3 * this.slot] = value.x
    data[3 * this.slot + 1] = value.y
    this.holdLocks()
    this.wakeUp()
  }

  /** Radians a second, counter-clockwise. */
  get spin(): number {
    return this.alive ? this.host.kernel.poses.motionOf(this.slot)[3 * this.slot + 2] : 0
  }

  set spin(value: number) {
    this.useMover('spin')
    const { poses } = this.host.kernel
    poses.velocity.data[3 * this.slot + 2] = finite(value, "'spin' of a body", SPIN)
    poses.isLed.data[this.slot] = 0
    this.holdLocks()
    this.wakeUp()
  }

  override poseAt(alpha: number, out: MutablePose2): MutablePose2 {
    finite(alpha, 'alpha', ALPHA)
    record(out, 'the object that a pose is written into')
    record(out.at, "'at' of the object that a pose is written into")
    if (this.alive) {
      this.host.kernel.poses.interpolate(this.slot, alpha, scratch)
      out.at.x = scratch[0]
      out.at.y = scratch[1]
      out.angle = scratch[2]
    } else {
      out.at.x = this.lastPose.at.x
      out.at.y = this.lastPose.at.y
      out.angle = this.lastPose.angle
    }
    return out
  }

  /** Inertia about the centre of mass, kilograms times length squared; 0 for what is not dynamic. */
  get inertia(): number {
    return this.forces()?.dynamics.inertia.data[this.slot] ?? 0
  }

  /** A number, or null for what the shapes give. */
  set inertia(value: number | null) {
    const { givenInertia } = this.useDynamic('inertia').dynamics
    givenInertia.data[this.slot] = value === null ? 0 : checkInertia(value)
    this.host.weigh(this.slot)
  }

  /** Centre of mass in the world; of what is not dynamic, its origin. */
  get centre(): Vec2 {
    const forces = this.forces()
    if (forces === null) return this.at
    forces.motion.centreOf(this.slot, scratch, 0)
    return Object.freeze({ x: scratch[0], y: scratch[1] })
  }

  /** What it cannot do: move along x, along y, turn. */
  get locks(): Required<Locks> {
    const bits = this.forces()?.dynamics.locks.data[this.slot] ?? 0
    return Object.freeze({ x: (bits & LOCK_X) !== 0, y: (bits & LOCK_Y) !== 0, turn: (bits & LOCK_TURN) !== 0 })
  }

  set locks(value: Locks) {
    this.useDynamic('locks').dynamics.locks.data[this.slot] = locksOf(value)
    this.host.weigh(this.slot)
    this.holdLocks()
  }

  /**
   * Pushes with a force (newtons) during the next step. Asked several times, the forces add up.
   * @param point where it acts, in the world; default the centre of mass
   */
  applyForce(force: Vec2, point?: Vec2): void {
    this.push('applyForce', force, point, null)
  }

  /** Turns with a torque (newtons times length, counter-clockwise) during the next step. */
  applyTorque(torque: number): void {
    const { dynamics } = this.useDynamic('applyTorque')
    dynamics.force.data[3 * this.slot + 2] += finite(torque, 'the torque of applyTorque', FORCE)
    this.wakeUp()
  }

  /**
   * Changes the velocity at once, by an impulse (newton seconds).
   * @param point where it acts, in the world; default the centre of mass
   */
  applyImpulse(impulse: Vec2, point?: Vec2): void {
    scratch.fill(0)
    this.gain(this.push('applyImpulse', impulse, point, scratch))
  }

  /** Changes the spin at once, by a turning impulse (newton seconds times length, counter-clockwise). */
  applySpinImpulse(impulse: number): void {
    const forces = this.useDynamic('applySpinImpulse')
    scratch.fill(0)
    scratch[2] = finite(impulse, 'the impulse of applySpinImpulse', FORCE)
    this.gain(forces)
    this.wakeUp()
  }

  /** The velocity of the point of the body that is at a place in the world. */
  velocityAt(point: Vec2): Vec2 {
    this.use('velocityAt')
    const { x, y } = checkVec(point, 'the point of velocityAt')
    const { x: vx, y: vy } = this.velocity
    const { centre, spin } = this
    return { x: vx - spin * (y - centre.y), y: vy + spin * (x - centre.x) }
  }

  /**
   * Moves a kinematic body by a displacement, at once: it is swept with all of its colliders that are no sensors, goes through nothing that is
   * solid to it at any speed, and ends a few units in the last place from what stopped it. First it leaves what it overlaps. What it
   * touched and crossed is told with the next step. Cost: a few shape casts for each hit; with `out` nothing is allocated.
   * @param by lengths
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape` (a halfspace or a mesh cannot be cast), `dead-handle`, `locked`
   * @example const { ground } = diver.travel({ x: 0.1, y: -0.2 }, { onHit: 'slide', stepHeight: 0.3, snap: 0.2 })
   */
  travel(by: Vec2, options?: TravelOptions2<K>): TravelResult2<K> {
    this.change('travel')
    return this.host.traveller.travel(this, by, options) as TravelResult2<K>
  }

  /** The joints that hold it, in the order of their age. Allocates. */
  joints(): Joint2<K>[] {
    return this.forces()?.joints.of(this.slot) ?? []
  }

  /** Takes the impulse of the scratch into the velocity. */
  private gain({ dynamics }: Forces2): void {
    const { inverse } = dynamics
    const { velocity } = this.host.kernel.poses
    const most = SPEED * this.host.unit
    for (let k = 0; k < 3; k++) {
      const at = 3 * this.slot + k
      const value = velocity.data[at] + scratch[k] * inverse.data[at]
      const bound = k < 2 ? most : SPIN
      velocity.data[at] = value > bound ? bound : value < -bound ? -bound : value
    }
  }

  /** Adds a push at a point to x, y and turn: of the scratch, or of the forces of the next step. */
  private push(what: string, value: Vec2, point: Vec2 | undefined, scratched: Float64Array | null): Forces2 {
    const forces = this.useDynamic(what)
    const out = scratched ?? forces.dynamics.force.data
    const { x, y } = checkVec(value, `the first argument of ${what}`, FORCE)
    const at = out === scratch ? 0 : 3 * this.slot
    if (point !== undefined) {
      const p = checkVec(point, `the point of ${what}`)
      const { centre } = this
      if (out === scratch) scratch.fill(0)
      out[at + 2] += (p.x - centre.x) * y - (p.y - centre.y) * x
    }
    out[at] += x
    out[at + 1] += y
    this.wakeUp()
    return forces
  }

  /** Takes away the speed that the locks forbid. */
  private holdLocks(): void {
    const forces = this.forces()
    if (forces === null || this.type !== 'dynamic') return
    const bits = forces.dynamics.locks.data[this.slot]
    const { data } = this.host.kernel.poses.velocity
    for (let k = 0; k < 3; k++) if ((bits & (1 << k)) !== 0) data[3 * this.slot + k] = 0
  }

  /** @internal */
  override markDead(): void {
    this.lastPose = Object.freeze({ at: Object.freeze(this.at), angle: this.angle })
    super.markDead()
  }

  protected override readTarget(to: Vec2 | Pose2, what: string): Float64Array {
    if (typeof to !== 'object' || to === null) {
      throw new KeenError('bad-argument', `${what} takes a point { x, y } or a pose { at, angle }, got ${show(to)}`)
    }
    const isPose = 'at' in to
    const { x, y } = isPose ? checkVec(to.at, `'at' of ${what}`) : checkVec(to, `the point of ${what}`)
    scratch[0] = x
    scratch[1] = y
    scratch[2] = isPose ? finite(to.angle, `'angle' of ${what}`, ANGLE) : this.angle
    return scratch
  }
}

function checkInertia(value: unknown): number {
  return positive(value, "'inertia' of a body", INERTIA, LEAST_INERTIA)
}

function locksOf(value: Locks): number {
  onlyFields(value, ['x', 'y', 'turn'], "'locks' of a body")
  const bit = (field: 'x' | 'y' | 'turn', mask: number): number =>
    flag(value[field], false, `'${field}' in 'locks' of a body`) ? mask : 0
  return bit('x', LOCK_X) | bit('y', LOCK_Y) | bit('turn', LOCK_TURN)
}

/** Checks what a dynamic body is made with, before anything of it is. */
export function checkDynamic(spec: Partial<Pick<BodySpec2<Kinds>, (typeof DYNAMIC_FIELDS)[number]>>): void {
  checkForced(spec)
  if (spec.inertia !== undefined) checkInertia(spec.inertia)
  if (spec.locks !== undefined) locksOf(spec.locks)
}

const MOVE = 'teleport() it, or send a kinematic body there with arriveAt()'
refuseAssignment(Body2.prototype, {
  at: MOVE,
  angle: MOVE,
  pose: MOVE,
  centre: 'it follows from the shapes; teleport() moves the body',
})
