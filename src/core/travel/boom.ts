/** A camera arm: how far from its target a camera may be, so that nothing comes between; near at once, and far again softly. */
import type { Vectors } from '../query/lines.ts'
import { notNegative, onlyFields, positive } from '../util/checks.ts'
import { COORDINATE, SIZE } from '../util/limits.ts'
import { exp } from '../util/maths.ts'

/** What a boom is made from. */
export interface BoomOptions<Filter> {
  /** Radius of what is kept free about the camera, in lengths. */
  radius: number
  /** Lengths by which it stays before what it meets. Default 0. */
  margin?: number | undefined
  /** Lengths that it keeps from the target at least, even where there is no room. Default 0. */
  least?: number | undefined
  /** Seconds in which it comes half of the way back when there is room again; 0 is at once. Default 0.15. */
  halfLife?: number | undefined
  /** Whom it meets, as for queries: leave out the target itself, and what one sees through. */
  filter?: Filter | undefined
}

/** Where a boom has its camera. */
export interface BoomView<C, V> {
  /** Where the camera is. */
  readonly at: V
  /** Lengths from the target. */
  length: number
  /** What keeps it from its wished place; null where there is room. */
  heldBy: C | null
}

/** What a boom casts: a ball from one point to another. Returns how far it comes, or Infinity; notes what it has met. */
export type BoomCast = (from: Float64Array, to: Float64Array) => number

const FIELDS = ['radius', 'margin', 'least', 'halfLife', 'filter'] as const
const HALF_LIFE = 0.15
/** Half lives after which nothing is left. */
const MANY = 28

/** Checks the options of a boom. */
export function checkBoom(options: unknown): BoomOptions<unknown> {
  onlyFields(options, FIELDS, 'the options of a boom')
  const { radius, margin, least, halfLife } = options as BoomOptions<unknown>
  positive(radius, "'radius' of a boom", SIZE)
  if (margin !== undefined) notNegative(margin, "'margin' of a boom", COORDINATE)
  if (least !== undefined) notNegative(least, "'least' of a boom", COORDINATE)
  if (halfLife !== undefined) notNegative(halfLife, "'halfLife' of a boom", COORDINATE)
  return options as BoomOptions<unknown>
}

/** A camera arm. Made by `boom(world, options)`. */
export class Boom<C, V> {
  /** Where the camera is, after the last {@link aim}. */
  readonly view: BoomView<C, V>
  private readonly vectors: Vectors<V>
  private readonly cast: BoomCast
  private readonly met: { collider: C | null }
  private readonly margin: number
  private readonly least: number
  private readonly halfLife: number
  private readonly from: Float64Array
  private readonly to: Float64Array
  private reached = Infinity

  /** @internal */
  constructor(vectors: Vectors<V>, options: BoomOptions<unknown>, met: { collider: C | null }, cast: BoomCast) {
    this.vectors = vectors
    this.cast = cast
    this.met = met
    this.margin = options.margin ?? 0
    this.least = options.least ?? 0
    this.halfLife = options.halfLife ?? HALF_LIFE
    this.from = new Float64Array(vectors.axes)
    this.to = new Float64Array(vectors.axes)
    this.view = { at: vectors.zero(), length: 0, heldBy: null }
  }

  /**
   * Finds where the camera may be. What comes between brings it near at once; when there is room again, it goes back softly.
   * @param target what it looks at
   * @param wished where it would be if nothing were in the way
   * @param dt seconds since the last call
   * @returns {@link view}, which is reused
   * @throws KeenError `bad-argument`, `bad-number`
   */
  aim(target: V, wished: V, dt: number): BoomView<C, V> {
    const { vectors, from, to, view, met, margin, least, halfLife } = this
    vectors.read(target, 'the target of a boom', from, 0)
    vectors.read(wished, 'the wished place of a boom', to, 0)
    notNegative(dt, 'the seconds of a boom')
    let square = 0
    for (let k = 0; k < from.length; k++) square += (to[k] - from[k]) * (to[k] - from[k])
    const whole = Math.sqrt(square)
    met.collider = null
    const far = whole > 0 ? this.cast(from, to) : Infinity
    const room = Math.min(whole, Math.max(Math.min(least, whole), far - margin))
    view.heldBy = room < whole ? met.collider : null
    const missing = room - this.reached
    const lives = halfLife > 0 ? Math.min(dt / halfLife, MANY) : MANY
    this.reached = missing > 0 && lives < MANY ? room - missing / exp(lives * Math.LN2) : room
    view.length = this.reached
    for (let k = 0; k < from.length; k++) {
      if (whole > 0) to[k] = from[k] + ((to[k] - from[k]) * this.reached) / whole
    }
    vectors.write(view.at, to, 0)
    return view
  }

  /** Forgets how far it was: the next {@link aim} is there at once, as after a cut. */
  reset(): void {
    this.reached = Infinity
  }
}
