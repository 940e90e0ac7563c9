/** What a travel is asked for, and its checks. */
import type { Vectors } from '../query/lines.ts'
import { flag, notNegative, oneOf, onlyFields } from '../util/checks.ts'
import { KeenError } from '../util/errors.ts'
import { COORDINATE, FORCE } from '../util/limits.ts'
import { cosSin } from '../util/maths.ts'

/** What to do at a hit. */
type OnHit = 'stop' | 'slide' | 'bounce'

/** How a body travels. */
export interface TravelOptions<V, Filter, Result> {
  /** At a hit: `'stop'` (default), `'slide'` along what was hit, or `'bounce'` off it. */
  onHit?: OnHit | undefined
  /** Hits after which it stops; what is left is the `remainder`. Default 8. */
  maxHits?: number | undefined
  /** For a body that walks: the direction away from the ground. Default along y, where any of the following is given. */
  up?: V | undefined
  /** Radians from level up to which ground bears it; what is steeper is a wall. Default 0.8. */
  steepest?: number | undefined
  /** Lengths: a ledge no higher is stepped onto. Default 0. */
  stepHeight?: number | undefined
  /** Lengths by which it follows ground that falls away, when it stood and does not move up. Default 0. */
  snap?: number | undefined
  /** Whether what it stands on carries it along: lifts, turning and tilting platforms, belts. Default false. */
  ride?: boolean | undefined
  /** Newton seconds that it may give, a travel, to dynamic bodies in its way. Default 0: they are walls. */
  push?: number | undefined
  /** Whom it meets, as for queries. Default: what is solid to it by the ordinary formula, with one-way sides and decide hooks. */
  filter?: Filter | undefined
  /** A result of `travelResult()` to write into; then nothing is allocated. */
  out?: Result | undefined
}

const FIELDS = ['onHit', 'maxHits', 'up', 'steepest', 'stepHeight', 'snap', 'ride', 'push', 'filter', 'out'] as const
const MODES = ['stop', 'slide', 'bounce'] as const
const STOP = 0
export const SLIDE = 1
export const BOUNCE = 2
const MAX_HITS = 8
const MOST_HITS = 10_000
/** Radians from level, where none is said. */
const STEEPEST = 0.8
const RIGHT_ANGLE = Math.PI / 2

/** The options of a travel, as numbers. */
export class TravelSettings<V> {
  mode = STOP
  /** Whether the body walks: an up, or anything that needs one, was given. */
  walks = false
  ride = false
  readonly up: Float64Array
  /** Of the steepest ground: the angle, its cosine and sine. */
  readonly steepest = new Float64Array(3)
  /** Step height, snap, push, most hits. */
  readonly numbers = new Float64Array(4)
  private readonly vectors: Vectors<V>
  private readonly none: object = Object.freeze({})

  constructor(vectors: Vectors<V>) {
    this.vectors = vectors
    this.up = new Float64Array(vectors.axes)
  }

  read(given: TravelOptions<V, unknown, unknown> | undefined): void {
    const options = (given === undefined ? this.none : given) as TravelOptions<V, unknown, unknown>
    const { up, steepest, numbers, vectors } = this
    onlyFields(options, FIELDS, 'the options of travel')
    const { onHit, maxHits, stepHeight, snap, ride, push } = options
    this.mode = onHit === undefined ? STOP : MODES.indexOf(oneOf(onHit, MODES, "'onHit' of travel"))
    this.ride = flag(ride, false, "'ride' of travel")
    // Checked apart, for a number that a function returns may be put on the heap.
    if (maxHits !== undefined) notNegative(maxHits, "'maxHits' of travel", MOST_HITS)
    if (stepHeight !== undefined) notNegative(stepHeight, "'stepHeight' of travel", COORDINATE)
    if (snap !== undefined) notNegative(snap, "'snap' of travel", COORDINATE)
    if (push !== undefined) notNegative(push, "'push' of travel", FORCE)
    if (options.steepest !== undefined) notNegative(options.steepest, "'steepest' of travel (radians)", RIGHT_ANGLE)
    numbers[0] = stepHeight ?? 0
    numbers[1] = snap ?? 0
    numbers[2] = push ?? 0
    numbers[3] = maxHits ?? MAX_HITS
    steepest[0] = options.steepest ?? STEEPEST
    cosSin(steepest, 0)
    const walking = stepHeight !== undefined || snap !== undefined || options.steepest !== undefined || this.ride
    this.walks = walking || options.up !== undefined
    if (options.up !== undefined) vectors.readDirection(options.up, "'up' of travel", up, 0)
    else {
      up.fill(0)
      up[1] = 1
    }
    if (this.mode !== BOUNCE || !walking) return
    throw new KeenError(
      'bad-argument',
      "'steepest', 'stepHeight', 'snap' and 'ride' are for a body that walks, and one that bounces does not: leave them out, or take onHit: 'slide'",
    )
  }
}
