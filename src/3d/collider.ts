/** A collider of space: a shape on a body, and how it is filtered. */
import { ColliderHandle, type Kinds } from '../core/handle.ts'
import type { Body3 } from './body.ts'
import type { Shape3 } from './shapes/shape.ts'
import type { Rotation, Vec3 } from './vector.ts'
import type { World3 } from './world.ts'

export class Collider3<K extends Kinds = Kinds> extends ColliderHandle<K, Body3<K>> {
  /** Where the shape's origin lies within its body. */
  readonly at: Vec3
  /** How the shape is turned within its body: a unit quaternion. */
  readonly rotation: Rotation
  /** @internal */ protected readonly host: World3<K>
  private form: Shape3

  /** @internal */
  constructor(host: World3<K>, slot: number, body: Body3<K>, shape: Shape3, at: Vec3, rotation: Rotation) {
    super(host, slot, body)
    this.host = host
    this.form = shape
    this.at = Object.freeze({ x: at.x, y: at.y, z: at.z })
    this.rotation = Object.freeze({ x: rotation.x, y: rotation.y, z: rotation.z, w: rotation.w })
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
