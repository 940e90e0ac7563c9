/** Turns the uneven times of frames into even ticks. */

import { callable, finite, onlyFields, positive } from './checks.ts'
import { LEAST_RATE, RATE } from './limits.ts'

/** What `fixedClock` takes. */
export interface ClockOptions {
  /** At most this many ticks a frame; time beyond them is dropped, so that a slow frame does not make the next slower. */
  maxTicks?: number | undefined
}

/** Makes ticks of even length from the times of frames. */
export interface FixedClock {
  /** How far the present moment lies between the last tick and the next, 0..1: for `poseAt`. */
  readonly alpha: number
  /** Seconds that were dropped so far because a frame was too long. */
  readonly dropped: number
  /** Feeds the seconds since the last call and runs `step` for every tick that is due. Returns how many. */
  advance(seconds: number, step: () => void): number
}

/**
 * A clock with a fixed tick.
 * @param rate ticks a second, as the world's
 * @throws KeenError `bad-number`
 * @example clock.advance(frameSeconds, () => world.step()); draw(clock.alpha)
 */
export function fixedClock(rate: number, options: ClockOptions = {}): FixedClock {
  positive(rate, "'rate' of a clock", RATE, LEAST_RATE)
  onlyFields(options, ['maxTicks'], 'the options of a clock')
  const maxTicks = positive(options.maxTicks ?? 8, "'maxTicks' of a clock")
  // Counted in ticks rather than seconds, so that feeding n frames of 1 / rate gives exactly n ticks.
  let owed = 0
  let dropped = 0
  return {
    get alpha() {
      return Math.min(1, Math.max(0, owed))
    },
    get dropped() {
      return dropped
    },
    advance(seconds, step) {
      callable(step, 'what a clock calls for each tick')
      if (finite(seconds, 'the seconds fed to a clock') > 0) owed += seconds * rate
      const slack = 1e-9
      let due = Math.floor(owed + slack)
      if (due > maxTicks) {
        dropped += (due - maxTicks) / rate
        owed -= due - maxTicks
        due = maxTicks
      }
      for (let i = 0; i < due; i++) {
        owed -= 1
        step()
      }
      return due
    },
  }
}
