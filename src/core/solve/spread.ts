/**
 * Bodies that begin at exactly one place: between their centres there is no direction, and all that is done about them alike moves them alike,
 * as one column. Each is put a little aside in a direction of its own, after its age: then they leave to all sides.
 */
import { cosSin } from '../util/maths.ts'

/** Part of half the width of a body by which it is put aside. */
const ASIDE = 1e-4
const TURN = 6.283185307179586
/** Parts of a turn, and of a height, from one to the next: those that are spread evenly however many they are (Roberts, 2018). */
const STEP = 0.7548776662466927
const RISE = 0.5698402909980532

export class Spread {
  /** The centres of two. */
  readonly centres: Float64Array
  private readonly axes: number
  private readonly serial: { readonly data: Int32Array }
  private readonly dynamics: {
    readonly inverse: { readonly data: Float64Array }
    readonly halfWidth: { readonly data: Float64Array }
  }
  private readonly place: { readonly data: Float64Array }
  /** An angle, its cosine and its sine. */
  private readonly turn = new Float64Array(3)
  private readonly way = new Float64Array(3)

  constructor(axes: number, serial: Spread['serial'], dynamics: Spread['dynamics'], place: Spread['place']) {
    this.axes = axes
    this.serial = serial
    this.dynamics = dynamics
    this.place = place
    this.centres = new Float64Array(2 * axes)
  }

  /** Whether the two centres are in exactly one place. */
  isOnePlace(): boolean {
    const { axes, centres } = this
    for (let k = 0; k < axes; k++) if (centres[k] !== centres[axes + k]) return false
    return true
  }

  /** Puts a body aside, as far as it is not locked, in the direction of one of its colliders; whether it is elsewhere now. */
  shift(body: number, collider: number): boolean {
    const { axes, turn, way, place, dynamics } = this
    const age = this.serial.data[collider]
    turn[0] = (age * STEP * TURN) % TURN
    cosSin(turn, 0)
    way[2] = axes === 2 ? 0 : ((age * RISE) % 1) * 2 - 1
    const across = Math.sqrt(1 - way[2] * way[2])
    way[0] = across * turn[1]
    way[1] = across * turn[2]
    const length = ASIDE * dynamics.halfWidth.data[body]
    let moved = false
    for (let k = 0; k < axes; k++) {
      const at = axes * body + k
      const before = place.data[at]
      if (dynamics.inverse.data[3 * body + k] > 0) place.data[at] += length * way[k]
      if (place.data[at] !== before) moved = true
    }
    return moved
  }
}
