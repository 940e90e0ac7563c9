/** What a handler is told. One object is used for all events of a world; `keep()` gives a copy that stays. */
import type { Cause } from './causes.ts'
import type { Watch } from './watch.ts'

export const EVENT_KINDS = ['begin', 'during', 'end'] as const
export type EventKind = (typeof EVENT_KINDS)[number]

/**
 * A fact about two bodies (or two colliders), valid until the handler returns.
 * `B`, `C` and `V` are the body, collider and vector types of the dimension.
 */
export interface WatchEvent<B, C, V> {
  readonly kind: EventKind
  /** The tick that has just ended, counted from 1. */
  readonly tick: number
  /** Seconds of simulated time at the end of that tick. */
  readonly time: number
  /** Seconds a tick. */
  readonly dt: number
  /** When in the tick it happened, 0 (its start) to 1 (its end). */
  readonly when: number
  /** The body that matches the first side of the watch. */
  readonly a: B
  readonly b: B
  /** The colliders that brought it about; for a body-wise `during`, the pair that has met longest. */
  readonly aCollider: C
  readonly bCollider: C
  readonly response: 'solid' | 'sense'
  /** Seconds since the begin. */
  readonly dwell: number
  /** Why it began or ended; for `during`, why it had begun. */
  readonly cause: Cause
  /** For a solid pair the unit normal from `a` to `b`, otherwise null. */
  readonly normal: Readonly<V> | null
  /** The watch that tells it. */
  readonly watch: Watch<B, C, V>
  /** A copy that does not change when the next event comes. */
  keep(): WatchEvent<B, C, V>
}

/** The one event object that is filled again and again. @internal */
export class Told<B, C, V extends object> implements WatchEvent<B, C, V> {
  kind: EventKind = 'begin'
  tick = 0
  time = 0
  dt = 0
  when = 0
  a!: B
  b!: B
  aCollider!: C
  bCollider!: C
  response: 'solid' | 'sense' = 'sense'
  dwell = 0
  cause: Cause = 'moved'
  normal: V | null = null
  watch!: Watch<B, C, V>

  keep(): WatchEvent<B, C, V> {
    const copy = Object.assign(new Told<B, C, V>(), this)
    if (this.normal !== null) copy.normal = { ...this.normal }
    return copy
  }
}
