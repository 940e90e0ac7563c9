/**
 * The loop of a solver of sequential impulses with warm starting (Catto, 2005) in small substeps (Macklin et al., 2019). In each substep
 * every constraint is solved once, soft, and then relaxed. The loop knows neither what the rows of bodies hold nor what kinds of
 * constraints there are: a kind is one file that says how its rows are made, solved and read, and one line in the list of kinds.
 */
import type { Islands } from './islands.ts'

/** Substeps a tick. */
const SUBSTEPS = 5
/**
 * Passes a substep that take back the speed by which overlaps were pushed apart: so many, and more as long as one of them still changes a
 * speed by so much (lengths a second, times the unit), up to a bound. In a pile what contacts push out adds up from row to row, and two
 * passes would leave the top with much of it.
 */
const RELAX = 2
const MOST_RELAX = 8
const STILL_CHANGING = 0.2

/** Places in what is handed on: times, in seconds; in an array, for a double that crosses a call is boxed. */
export const TICK = 0
export const SUBSTEP = 1
/** Here a pass leaves how much it has changed a speed, at most. */
export const CHANGE = 2

/** The rows of the bodies that take part in a tick. */
export interface BodyRows {
  /** Forces and damping act for a substep, on the bodies that a constraint holds. */
  accelerate(time: Float64Array): void
  /** The same bodies move on by a substep. */
  advance(time: Float64Array): void
  /** What no constraint holds moves through the whole tick in closed form. */
  fly(time: Float64Array): void
}

/** One kind of constraint, with all its rows of this tick. */
export interface ConstraintKind {
  /** Makes the rows of this tick. */
  begin(): void
  /** Before the first substep: what depends on its length. */
  prepare(time: Float64Array): void
  /** Begins a substep with the impulses of the last. */
  warmStart(): void
  /** One pass over all rows; raises `time[CHANGE]`. @param soft false for a pass that takes back what pushed apart */
  solve(time: Float64Array, soft: boolean): void
  /** The bodies have moved on by a substep. */
  moved(): void
  /** Ends a substep. */
  sum(): void
  /** After the last substep: what acts once a tick. */
  finish(): void
  /** Hands over what was found, for the next tick and for those who ask. @param now the tick */
  readBack(now: number): void
  /** Joins the islands of the bodies that its rows hold together. */
  joinIslands(islands: Islands): void
}

export class SubstepLoop {
  /** In the order in which they are solved: the last word is that of the last. */
  readonly kinds: ConstraintKind[]
  /** Whether what was pushed apart keeps that speed: a burst. */
  burst = false
  private readonly bodies: BodyRows
  private readonly time = new Float64Array(3)
  private readonly limit: number

  /** @param unit the user's lengths to a metre */
  constructor(bodies: BodyRows, kinds: ConstraintKind[], unit: number) {
    this.bodies = bodies
    this.kinds = kinds
    this.limit = STILL_CHANGING * unit
  }

  /** Moves all rows of bodies through a tick of `dt` seconds. */
  run(dt: number): void {
    const { bodies, kinds, time } = this
    time[TICK] = dt
    time[SUBSTEP] = dt / SUBSTEPS
    for (const kind of kinds) kind.begin()
    for (const kind of kinds) kind.prepare(time)
    for (let step = 0; step < SUBSTEPS; step++) {
      bodies.accelerate(time)
      for (const kind of kinds) kind.warmStart()
      for (const kind of kinds) kind.solve(time, true)
      bodies.advance(time)
      for (const kind of kinds) kind.moved()
      if (!this.burst) this.relax()
      for (const kind of kinds) kind.sum()
    }
    for (const kind of kinds) kind.finish()
    bodies.fly(time)
  }

  private relax(): void {
    const { kinds, time } = this
    for (let pass = 0; pass < MOST_RELAX; pass++) {
      time[CHANGE] = 0
      for (const kind of kinds) kind.solve(time, false)
      // Nothing at all: what there is was solved exactly.
      if (time[CHANGE] === 0 || (pass + 1 >= RELAX && time[CHANGE] <= this.limit)) return
    }
  }
}
