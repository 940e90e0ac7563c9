/** What a travel tells: how far it came, what it hit, what it stands on. */
import type { Vectors } from '../query/lines.ts'
import { KeenError, show } from '../util/errors.ts'

/** What a body hit on its way. */
export interface TravelHit<B, C, V> {
  /** What was hit, and its body. */
  collider: C
  body: B
  /** The collider of the traveller that hit it. */
  mine: C
  /** Where the two met. */
  readonly point: V
  /** Unit, towards the traveller. */
  readonly normal: V
  /** Where the origin of the traveller was then. */
  readonly at: V
  /** Lengths along the way so far. */
  distance: number
  /** Whether it was overlapped at the start, and left first; then `depth` is how deep. */
  startedInside: boolean
  depth: number
  /** A dynamic body that yielded to `push`: the way went on. */
  pushed: boolean
  /** The edge of a polyline or the triangle of a surface, in the user's own numbering; -1 for other shapes. */
  part: number
  /** Index in the compound; -1 for other shapes. */
  child: number
}

/** What a body stands on. */
export interface Ground<B, C, V> {
  collider: C
  body: B
  readonly point: V
  /** Unit normal of the face that bears it. */
  readonly normal: V
  /** Radians from level. */
  slope: number
}

/** What a body is crushed by: two that leave it no room. */
export interface Crushed<B, C> {
  /** What came into the body. */
  a: B
  aCollider: C
  /** What it is pressed against. */
  b: B
  bCollider: C
}

/** What a travel tells. Made by `travelResult()`, or by each call that is given none. */
export class TravelResult<B, C, V, Hit extends TravelHit<B, C, V> = TravelHit<B, C, V>> {
  /** From where the body was to where it is. */
  readonly moved: V
  /** What is left of the way when `maxHits` were met, or what `stop` left: along `heading`. */
  readonly remainder: V
  /** The direction in which it would go on, unit; zero where it never was to move. */
  readonly heading: V
  /** What was hit, in order. */
  readonly hits: Hit[] = []
  /** What it stands on; null in the air, and where nothing was said about walking. */
  ground: Ground<B, C, V> | null = null
  /** Whether it stands now and did not after its last travel; and the other way round. */
  landed = false
  leftGround = false
  /** The two between which it has no room; null where it has. */
  crushed: Crushed<B, C> | null = null
  readonly #vectors: Vectors<V>
  readonly #spare: Hit[] = []
  readonly #ground: Ground<B, C, V>
  readonly #crushed: Crushed<B, C> = { a: null as B, aCollider: null as C, b: null as B, bCollider: null as C }

  /** @internal */
  constructor(vectors: Vectors<V>) {
    this.#vectors = vectors
    this.moved = vectors.zero()
    this.remainder = vectors.zero()
    this.heading = vectors.zero()
    this.#ground = { collider: null as C, body: null as B, point: vectors.zero(), normal: vectors.zero(), slope: 0 }
  }

  /** Whether something is made by `travelResult()` of a dimension. @internal */
  static is(value: unknown, axes: number): boolean {
    return typeof value === 'object' && value !== null && #vectors in value && value.#vectors.axes === axes
  }

  /** Empties it. @internal */
  reset(): void {
    const { hits } = this
    // One by one: an array whose length is set to 0 gives its memory back.
    while (hits.length > 0) this.#spare.push(hits.pop()!)
    this.ground = null
    this.crushed = null
    this.landed = false
    this.leftGround = false
  }

  /** One more hit, to be filled. @internal */
  addHit(): Hit {
    const vectors = this.#vectors
    const hit =
      this.#spare.pop() ??
      ({
        collider: null as C,
        body: null as B,
        mine: null as C,
        point: vectors.zero(),
        normal: vectors.zero(),
        at: vectors.zero(),
        distance: 0,
        startedInside: false,
        depth: 0,
        pushed: false,
        part: -1,
        child: -1,
      } as TravelHit<B, C, V> as Hit)
    this.hits.push(hit)
    return hit
  }

  /** The ground, to be filled. @internal */
  setGround(): Ground<B, C, V> {
    this.ground = this.#ground
    return this.#ground
  }

  /** @internal */
  setCrushed(): Crushed<B, C> {
    this.crushed = this.#crushed
    return this.#crushed
  }
}

/** Checks the object that a travel writes into. */
export function checkResult(out: unknown, axes: number): void {
  if (TravelResult.is(out, axes)) return
  throw new KeenError('bad-argument', `'out' of travel must be made by travelResult(), got ${show(out)}`)
}
