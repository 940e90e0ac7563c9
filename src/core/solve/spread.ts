/**
 * Bodies that begin at exactly one place. There is no direction between their centres, so all would be pushed the same way and leave as one
 * column. Each is first moved a little in a direction of its own, given by its age, and they leave to all sides.
 */
import { cosSin } from '../util/maths.ts'

/** Part of half the width of a body by which it is moved. */
const ASIDE = 1e-4
const TURN = 6.283185307179586
/** By how much of a turn, and of the height of a sphere, each direction differs from the last: they are spread evenly, however many there are (Roberts, 2018). */
const STEP = 0.7548776662466927
const RISE = 0.5698402909980532

interface Numbers {
  readonly data: Float64Array
}

/** When colliders were made. */
interface Ages {
  readonly data: Int32Array
}

interface Masses {
  /** One over the mass along each axis, 0 where it is locked: three numbers a body. */
  readonly inverse: Numbers
  readonly halfWidth: Numbers
}

export class Spread {
  /** The centres of two. */
  readonly centres: Float64Array
  private readonly axes: number
  private readonly serial: Ages
  private readonly dynamics: Masses
  private readonly place: Numbers
  /** An angle, its cosine and its sine. */
  private readonly turn = new Float64Array(3)
  private readonly way = new Float64Array(3)

  constructor(axes: number, serial: Ages, dynamics: Masses, place: Numbers) {
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

  /** Moves a body a little in the direction that the age of a collider gives, along the axes that are not locked. Returns whether it moved. */
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
