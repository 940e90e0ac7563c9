/** A collider of 2D: a shape on a body, and how it is filtered. */

import { SurfaceCollider } from '../core/solve/surfaceCollider.ts'
import { SURFACE_SPEED } from '../core/solve/surfaces.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { finite, refuseAssignment } from '../core/util/checks.ts'
import { SPEED } from '../core/util/limits.ts'
import type { Body2 } from './body.ts'
import type { Shape2 } from './shapes/shape.ts'
import { checkDirection, type Vec2 } from './vector.ts'
import type { World2 } from './world.ts'

/** A collider of 2D: a shape on a body, and how it is filtered. */
export class Collider2<K extends Kinds = AnyKinds> extends SurfaceCollider<K, Body2<K>> {
  /** @internal */ protected readonly host: World2<K>
  private form: Shape2
  private readonly place: Vec2
  private readonly turn: number

  /** @internal */
  constructor(host: World2<K>, slot: number, body: Body2<K>, shape: Shape2, at: Vec2, angle: number) {
    super(host, slot, body)
    this.host = host
    this.form = shape
    this.place = Object.freeze({ x: at.x, y: at.y })
    this.turn = angle
    Object.seal(this)
  }

  /** Where the shape's origin lies within its body. */
  get at(): Vec2 {
    return this.place
  }

  /** How the shape is turned within its body. */
  get angle(): number {
    return this.turn
  }

  /** Lengths a second at which it carries what lies on it: along the surface, to the right when the normal points up. */
  get surfaceSpeed(): number {
    return this.surface(SURFACE_SPEED)
  }

  set surfaceSpeed(value: number) {
    this.setSurface(SURFACE_SPEED, finite(value, "'surfaceSpeed' of a collider", SPEED * this.host.unit))
  }

  /** The direction (unit, about the body) along which it lets through; null where it holds from all sides. */
  get oneWay(): Vec2 | null {
    if (!this.alive) return null
    const { data } = this.host.kernel.oneWay
    const x = data[2 * this.slot]
    const y = data[2 * this.slot + 1]
    return x === 0 && y === 0 ? null : { x, y }
  }

  set oneWay(value: Vec2 | null) {
    this.change('oneWay')
    this.host.kernel.setOneWay(this.slot, checkOneWay(value, "'oneWay' of a collider"))
    this.host.kernel.wakeTouching(this.slot)
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

/** A direction as a unit vector; zero where there is none. */
export function checkOneWay(value: Vec2 | null | undefined, what: string): Vec2 {
  return value === null || value === undefined ? NOWHERE : checkDirection(value, what)
}

const NOWHERE: Vec2 = Object.freeze({ x: 0, y: 0 })

const WITHIN = 'attach() a collider there, and remove() this one'
refuseAssignment(Collider2.prototype, { at: WITHIN, angle: WITHIN })
