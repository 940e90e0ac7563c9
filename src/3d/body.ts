/** A body of 3D: a pose, a motion, and the colliders that move with it. */

import type { Overlap, Touch } from '../core/bodies.ts'
import type { DYNAMIC_FIELDS } from '../core/solve/dynamics.ts'
import { checkForced, ForcedBody } from '../core/solve/forcedBody.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { finite, flag, onlyFields, positive, record, refuseAssignment } from '../core/util/checks.ts'
import { KeenError, show } from '../core/util/errors.ts'
import { FORCE, INERTIA, LEAST_INERTIA, SPEED, SPIN } from '../core/util/limits.ts'
import type { Collider3 } from './collider.ts'
import type { Joint3 } from './joints/joints.ts'
import { KEPT } from './poses.ts'
import type { Inertia } from './shapes/shape.ts'
import { isPositive, LOCK_TURN_X, LOCK_X, type Locks, TENSOR, type TurnLocks } from './solve/dynamics.ts'
import type { Forces3 } from './solve/forces.ts'
import type { TravelOptions3, TravelResult3 } from './travelling.ts'
import {
  checkRotation,
  checkVec,
  cross,
  type MutablePose3,
  ORIGIN,
  type Pose3,
  type Rotation,
  UPRIGHT,
  type Vec3,
} from './vector.ts'
import type { BodySpec3, ColliderSpec3, World3 } from './world.ts'

/** Whom a body overlaps now: asked afresh from shapes and filter. */
export type Overlap3<K extends Kinds = AnyKinds> = Overlap<Body3<K>, Collider3<K>>

/** Whom a body touched in the last step. */
export type Touch3<K extends Kinds = AnyKinds> = Touch<Body3<K>, Collider3<K>, Vec3>

const pose = new Float64Array(KEPT)
/** A push: along x, y, z, then how it turns. */
const pushed = new Float64Array(6)
const turning = new Float64Array(TENSOR)
const NO_TENSOR = new Float64Array(TENSOR)
/** How far beyond the two ticks a pose may be asked for. */
const ALPHA = 1e6

/** Of a body that lives, where it was in the end. */
const NOWHERE: Pose3 = Object.freeze({ at: ORIGIN, rotation: UPRIGHT })

/** A body of 3D: a pose, a motion, and the colliders that move with it. Made by `world.add`. */
export class Body3<K extends Kinds = AnyKinds> extends ForcedBody<
  Forces3,
  K,
  Body3<K>,
  Collider3<K>,
  Vec3,
  Pose3,
  MutablePose3,
  ColliderSpec3<K>
