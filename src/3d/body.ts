/** A body of 3D: a pose, a motion, and the colliders that move with it. */

import type { Overlap, Touch } from '../core/bodies.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { PlacedBody } from '../core/state/placedBody.ts'
import { finite, record, refuseAssignment } from '../core/util/checks.ts'
import { KeenError, show } from '../core/util/errors.ts'
import { SPEED, SPIN } from '../core/util/limits.ts'
import type { Collider3 } from './collider.ts'
import { KEPT } from './poses.ts'
import {
  checkRotation,
  checkVec,
  type MutablePose3,
  ORIGIN,
  type Pose3,
  type Rotation,
  UPRIGHT,
  type Vec3,
} from './vector.ts'
import type { ColliderSpec3, World3 } from './world.ts'

/** Whom a body overlaps now: asked afresh from shapes and filter. */
export type Overlap3<K extends Kinds = AnyKinds> = Overlap<Body3<K>, Collider3<K>>

/** Whom a body touched in the last step. */
export type Touch3<K extends Kinds = AnyKinds> = Touch<Body3<K>, Collider3<K>, Vec3>

const pose = new Float64Array(KEPT)
/** How far beyond the two ticks a pose may be asked for. */
const ALPHA = 1e6

/** A body of 3D: a pose, a motion, and the colliders that move with it. Made by `world.add`. */
export class Body3<K extends Kinds = AnyKinds> extends PlacedBody<
  K,
  Body3<K>,
  Collider3<K>,
  Vec3,
  Pose3,
  MutablePose3,
  ColliderSpec3<K>
> {
  /** @internal */ protected readonly host: World3<K>
  private lastPose: Pose3 = { at: ORIGIN, rotation: UPRIGHT }

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

  /** Metres a second. A kinematic body keeps it; a static one has none. */
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
    const { data } = this.host.kernel.poses.velocity
    const at = 6 * this.slot + from
    return Object.freeze({ x: data[at], y: data[at + 1], z: data[at + 2] })
  }

  private setMotion(from: number, value: Vec3, what: string): void {
    this.useMover(what)
    const { x, y, z } = checkVec(value, `'${what}' of a body`, from === 0 ? SPEED * this.host.unit : SPIN)
    const { data } = this.host.kernel.poses.velocity
    const at = 6 * this.slot + from
    data[at] = x
    data[at + 1] = y
    data[at + 2] = z
  }

  private useMover(what: string): void {
    this.change(what)
    if (this.type === 'kinematic') return
    throw new KeenError(
      'bad-argument',
      `${what}: ${this} is static and does not move; teleport it, or make it kinematic`,
    )
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

const MOVE = 'teleport() it, or send a kinematic body there with arriveAt()'
refuseAssignment(Body3.prototype, {
  at: MOVE,
  rotation: MOVE,
  pose: MOVE,
})
