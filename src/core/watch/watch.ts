/** A watch: the standing order "tell me when these meet those". What it has told is kept by the ledger. */

import { SENSE, SOLID } from '../filter/filter.ts'
import type { StateVisitor } from '../save/state.ts'
import { flag, list, oneOf, onlyFields, positive } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'
import { INSPECT } from '../util/inspect.ts'
import { EVENT_KINDS, type EventKind, type WatchEvent } from './event.ts'
import type { Watcher } from './interest.ts'
import type { Side } from './sides.ts'

/** What is done on each kind of event. Left out: it is only recorded. */
export interface WatchHandlers<E> {
  /** They meet. Called once before any `during`. */
  begin?(event: E): void
  /** They still meet; every tick from the one after the begin. */
  during?(event: E): void
  /** They meet no more. Exactly one for each begin, as long as the watch is not stopped. */
  end?(event: E): void
  /** The strength of a solid pair has risen through `over`. Armed again when it has fallen below. */
  impact?(event: E): void
}

/** How strong a solid pair must be in one tick for an impact: newton seconds, or lengths a second of closing. */
type ImpactThreshold = { readonly impulse: number } | { readonly speed: number }

/** What narrows a watch. */
export interface WatchOptions {
  /** Count bodies (default), or each pair of colliders by itself. */
  per?: 'body' | 'collider' | undefined
  /** Hear of solid pairs only, or of sense pairs only. */
  response?: 'solid' | 'sense' | undefined
  /** Over after the first begin and its end. */
  once?: boolean | undefined
  /** What a watch without handlers records for `world.events()`. Default `['begin', 'end']`. */
  kinds?: readonly EventKind[] | undefined
  /** What is reported as `impact`. */
  over?: ImpactThreshold | undefined
  /** A name for it, for messages and logs. Default: its two sides, as `craft:zone`. */
  key?: string | undefined
  /**
   * It only looks on: `explain` and `advice` say of pairs that nobody else watches that no watch covers them. For tools, which watch all there is and
   * must not hide that the game does not. Default false.
   */
  observer?: boolean | undefined
}

/** Two that meet now, as reported by a watch. */
export interface WatchPair<B, C> {
  /** The body that matches the first side. */
  readonly a: B
  /** The body that matches the second side. */
  readonly b: B
  /** The collider of `a` that speaks for it. */
  readonly aCollider: C
  /** The collider of `b` that speaks for it. */
  readonly bCollider: C
  /** How the two treat each other: the strongest response present. */
  readonly response: 'solid' | 'sense'
  /** Seconds since the begin. */
  readonly dwell: number
}

/** What the ledger does for a watch. */
export interface WatchKeeper<B, C> {
  /** @internal */ pairsOf(watch: object): WatchPair<B, C>[]
  /** @internal */ stop(watch: object): void
}

/** What a watch was made from, checked. */
export interface WatchSpec<B, C, V> {
  id: number
  first: Side
  second: Side
  handlers: WatchHandlers<WatchEvent<B, C, V>>
  options: WatchOptions
}

/** A standing order: report when what matches the first side meets what matches the second. Made by `world.watch`. */
export class Watch<B = unknown, C = unknown, V = unknown> implements Watcher {
  /** The name given, or the two sides. */
  readonly key: string
  /** @internal */ readonly id: number
  /** @internal */ readonly first: Side
  /** @internal */ readonly second: Side
  /** @internal */ readonly perCollider: boolean
  /** @internal */ readonly response: number
  /** @internal */ readonly once: boolean
  /** @internal */ readonly observer: boolean
  /** @internal */ readonly handlers: WatchHandlers<WatchEvent<B, C, V>>
  /** @internal */ readonly wantsDuring: boolean
  /** The kinds that `world.events()` lists. @internal */ readonly recorded: ReadonlySet<EventKind>
  /** For impacts: the least impulse, or the least closing speed; the other is Infinity. @internal */
  readonly overImpulse: number
  /** @internal */ readonly overSpeed: number
  /** @internal */ readonly wantsImpact: boolean
  /** @internal */ stamp = 0
  /** First record of the ledger, or -1. @internal */ firstRecord = -1
  /** Pairs reported and not ended. @internal */ reported = 0
  /** Whether anything was ever reported. @internal */ hasTold = false
  /** For `once`: the record that was reported, -1 before. @internal */ onceRecord = -1
  /** Not yet seen by a step. @internal */ fresh = true
  /** @internal */ over = false
  private readonly keeper: WatchKeeper<B, C>

  /** Ended by whoever made it, not by itself. @internal */ dropped = false

  /** By what it is found again in another world: its name, its sides, and how it counts. @internal */
  get sign(): string {
    return `${this.key}\n${this.first.text}\n${this.second.text}\n${this.perCollider} ${this.response} ${this.once}`
  }