> {
  /** @internal */ protected readonly host: World3<K>
  private lastPose = NOWHERE

  /** @internal */
  constructor(host: World3<K>, slot: number, name: string | null, data: K['data']) {
    super(host, slot, name, data)
    this.host = host
    Object.seal(this)
  }

  /** Where its origin is, in the world. Assign with {@link teleport}. */
  get at(): Vec3 {
    if (!this.alive) return this.lastPose.at
    const { data } = this.host.kernel.poses.place
    const at = 3 * this.slot
    return Object.freeze({ x: data[at], y: data[at + 1], z: data[at + 2] })
  }

  /** Its rotation, a unit quaternion. */
  get rotation(): Rotation {
    if (!this.alive) return this.lastPose.rotation
    const { data } = this.host.kernel.poses.rotation
    const at = 4 * this.slot
    return Object.freeze({ x: data[at], y: data[at + 1], z: data[at + 2], w: data[at + 3] })
  }

  /** Place and rotation. Assign with {@link teleport}. */
  get pose(): Pose3 {
    return Object.freeze({ at: this.at, rotation: this.rotation })
  }

  /**
   * Metres a second; of a dynamic body, of its centre of mass. A kinematic body keeps it; of one that was led by `arriveAt` or `travel`
   * it is what the body did in the last step. A static one has none. Setting it wakes.
   */
  get velocity(): Vec3 {
    return this.readMotion(0)
  }

  set velocity(value: Vec3) {
    this.setMotion(0, value, 'velocity')
  }

  /** How it turns: the axis, as long as the radians a second (right-handed). */
  get spin(): Vec3 {
    return this.readMotion(3)
  }

  set spin(value: Vec3) {
    this.setMotion(3, value, 'spin')
  }

  override poseAt(alpha: number, out: MutablePose3): MutablePose3 {
    finite(alpha, 'alpha', ALPHA)
    record(out, 'the object that a pose is written into')
    record(out.at, "'at' of the object that a pose is written into")
    record(out.rotation, "'rotation' of the object that a pose is written into")
    if (this.alive) this.host.kernel.poses.interpolate(this.slot, alpha, pose)
    else keep(this.lastPose.at, this.lastPose.rotation, pose)
    out.at.x = pose[0]
    out.at.y = pose[1]
    out.at.z = pose[2]
    out.rotation.x = pose[3]
    out.rotation.y = pose[4]
    out.rotation.z = pose[5]
    out.rotation.w = pose[6]
    return out
  }

  /** @internal */
  override markDead(): void {
    this.lastPose = Object.freeze({ at: Object.freeze(this.at), rotation: Object.freeze(this.rotation) })
    super.markDead()
  }

  private readMotion(from: number): Vec3 {
    if (!this.alive) return ORIGIN
    const data = this.host.kernel.poses.motionOf(this.slot)
    const at = 6 * this.slot + from
    return Object.freeze({ x: data[at], y: data[at + 1], z: data[at + 2] })
  }

  private setMotion(from: number, value: Vec3, what: string): void {
    this.useMover(what)
    const { x, y, z } = checkVec(value, `'${what}' of a body`, from === 0 ? SPEED * this.host.unit : SPIN)
    const { poses } = this.host.kernel
    const { data } = poses.velocity
    const at = 6 * this.slot + from
    // Its own velocity reads as that again.
    poses.isLed.data[this.slot] = 0
    data[at] = x
    data[at + 1] = y
    data[at + 2] = z
    this.holdLocks()
    this.wakeUp()
  }

  /** Inertia tensor about the centre of mass and the body's axes, kilograms times length squared; all 0 for what is not dynamic. */
  get inertia(): Inertia {
    const data = this.forces()?.dynamics.inertia.data
    const at = TENSOR * this.slot
    const part = (i: number): number => data?.[at + i] ?? 0
    return Object.freeze({ xx: part(0), yy: part(1), zz: part(2), xy: part(3), xz: part(4), yz: part(5) })
  }

  /** Moments about the body's axes, a whole tensor, or null for what the shapes give. */
  set inertia(value: Vec3 | Inertia | null) {
    const { givenInertia } = this.useDynamic('inertia').dynamics
    const tensor = value === null ? NO_TENSOR : tensorOf(value)
    for (let i = 0; i < TENSOR; i++) givenInertia.data[TENSOR * this.slot + i] = tensor[i]
    this.host.weigh(this.slot)
  }

  /** Centre of mass in the world; of what is not dynamic, its origin. */
  get centre(): Vec3 {
    const forces = this.forces()
    if (forces === null) return this.at
    forces.motion.centreOf(this.slot, pose, 0)
    return Object.freeze({ x: pose[0], y: pose[1], z: pose[2] })
  }

  /** What it cannot do: move along x, y, z, turn about them (the world's axes). */
  get locks(): Required<Locks> & { readonly turn: Required<TurnLocks> } {
    const bits = this.forces()?.dynamics.locks.data[this.slot] ?? 0
    const locked = (from: number): Required<TurnLocks> =>
      Object.freeze({ x: (bits & from) !== 0, y: (bits & (from << 1)) !== 0, z: (bits & (from << 2)) !== 0 })
    return Object.freeze({ ...locked(LOCK_X), turn: locked(LOCK_TURN_X) })
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
  applyForce(force: Vec3, point?: Vec3): void {
    this.push('applyForce', force, point)
    const { data } = this.useDynamic('applyForce').dynamics.force
    for (let k = 0; k < 6; k++) data[6 * this.slot + k] += pushed[k]
    this.wakeUp()
  }

  /** Turns with a torque (newtons times length, about an axis as long as that, right-handed) during the next step. */
  applyTorque(torque: Vec3): void {
    const { dynamics } = this.useDynamic('applyTorque')
    const { x, y, z } = checkVec(torque, 'the torque of applyTorque', FORCE)
    const { data } = dynamics.force
    data[6 * this.slot + 3] += x
    data[6 * this.slot + 4] += y
    data[6 * this.slot + 5] += z
    this.wakeUp()
  }

  /**
   * Changes velocity and spin at once, by an impulse (newton seconds).
   * @param point where it acts, in the world; default the centre of mass
   */
  applyImpulse(impulse: Vec3, point?: Vec3): void {
    this.push('applyImpulse', impulse, point)
    this.gain(this.useDynamic('applyImpulse'))
  }

  /** Changes the spin at once, by a turning impulse (newton seconds times length, about an axis as long as that). */
  applySpinImpulse(impulse: Vec3): void {
    const forces = this.useDynamic('applySpinImpulse')
    const { x, y, z } = checkVec(impulse, 'the impulse of applySpinImpulse', FORCE)
    pushed.fill(0)
    pushed[3] = x
    pushed[4] = y
    pushed[5] = z
    this.gain(forces)
  }

  /** The velocity of the point of the body that is at a place in the world. */
  velocityAt(point: Vec3): Vec3 {
    this.use('velocityAt')
    const { x, y, z } = checkVec(point, 'the point of velocityAt')
    const { centre, velocity, spin } = this
    const turned = cross(spin, { x: x - centre.x, y: y - centre.y, z: z - centre.z })
    return { x: velocity.x + turned.x, y: velocity.y + turned.y, z: velocity.z + turned.z }
  }

  /** Writes a push at a point, and how it turns, to `pushed`. */
  private push(what: string, value: Vec3, point: Vec3 | undefined): void {
    this.useDynamic(what)
    const force = checkVec(value, `the first argument of ${what}`, FORCE)
    pushed.fill(0)
    pushed[0] = force.x
    pushed[1] = force.y
    pushed[2] = force.z
    if (point === undefined) return
    const { x, y, z } = checkVec(point, `the point of ${what}`)
    const { centre } = this
    const turned = cross({ x: x - centre.x, y: y - centre.y, z: z - centre.z }, force)
    pushed[3] = turned.x
    pushed[4] = turned.y
    pushed[5] = turned.z
  }

  /**
   * Moves a kinematic body by a displacement, at once: it is swept with all of its colliders that are no sensors, goes through nothing that is
   * solid to it at any speed, and ends a few units in the last place from what stopped it. First it leaves what it overlaps. What it
   * touched and crossed is told with the next step. Cost: a few shape casts for each hit; with `out` nothing is allocated.
   * @param by lengths
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape` (a halfspace or a mesh cannot be cast), `dead-handle`, `locked`
   * @example const { ground } = diver.travel({ x: 0.1, y: -0.2, z: 0 }, { onHit: 'slide', stepHeight: 0.3, snap: 0.2 })
   */
  travel(by: Vec3, options?: TravelOptions3<K>): TravelResult3<K> {
    this.change('travel')
    return this.host.traveller.travel(this, by, options)
  }

  /** The joints that hold it, in the order of their age. Allocates. */
  joints(): Joint3<K>[] {
    return this.forces()?.joints.of(this.slot) ?? []
  }

  /** Takes what stands in `pushed` into velocity and spin. */
  private gain({ dynamics, motion }: Forces3): void {
    const { poses } = this.host.kernel
    const { data } = poses.velocity
    const at = 6 * this.slot
    motion.inverseInertia(this.slot, turning)
    const [px, py, pz, x, y, z] = pushed
    data[at] += px * dynamics.inverse.data[3 * this.slot]
    data[at + 1] += py * dynamics.inverse.data[3 * this.slot + 1]
    data[at + 2] += pz * dynamics.inverse.data[3 * this.slot + 2]
    data[at + 3] += turning[0] * x + turning[3] * y + turning[4] * z
    data[at + 4] += turning[3] * x + turning[1] * y + turning[5] * z
    data[at + 5] += turning[4] * x + turning[5] * y + turning[2] * z
    const { held } = poses
    poses.clampSpeed(this.slot, Float64Array.of(SPEED * this.host.unit, SPIN))
    poses.held = held
    this.wakeUp()
  }

  /** Takes away the speed that the locks forbid. */
  private holdLocks(): void {
    const forces = this.forces()
    if (forces === null || this.type !== 'dynamic') return
    const bits = forces.dynamics.locks.data[this.slot]
    const { data } = this.host.kernel.poses.velocity
    for (let k = 0; k < 6; k++) if ((bits & (1 << k)) !== 0) data[6 * this.slot + k] = 0
  }

  /** Writes a point or a pose as numbers. */
  protected override readTarget(to: Vec3 | Pose3, what: string): Float64Array {
    if (typeof to !== 'object' || to === null) {
      throw new KeenError(
        'bad-argument',
        `${what} takes a point { x, y, z } or a pose { at, rotation }, got ${show(to)}`,
      )
    }
    if (!('at' in to)) keep(checkVec(to, `the point of ${what}`), this.rotation, pose)
    else {
      const at = checkVec(to.at, `'at' of ${what}`)
      checkRotation(to.rotation, `'rotation' of ${what}`, pose, 3)
      pose[0] = at.x
      pose[1] = at.y
      pose[2] = at.z
    }
    return pose
  }
}

function keep(at: Vec3, rotation: Rotation, out: Float64Array): void {
  out[0] = at.x
  out[1] = at.y
  out[2] = at.z
  out[3] = rotation.x
  out[4] = rotation.y
  out[5] = rotation.z
  out[6] = rotation.w
}

const AXES = ['x', 'y', 'z'] as const
const TENSOR_FIELDS = ['xx', 'yy', 'zz', 'xy', 'xz', 'yz'] as const

function tensorOf(value: Vec3 | Inertia): Float64Array {
  const what = "'inertia' of a body"
  record(value, what)
  const whole = 'xx' in value
  onlyFields(value, whole ? TENSOR_FIELDS : AXES, what)
  const tensor = new Float64Array(TENSOR)
  AXES.forEach((axis, i) => {
    const field = whole ? TENSOR_FIELDS[i] : axis
    tensor[i] = positive(
      (value as unknown as Record<string, unknown>)[field],
      `'${field}' of ${what}`,
      INERTIA,
      LEAST_INERTIA,
    )
  })
  if (!whole) return tensor
  for (let i = 3; i < TENSOR; i++)
    tensor[i] = finite(value[TENSOR_FIELDS[i]], `'${TENSOR_FIELDS[i]}' of ${what}`, INERTIA)
  if (!isPositive(value)) {
    throw new KeenError('bad-argument', `${what} is that of nothing: its products are too large for its moments`)
  }
  return tensor
}

function locksOf(value: Locks): number {
  const what = "'locks' of a body"
  onlyFields(value, [...AXES, 'turn'], what)
  const bits = (of: TurnLocks, where: string): number =>
    AXES.reduce((sum, axis, i) => (flag(of[axis], false, `'${axis}' in ${where}`) ? sum + (1 << i) : sum), 0)
  const { turn } = value
  if (turn === undefined || typeof turn === 'boolean') return bits(value, what) + (turn === true ? 7 * LOCK_TURN_X : 0)
  onlyFields(turn, AXES, `'turn' in ${what}`)
  return bits(value, what) + LOCK_TURN_X * bits(turn, `'turn' in ${what}`)
}

/** Checks what a dynamic body is made with, before anything of it is. */
export function checkDynamic(spec: Partial<Pick<BodySpec3<Kinds>, (typeof DYNAMIC_FIELDS)[number]>>): void {
  checkForced(spec)
  if (spec.inertia !== undefined) tensorOf(spec.inertia)
  if (spec.locks !== undefined) locksOf(spec.locks)
}

const MOVE = 'teleport() it, or send a kinematic body there with arriveAt()'
refuseAssignment(Body3.prototype, {
  at: MOVE,
  rotation: MOVE,
  pose: MOVE,
  centre: 'it follows from the shapes; teleport() moves the body',
})
