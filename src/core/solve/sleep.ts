/**
 * Who falls asleep: bodies whose whole island has been slow for long enough. Islands take their edges from every kind of constraint; what
 * a moving kinematic body touches stays awake.
 */
import { DYNAMIC, KINEMATIC, type Population } from '../state/population.ts'
import { IntList } from '../state/table.ts'
import type { Islands } from './islands.ts'
import type { ConstraintKind } from './substeps.ts'

/** Seconds that every body of an island must have been slow before it falls asleep. */
const SLEEP_DELAY = 0.5
/** Lengths a second (times the unit) below which a body is slow: its motion, and its outermost point by its spin. */
const SLOW = 0.05

export class Sleep {
  /** Bodies that fell asleep in the last tick. */
  readonly fallen = new IntList()
  private readonly islands: Islands
  private readonly slow: number
  private readonly dt: number

  /**
   * @param unit the user's lengths to a metre
   * @param dt seconds a tick
   */
  constructor(islands: Islands, unit: number, dt: number) {
    this.islands = islands
    this.dt = dt
    this.slow = SLOW * unit
  }

  /**
   * Counts how long a body has been slow.
   * @param speeds lengths a second of its centre, and of its outermost point by its spin
   * @param mayRest whether it may fall asleep at all
   */
  count(body: number, speeds: Float64Array, mayRest: boolean): void {
    const { timer } = this.islands
    const restless = speeds[0] > this.slow || speeds[1] > this.slow || !mayRest
    timer.data[body] = restless ? 0 : timer.data[body] + this.dt
  }

  /** Puts the islands to sleep that have been slow for long enough; lists their bodies in {@link fallen}. */
  settle(kinds: readonly ConstraintKind[]): void {
    const { islands, fallen } = this
    islands.separate()
    for (const kind of kinds) kind.joinIslands(islands)
    fallen.clear()
    islands.putToSleep(SLEEP_DELAY, fallen)
  }
}

/**
 * Joins the islands of two bodies that a constraint holds together. What is not dynamic joins nobody; where it is kinematic and
 * moves, what it holds stays awake.
 * @param movesA, movesB whether a body has a row of its own in this tick
 */
export function joinBodies(
  islands: Islands,
  type: Population<object, object>['type'],
  a: number,
  b: number,
  movesA: boolean,
  movesB: boolean,
): void {
  if (type.data[a] === DYNAMIC && type.data[b] === DYNAMIC) islands.join(a, b)
  else if (movesA && type.data[a] === KINEMATIC) islands.timer.data[b] = 0
  else if (movesB && type.data[b] === KINEMATIC) islands.timer.data[a] = 0
}
