/** A collider of 3D: a shape on a body, and how it is filtered. */

import type { StateVisitor } from '../core/save/state.ts'
import { SurfaceCollider } from '../core/solve/surfaceCollider.ts'
import { SURFACE_SPEED } from '../core/solve/surfaces.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { refuseAssignment } from '../core/util/checks.ts'
import { SPEED } from '../core/util/limits.ts'
import type { Body3 } from './body.ts'
import type { Shape3 } from './shapes/shape.ts'
import { checkDirection, checkVec, ORIGIN, type Rotation, type Vec3 } from './vector.ts'
import type { World3 } from './world.ts'

/** A collider of 3D: a shape on a body, and how it is filtered. */
export class Collider3<K extends Kinds = AnyKinds> extends SurfaceCollider<K, Body3<K>> {
  /** @internal */ protected readonly host: World3<K>
  private form: Shape3
  private readonly place: Vec3
  private readonly turn: Rotation

  /** @internal */
  constructor(host: World3<K>, slot: number, body: Body3<K>, shape: Shape3, at: Vec3, rotation: Rotation) {
    super(host, slot, body)
    this.host = host
    this.form = shape
    // Most are at the origin of their body: that is frozen already.
    this.place = Object.isFrozen(at) ? at : Object.freeze({ x: at.x, y: at.y, z: at.z })
    this.turn = Object.isFrozen(rotation)
      ? rotation
      : Object.freeze({ x: rotation.x, y: rotation.y, z: rotation.z, w: rotation.w })
    Object.seal(this)
  }

  /** What it is made from again. @internal */
  madeOf(): { readonly shape: Shape3; readonly place: object } {
    const { form: shape, place: at, turn: rotation } = this
    return { shape, place: { at, rotation } }
  }

  /** @internal */
  override visit(v: StateVisitor): void {
    this.form = v.object(this.form)
  }

  /** Where the shape's origin lies within its body. */
  get at(): Vec3 {
    return this.place
  }

  /** How the shape is turned within its body: a unit quaternion. */
  get rotation(): Rotation {
    return this.turn
  }

  /** Lengths a second (about the body) at which its surface carries what lies on it. What leads off the surface has no effect. */
  get surfaceVelocity(): Vec3 {
    return Object.freeze({
      x: this.surface(SURFACE_SPEED),
      y: this.surface(SURFACE_SPEED + 1),
      z: this.surface(SURFACE_SPEED + 2),
    })
  }

  set surfaceVelocity(value: Vec3) {
    const { x, y, z } = checkVec(value, "'surfaceVelocity' of a collider", SPEED * this.host.unit)
    this.setSurface(SURFACE_SPEED, x)
    this.setSurface(SURFACE_SPEED + 1, y)
    this.setSurface(SURFACE_SPEED + 2, z)
  }

  /** The direction (unit, about the body) along which it lets through; null where it holds from all sides. */
  get oneWay(): Vec3 | null {
    if (!this.alive) return null
    const { data } = this.host.kernel.oneWay
    const x = data[3 * this.slot]
    const y = data[3 * this.slot + 1]
    const z = data[3 * this.slot + 2]
    return x === 0 && y === 0 && z === 0 ? null : { x, y, z }
  }

  set oneWay(value: Vec3 | null) {
    this.change('oneWay')
    this.host.kernel.setOneWay(this.slot, checkOneWay(value, "'oneWay' of a collider"))
    this.host.kernel.wakeTouching(this.slot)
  }

  /**
   * Its bounds in the world, where its body stands now; without end for a halfspace. Null when it was removed. Allocates.
   * @throws KeenError `locked` inside a decide hook
   */
  get bounds(): { readonly min: Vec3; readonly max: Vec3 } | null {
    if (!this.alive) return null
    this.host.population.guardQuery()
    this.host.kernel.refresh()
    const box = this.host.kernel.geometry.boundsOf(this.slot)
    return { min: { x: box[0], y: box[1], z: box[2] }, max: { x: box[3], y: box[4], z: box[5] } }
  }

  /** Its shape. Another can be assigned at any time; what begins or ends by that has cause `reshaped`. */
  get shape(): Shape3 {
    return this.form
  }

  set shape(value: Shape3) {
    this.change('shape')
    this.host.reshape(this, value)
    this.form = value
  }
}

/** A direction as a unit vector; zero where there is none. */
export function checkOneWay(value: Vec3 | null | undefined, what: string): Vec3 {
  return value === null || value === undefined ? ORIGIN : checkDirection(value, what)
}

const WITHIN = 'attach() a collider there, and remove() this one'
refuseAssignment(Collider3.prototype, { at: WITHIN, rotation: WITHIN })
