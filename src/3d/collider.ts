/** A collider of 3D: a shape on a body, and how it is filtered. */

import { type AnyKinds, ColliderHandle, type Kinds } from '../core/state/handle.ts'
import { refuseAssignment } from '../core/util/checks.ts'
import type { Body3 } from './body.ts'
import type { Shape3 } from './shapes/shape.ts'
import type { Rotation, Vec3 } from './vector.ts'
import type { World3 } from './world.ts'

/** A collider of 3D: a shape on a body, and how it is filtered. */
export class Collider3<K extends Kinds = AnyKinds> extends ColliderHandle<K, Body3<K>> {
  /** @internal */ protected readonly host: World3<K>
  private form: Shape3
  private readonly place: Vec3
  private readonly turn: Rotation

  /** @internal */
  constructor(host: World3<K>, slot: number, body: Body3<K>, shape: Shape3, at: Vec3, rotation: Rotation) {
    super(host, slot, body)
    this.host = host
    this.form = shape
    this.place = Object.freeze({ x: at.x, y: at.y, z: at.z })
    this.turn = Object.freeze({ x: rotation.x, y: rotation.y, z: rotation.z, w: rotation.w })
    Object.seal(this)
  }

  /** Where the shape's origin lies within its body. */
  get at(): Vec3 {
    return this.place
  }

  /** How the shape is turned within its body: a unit quaternion. */
  get rotation(): Rotation {
    return this.turn
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

const WITHIN = 'attach() a collider there, and remove() this one'
refuseAssignment(Collider3.prototype, { at: WITHIN, rotation: WITHIN })
