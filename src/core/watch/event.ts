/** What a handler is reported. One object is used for all events of a world; `keep()` gives a copy that stays. */
import { INSPECT } from '../util/inspect.ts'
import type { Cause } from './causes.ts'
import type { Watch } from './watch.ts'

/** A point at which two solid colliders press, or are about to; `V` is the vector type of the dimension. */
export type ContactPoint<V> = Readonly<V> & {
  /** How deep the two overlap there, in lengths; negative while they are apart. */
  readonly depth: number
  /** Newton seconds along the normal in this tick. */
  readonly impulse: number
}

/** The kinds of events. */
export const EVENT_KINDS = ['begin', 'during', 'end', 'impact'] as const
/** What an event reports: a begin, that a pair still meets, an end, or an impact. */
export type EventKind = (typeof EVENT_KINDS)[number]

/**
 * A fact about two bodies (or two colliders), valid until the handler returns.
 * `B`, `C` and `V` are the body, collider and vector types of the dimension.
 */
export interface WatchEvent<B, C, V> {
  /** What it reports. */
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
  /** The body that matches the second side of the watch. */
  readonly b: B
  /** The colliders that brought it about; for a body-wise `during`, the pair that has met longest. */
  readonly aCollider: C
  /** The collider of `b` that speaks for it. */
  readonly bCollider: C
  /** How the two treat each other. */
  readonly response: 'solid' | 'sense'
  /** Seconds since the begin. */
  readonly dwell: number
  /** Why it began or ended; for `during`, why it had begun. */
  readonly cause: Cause
  /** For a solid pair the unit normal from `a` to `b`, otherwise null. */
  readonly normal: Readonly<V> | null
  /**
   * For a solid pair, where it touches, in the order of its colliders' age; otherwise empty. Found when it is asked for, which
   * allocates. What two parted from has no points any more.
   */
  readonly points: readonly ContactPoint<V>[]
  /** Newton seconds by which a solid pair pressed in this tick, summed over its colliders; 0 where no body is dynamic. */
  readonly impulse: number
  /** Newton seconds by which it rubbed in this tick, across the normal. */
  readonly friction: number
  /** Lengths a second at which a solid pair came together in this tick, before it was stopped; 0 when it did not. */
  readonly closingSpeed: number
  /** The watch that reports it. */
  readonly watch: Watch<B, C, V>
  /** What `world.events()` tells of joints has the joint here. */
  readonly joint: null
  /** A copy that does not change when the next event comes. */
  keep(): WatchEvent<B, C, V>
  /** What `JSON.stringify` writes: the bodies by name or age, the watch by its key. */
  toJSON(): EventJson
}

/** What `JSON.stringify` writes for an event: its own plain fields, and names. */
export interface EventJson
  extends Pick<
    WatchEvent<never, never, never>,
    'kind' | 'tick' | 'time' | 'when' | 'cause' | 'response' | 'dwell' | 'impulse'
  > {
  /** The name of the body, or `body #` and its age. */
  readonly a: string
  /** The name of the body, or `body #` and its age. */
  readonly b: string
  /** The key of the watch. */
  readonly watch: string
}

/** The one event object that is filled again and again. */
export class EventRecord<B, C, V extends object> implements WatchEvent<B, C, V> {
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
  impulse = 0
  friction = 0
  closingSpeed = 0
  watch!: Watch<B, C, V>
  readonly joint = null
  /** Finds the points while the event is valid; a copy has found them. */
  findPoints: (() => readonly ContactPoint<V>[]) | null = null

  get points(): readonly ContactPoint<V>[] {
    return this.findPoints === null ? [] : this.findPoints()
  }

  keep(): WatchEvent<B, C, V> {
    const copy = Object.assign(new EventRecord<B, C, V>(), this)
    if (this.normal !== null) copy.normal = { ...this.normal }
    const { points } = this
    copy.findPoints = () => points
    return copy
  }

  toJSON(): EventJson {
    const { kind, tick, time, when, cause, response, dwell, impulse, watch } = this
    const [a, b] = [String(this.a), String(this.b)]
    return { kind, tick, time, when, cause, response, dwell, impulse, a, b, watch: watch.key }
  }

  /** @internal */
  [INSPECT](): string {
    return `${this.kind} of ${this.a} and ${this.b} (${this.cause}) in tick ${this.tick}, ${this.watch}`
  }
}
