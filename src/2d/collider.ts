/** A collider of the plane: a shape on a body, and how it is filtered. */
import { ColliderHandle, type Kinds } from '../core/handle.ts'
import type { Body2 } from './body.ts'
import type { Shape2 } from './shapes/shape.ts'
import type { Vec2 } from './vector.ts'
import type { World2 } from './world.ts'

export class Collider2<K extends Kinds = Kinds> extends ColliderHandle<K, Body2<K>> {
  /** Where the shape's origin lies within its body. */
  readonly at: Vec2
  /** How the shape is turned within its body. */
  readonly angle: number
  /** @internal */ protected readonly host: World2<K>
  private form: Shape2

  /** @internal */
  constructor(host: World2<K>, slot: number, body: Body2<K>, shape: Shape2, at: Vec2, angle: number) {
    super(host, slot, body)
    this.host = host
    this.form = shape
    this.at = Object.freeze({ x: at.x, y: at.y })
    this.angle = angle
  }

  /** Its shape. Another can be assigned at any time; what begins or ends by that has cause `reshaped`. */
  get shape(): Shape2 {
    return this.form
  }

  set shape(value: Shape2) {
    this.change('shape')
    this.host.reshape(this, value)
    this.form = value
  }
}
