/**
 * Dynamic bodies in the way of one that travels: whether the newton seconds that it may give bring them out of its way, and how far there is
 * room for them. What cannot be pushed is a wall, and still gets what could be given.
 */
import { HIT_NORMAL } from '../query/scratch.ts'
import { GRAVITY_SCALE, TUNING } from '../solve/dynamics.ts'
import { DYNAMIC, type Population } from '../state/population.ts'
import type { BodyCaster } from './caster.ts'

/** Bodies in a row that are pushed by one another, at most. */
const MOST_IN_A_ROW = 16

/** What a pusher works on. */
export interface PusherSetup {
  readonly population: Population<object, object>
  /** A caster of its own: for the way of what is pushed. */
  readonly caster: BodyCaster
  /** One over the mass along each axis, 0 where a body is locked: three numbers. */
  readonly inverse: { readonly data: Float64Array }
  readonly velocity: { readonly data: Float64Array }
  readonly velocitySize: number
  /** Lengths a second squared, and how much of it pulls a body. */
  readonly gravity: Float64Array
  readonly tuning: { readonly data: Float64Array }
  readonly dt: number
  wake(body: number): void
}

export class Pusher {
  private readonly setup: PusherSetup
  private readonly way: Float64Array
  private readonly out = new Float64Array(2)

  constructor(setup: PusherSetup) {
    this.setup = setup
    this.way = new Float64Array(setup.caster.axes)
  }

  bodyOf(collider: number): number {
    return this.setup.population.filter.body.data[collider]
  }

  isPushable(collider: number): boolean {
    return this.setup.population.type.data[this.bodyOf(collider)] === DYNAMIC
  }

  /**
   * Pushes a body out of a way.
   * @param normal unit, towards the traveller
   * @param rest the way that is left to the traveller
   * @param budget newton seconds that it may still give, at `budget[at]`; what is given is taken off
   * @param traveller its body
   * @returns the part of the rest that becomes free; 0 for a wall
   */
  push(
    collider: number,
    normal: Float64Array,
    rest: Float64Array,
    budget: Float64Array,
    at: number,
    traveller: number,
  ): number {
    const { setup, way, out } = this
    const { caster } = setup
    const { axes } = caster
    let far = 0
    for (let k = 0; k < axes; k++) far -= rest[k] * normal[k]
    if (!(far > 0)) return 0
    const body = this.bodyOf(collider)
    for (let k = 0; k < axes; k++) way[k] = -normal[k] * far
    out[0] = 0
    out[1] = 1
    caster.passed.clear()
    caster.passed.push(traveller)
    this.findRoom(body, normal, far)
    caster.passed.clear()
    const needed = out[0]
    if (needed <= budget[at]) {
      budget[at] -= needed
      // The step moves it: it is pressed by what has moved.
      setup.wake(body)
      return out[1]
    }
    const given = budget[at]
    budget[at] = 0
    const { inverse, velocity, velocitySize } = setup
    for (let k = 0; k < axes; k++) {
      velocity.data[velocitySize * body + k] -= normal[k] * given * inverse.data[3 * body + k]
    }
    setup.wake(body)
    return 0
  }

  /** Adds the impulse that a body and those before it need, and takes the room that they have: to `out`. */
  private findRoom(first: number, normal: Float64Array, far: number): void {
    const { setup, way, out } = this
    const { caster, dt } = setup
    const { axes } = caster
    let body = first
    for (let row = 0; row < MOST_IN_A_ROW; row++) {
      out[0] += this.impulseFor(body, normal, far / dt)
      if (!(out[0] < Infinity)) return
      caster.passed.push(body)
      if (caster.begin(body) >= 0) {
        out[0] = Infinity
        return
      }
      if (!caster.cast(way)) return
      let against = 0
      for (let k = 0; k < axes; k++) against -= caster.hit[HIT_NORMAL + k] * way[k]
      // What it merely brushes does not hold it.
      if (!(against > 0.5 * far)) return
      const next = this.bodyOf(caster.hitOther)
      if (setup.population.type.data[next] !== DYNAMIC) {
        if (caster.hit[0] < out[1]) out[1] = caster.hit[0]
        return
      }
      body = next
    }
    out[0] = Infinity
  }

  /** The impulse that gives a body a speed against a normal in the next step, gravity counted in; Infinity where it is locked. */
  private impulseFor(body: number, normal: Float64Array, speed: number): number {
    const { inverse, velocity, velocitySize, gravity, tuning, dt, caster } = this.setup
    let light = 0
    let has = 0
    for (let k = 0; k < caster.axes; k++) {
      light += normal[k] * normal[k] * inverse.data[3 * body + k]
      has -=
        normal[k] *
        (velocity.data[velocitySize * body + k] + gravity[k] * tuning.data[TUNING * body + GRAVITY_SCALE] * dt)
    }
    if (!(light > 0)) return Infinity
    return speed > has ? (speed - has) / light : 0
  }
}
