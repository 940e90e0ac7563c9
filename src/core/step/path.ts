/**
 * The motion that two colliders made within a tick, and the time on it at which they met or parted: conservative advancement
 * (Mirtich, 1996). A dimension brings how far the two can safely go.
 */

import type { StateVisitor } from '../save/state.ts'
import type { Way } from '../travel/ways.ts'

/** Steps of a search: how many it may take for a meeting, and after how many a motion that keeps very near is taken to graze. */
export interface PathSteps {
  readonly meeting: number
  readonly crossing: number
}

export abstract class Path {
  private readonly steps: PathSteps

  constructor(steps: PathSteps) {
    this.steps = steps
  }

  /**
   * When the distance of two colliders first fell to `reach`, 0 to 1. Searching backwards: when it last was that small.
   * The two must be further apart than that where the search starts; else the answer is its start.
   */
  meeting(a: number, b: number, reach: number, backwards: boolean): number {
    let done = 0
    for (let step = 0; step < this.steps.meeting && done < 1; step++) {
      const safe = this.safeStep(a, b, reach, backwards, backwards ? 1 - done : done)
      if (safe === 0) break
      done += safe
    }
    if (done > 1) done = 1
    return backwards ? 1 - done : done
  }

  /**
   * When two that are apart at the end of the tick first met on the way, or -1. What only grazes, nearer than can be told
   * apart in many steps, has not met.
   */
  crossing(a: number, b: number): number {
    let done = 0
    for (let step = 0; step < this.steps.crossing; step++) {
      const safe = this.safeStep(a, b, 0, false, done)
      if (safe === 0) return done
      done += safe
      if (done >= 1) return -1
    }
    return -1
  }

  /** When, from a time on, the distance of two first falls to `reach` (which may be negative: a depth), or -1. */
  firstWithin(a: number, b: number, reach: number, from: number): number {
    let done = from
    for (let step = 0; step < this.steps.meeting; step++) {
      const safe = this.safeStep(a, b, reach, false, done)
      if (safe === 0) return done
      done += safe
      if (done >= 1) return -1
    }
    // So near for so long that it counts as met: the body stays on the near side.
    return done
  }

  /**
   * Leaves out of every search, until {@link clearAside}, those pieces of two colliders that are within reach of each other at a time; says whether
   * any others are left. A dimension without such a search leaves none.
   */
  setAside(_a: number, _b: number, _time: number, _reach: number): boolean {
    return false
  }

  /** All pieces take part again. */
  clearAside(): void {}

  /** The pieces of the last gap are left out as well, whenever others are in this tick. */
  passPieces(): void {}

  /** No pieces are passed any more. */
  forgetPassed(): void {}

  /** Its state. */
  abstract visit(v: StateVisitor): void

  /** A new tick: every path is straight. */
  abstract reset(): void

  /** The path of a body that travelled: along the whole of its way, then to where it is. */
  abstract setWay(body: number, way: Way): void

  /** Number of bends in the path of a body. */
  abstract bendsIn(body: number): number

  /** Writes the bounds of a piece at a bend of the path of its body; at its start for -1. */
  abstract boundsAtBend(piece: number, body: number, index: number, out: Float64Array): void

  /** Radians by which a body turns on a leg of its path, at most. */
  abstract longestTurn(body: number): number

  /** Writes the record of the least distance of two at a time of the tick. */
  abstract gapAt(a: number, b: number, time: number, out: Float64Array): void

  /**
   * How far two come together a tick along the normal of a record, where they are nearest at a time: reads the record, and writes to
   * its first place.
   */
  abstract closingAt(a: number, b: number, time: number, record: Float64Array): void

  /** Writes to `out[0]` an upper bound of how far any point of the one came nearer to any of the other in this tick. */
  abstract approach(a: number, b: number, out: Float64Array): void

  /**
   * Whether two single pieces that are apart at the end of the tick were so all the time, since their bounds are farther apart along an axis
   * than they can have moved along it. False also where that is not told cheaply.
   */
  abstract keptApart(a: number, b: number, p: number, q: number): boolean

  /** The part of the tick for which no two pieces can come within reach of each other; 0 when two are. */
  protected abstract safeStep(a: number, b: number, reach: number, backwards: boolean, time: number): number
}