  /** What it has told. @internal */
  visit(v: StateVisitor): void {
    this.firstRecord = v.number(this.firstRecord)
    this.reported = v.number(this.reported)
    this.hasTold = v.flag(this.hasTold)
    this.onceRecord = v.number(this.onceRecord)
    this.fresh = v.flag(this.fresh)
    this.over = v.flag(this.over)
  }

  /** It has told nothing. @internal */
  forget(): void {
    this.firstRecord = -1
    this.reported = 0
    this.hasTold = false
    this.onceRecord = -1
    this.fresh = true
    this.over = this.dropped
  }

  /** @internal */
  constructor(keeper: WatchKeeper<B, C>, spec: WatchSpec<B, C, V>) {
    const { options, handlers } = spec
    onlyFields(options, ['per', 'response', 'once', 'kinds', 'over', 'key', 'observer'], 'the options of a watch')
    onlyFields(handlers, EVENT_KINDS, 'the handlers of a watch')
    for (const kind of EVENT_KINDS) {
      const handler: unknown = handlers[kind]
      if (handler !== undefined && typeof handler !== 'function') {
        throw new KeenError('bad-argument', `the handler '${kind}' of a watch must be a function, got ${show(handler)}`)
      }
    }
    for (const kind of list(options.kinds ?? [], "'kinds' of a watch")) oneOf(kind, EVENT_KINDS, 'a kind of event')
    this.keeper = keeper
    this.id = spec.id
    this.first = spec.first
    this.second = spec.second
    this.handlers = handlers
    this.perCollider = oneOf(options.per ?? 'body', ['body', 'collider'], "'per' of a watch") === 'collider'
    const response = options.response
    if (response !== undefined) oneOf(response, ['solid', 'sense'], "'response' of a watch")
    this.response = response === 'solid' ? SOLID : response === 'sense' ? SENSE : 0
    this.once = flag(options.once, false, "'once' of a watch")
    this.observer = flag(options.observer, false, "'observer' of a watch")
    const heard = EVENT_KINDS.filter((kind) => handlers[kind] !== undefined)
    const { over } = options
    const recorded: EventKind[] = [...(options.kinds ?? ['begin', 'end']), ...heard]
    if (over !== undefined && options.kinds === undefined) recorded.push('impact')
    this.recorded = new Set(recorded)
    this.wantsImpact = this.recorded.has('impact')
    this.overImpulse = threshold(over, 'impulse')
    this.overSpeed = threshold(over, 'speed')
    if (this.wantsImpact && over === undefined) {
      throw new KeenError('bad-argument', "a watch that reports impacts needs 'over': { impulse } or { speed }")
    }
    if (over !== undefined && !this.wantsImpact) {
      throw new KeenError(
        'bad-argument',
        "'over' of a watch has no effect: it has no handler 'impact', and 'impact' is not among its 'kinds'",
      )
    }
    if (this.wantsImpact && this.response === SENSE) {
      throw new KeenError('bad-argument', "a watch of sense pairs has no impacts: leave out 'over', or 'response'")
    }
    this.wantsDuring = this.recorded.has('during')
    this.key = keyOf(options.key, spec.first, spec.second)
  }

  /** How many pairs meet now: begins reported less ends reported. */
  get count(): number {
    return this.reported
  }

  /** Whether it has been stopped, or was `once` and is over. */
  get stopped(): boolean {
    return this.over
  }

  /** Who meets now, with the dwell of each, in the order of their age. Allocates. */
  pairs(): WatchPair<B, C>[] {
    return this.keeper.pairsOf(this)
  }

  /** Ends the watch at once and silently: no further event, ends included. */
  stop(): void {
    this.keeper.stop(this)
    this.dropped = true
  }

  toString(): string {
    return `watch ${this.key}`
  }

  /** What `JSON.stringify` writes: its key, how many pairs meet, and whether it is stopped. */
  toJSON(): { key: string; count: number; stopped: boolean } {
    const { key, count, stopped } = this
    return { key, count, stopped }
  }

  /** @internal */
  [INSPECT](): string {
    return `${this}: ${this.stopped ? 'stopped' : `meeting now ${this.count}`}`
  }
}

/** One of the two ways to give a threshold; Infinity for the other. */
function threshold(over: unknown, field: 'impulse' | 'speed'): number {
  if (over === undefined) return Infinity
  onlyFields(over, ['impulse', 'speed'], "'over' of a watch")
  const given = over as { impulse?: number; speed?: number }
  if ((given.impulse === undefined) === (given.speed === undefined)) {
    throw new KeenError('bad-argument', "'over' of a watch needs either 'impulse' or 'speed'")
  }
  const value = given[field]
  return value === undefined ? Infinity : positive(value, `'${field}' in 'over' of a watch`)
}

/** The name given to a watch or a hook, or its two sides. */
export function keyOf(key: unknown, first: Side, second: Side): string {
  if (key === undefined) return `${first.text}:${second.text}`
  if (typeof key === 'string' && key !== '') return key
  throw new KeenError('bad-argument', `'key' must be a string other than '', got ${show(key)}`)
}
