/**
 * A run that was listened to, and what is expected of it. Every pair is watched, collider by collider, by an observer; so all that any watch of the
 * game could have heard is known afterwards, and `explain` still tells what the game itself watches.
 */
import { finite, oneOf, onlyFields, record } from '../core/util/checks.ts'
import { KeenError, show } from '../core/util/errors.ts'
import { hint } from '../core/util/suggestions.ts'
import { CAUSES, type Cause } from '../core/watch/causes.ts'

/** A place of either dimension. */
interface Place {
  readonly x: number
  readonly y: number
  readonly z?: number
}

/** A collider of either dimension, as far as a test asks about it. */
interface PlayedCollider {
  readonly layerBits: number
  readonly tags: readonly string[]
  readonly bounds: { readonly min: Place; readonly max: Place } | null
}

/** A body of either dimension, as far as a test asks about it. */
interface PlayedBody {
  readonly name: string | null
  readonly serial: number
  readonly alive: boolean
  readonly colliders: readonly PlayedCollider[]
}

/** Why two meet or do not, check by check. */
interface Account {
  readonly checks: readonly unknown[]
  toString(): string
}

/** What a test needs of a world: one of either dimension has it. */
export interface PlayedWorld {
  /** Ticks made so far. */
  readonly tick: number
  /** Simulated seconds so far. */
  readonly time: number
  /** Seconds a tick. */
  readonly dt: number
  /** The layers. */
  readonly layers: { readonly all: readonly string[]; names(mask: number): readonly string[] }
  /** By age. */
  bodies(): readonly PlayedBody[]
  /** Who carries a tag; throws where there is no such tag. */
  tagged(tag: never): readonly object[]
  /** Reports when two meet. */
  watch(first: never, second: never, handlers?: never, options?: never): { stop(): void }
  /** Why two meet or do not. */
  explain(a: never, b: never): Account
  /** Moves it on by a tick. */
  step(): void
}

/** What is played: a world, or a player that steps one, as `playScene` gives it. */
export type PlayedTarget = PlayedWorld | { readonly world: PlayedWorld; step(): unknown }

/** How a run is played. */
export interface PlayOptions {
  /** Called before each step, with the ticks made so far: for the inputs of that tick. */
  before?(tick: number): void
}

/** Who is meant: the name of a body or of a layer; where both are called so, one that says which; or a body. */
export type PlayedSide =
  | string
  | { readonly body: string }
  | { readonly layer: string }
  | { readonly tag: string }
  | { readonly serial: number }

/** When, in seconds of the world; both ends count. */
export interface When {
  /** Default: from the start. */
  readonly from?: number | undefined
  /** Default: to the end. */
  readonly until?: number | undefined
}

/** How hard two may strike each other in one tick. */
export interface ImpactBound extends When {
  /** Newton seconds. */
  readonly impulse?: number | undefined
  /** Lengths a second at which they come together. */
  readonly speed?: number | undefined
}

/** A begin or an end of two bodies that were asked about. */
export interface RunEvent {
  /** Which of the two. */
  readonly kind: 'begin' | 'end'
  /** The tick. */
  readonly tick: number
  /** Seconds of the world at its end. */
  readonly time: number
  /** The older body, as a text. */
  readonly a: string
  /** The younger. */
  readonly b: string
  /** How they treated each other. */
  readonly response: 'solid' | 'sense'
  /** Why. */
  readonly cause: Cause
}

/** What an observer heard of two colliders. */
interface Heard {
  readonly kind: 'begin' | 'end'
  readonly tick: number
  readonly time: number
  readonly a: Who
  readonly b: Who
  readonly response: 'solid' | 'sense'
  readonly cause: Cause
}

/** A collider in an event: whose it is, and what it was on at that time. */
interface Who {
  readonly body: PlayedBody
  readonly layers: readonly string[]
  readonly tags: readonly string[]
}

/** How hard two colliders pressed in a tick in which they came together. */
interface Struck {
  readonly time: number
  readonly a: Who
  readonly b: Who
  readonly impulse: number
  readonly speed: number
}

/** How far a body reached in a run, and when it was furthest. */
interface Reach {
  readonly body: PlayedBody
  readonly min: number[]
  readonly max: number[]
  readonly minTime: number[]
  readonly maxTime: number[]
}

/** The event of a watch, as far as it is read. */
interface Event {
  readonly kind: 'begin' | 'during' | 'end'
  readonly tick: number
  readonly time: number
  readonly a: PlayedBody
  readonly b: PlayedBody
  readonly aCollider: PlayedCollider
  readonly bCollider: PlayedCollider
  readonly response: 'solid' | 'sense'
  readonly cause: Cause
  readonly impulse: number
  readonly closingSpeed: number
}

const AXES = ['x', 'y', 'z'] as const
const WINDOW = ['from', 'until']
/** Bodies of each side that are tried for the pair to be explained. */
const TRIED = 6
/** Lines of a story that a failure prints. */
const LINES = 12
/** Seconds by which a window may be missed through rounding. */
const SLACK = 1e-9

/**
 * Plays a world or a scene for so many seconds and listens. Its own watches and handlers do what they always do.
 * @throws KeenError `bad-argument`, `bad-number`; whatever a step throws
 * @example
 * const run = playFor(playScene(scene), 20)
 * run.began('lantern', 'beacon', { until: 14 })
 */
export function playFor(target: PlayedTarget, seconds: number, options: PlayOptions = {}): PlayedRun {
  record(target, 'what is played')
  onlyFields(options, ['before'], 'the options of playFor')
  const world = 'world' in target ? target.world : target
  if (typeof world?.watch !== 'function' || typeof target.step !== 'function') {
    throw new KeenError('bad-argument', `playFor takes a world or a player of a scene, got ${show(target)}`)
  }
  finite(seconds, "'seconds' of playFor")
  const ticks = Math.round(seconds / world.dt)
  if (ticks < 1) throw new KeenError('bad-number', `a run takes at least a tick of ${world.dt} s, got ${seconds} s`)
  const run = new PlayedRun(world)
  const hear = (event: Event): void => run.hear(event)
  const handlers = { begin: hear, during: hear, end: hear }
  const ears = world.watch('*' as never, '*' as never, handlers as never, { per: 'collider', observer: true } as never)
  try {
    for (let i = 0; i < ticks; i++) {
      options.before?.(world.tick)
      target.step()
      run.look()
    }
  } finally {
    ears.stop()
  }
  return run
}

/** A run that was played, to be asked what happened. What was not as expected throws, with the story of the two and why. */
export class PlayedRun {
  private readonly world: PlayedWorld
  private readonly heard: Heard[] = []
  private readonly strikes: Struck[] = []
  private readonly reaches = new Map<PlayedBody, Reach>()
  private readonly names = new Set<string>()
  /** Layers and tags that anybody was on or carried at the end of a tick. */
  private readonly layers = new Set<string>()
  private readonly tags = new Set<string>()
  private readonly begin: number

  /** @internal */
  constructor(world: PlayedWorld) {
    this.world = world
    this.begin = world.time
    for (const { name } of world.bodies()) if (name !== null) this.names.add(name)
  }

  /** Seconds of the world at the end of the run. */
  get time(): number {
    return this.world.time
  }

  /**
   * Expects that two began to meet. Those that met already when the run began did not begin.
   * @returns the first begin
   * @throws KeenError `expectation-failed`, `unknown-name`, `bad-argument`
   */
  began(a: PlayedSide, b: PlayedSide, when: When & { cause?: Cause; response?: 'solid' | 'sense' } = {}): RunEvent {
    return this.told('begin', a, b, when)
  }

  /**
   * Expects that two that had met parted.
   * @returns the first end
   * @throws KeenError as {@link began}
   */
  ended(a: PlayedSide, b: PlayedSide, when: When & { cause?: Cause; response?: 'solid' | 'sense' } = {}): RunEvent {
    return this.told('end', a, b, when)
  }

  /**
   * Expects that two did not meet at any time of a window, neither begun in it nor before.
   * @throws KeenError as {@link began}
   */
  neverMet(a: PlayedSide, b: PlayedSide, when: When = {}): void {
    const [from, until] = this.window(when)
    for (const side of [a, b]) this.someone(side)
    let open: RunEvent | null = null
    const met = (event: RunEvent, end: number): boolean => event.time <= until + SLACK && end >= from - SLACK
    for (const event of this.eventsOf(a, b)) {
      if (event.kind === 'begin') open = event
      else if (open !== null && met(open, event.time)) this.fail(a, b, `were never to meet${windowText(when)}, and did`)
      else open = null
    }
    if (open !== null && met(open, Infinity)) this.fail(a, b, `were never to meet${windowText(when)}, and did`)
  }

  /**
   * Expects that two never struck each other harder than that, in any tick of a window.
   * @throws KeenError as {@link began}
   */
  impactsBelow(a: PlayedSide, b: PlayedSide, bound: ImpactBound): void {
    record(bound, 'the bound of impacts')
    if (bound.impulse === undefined && bound.speed === undefined) {
      throw new KeenError('bad-argument', "a bound of impacts needs 'impulse' or 'speed'")
    }
    const [from, until] = this.window(bound, 'impulse', 'speed')
    const [first, second] = [this.someone(a), this.someone(b)]
    if (bound.impulse !== undefined) finite(bound.impulse, "'impulse' of a bound")
    if (bound.speed !== undefined) finite(bound.speed, "'speed' of a bound")
    const most = { impulse: bound.impulse ?? Infinity, speed: bound.speed ?? Infinity }
    const isOver = ({ impulse, speed }: Struck): boolean => impulse > most.impulse || speed > most.speed
    const worst = this.strikes
      .filter((each) => each.time >= from - SLACK && each.time <= until + SLACK && isBetween(each, first, second))
      .reduce<Struck | null>(
        (hardest, each) => (isOver(each) && each.impulse >= (hardest?.impulse ?? 0) ? each : hardest),
        null,
      )
    if (worst === null) return
    const wanted = [
      ...(bound.impulse === undefined ? [] : [`${bound.impulse} Ns`]),
      ...(bound.speed === undefined ? [] : [`${bound.speed} lengths a second`]),
    ]
    const found = `${digits(worst.impulse)} Ns at ${digits(worst.speed)} lengths a second, at ${seconds(worst.time)}`
    this.fail(
      a,
      b,
      `were to strike each other with at most ${wanted.join(' and ')}${windowText(bound)}: it was ${found}`,
    )
  }

  /**
   * Expects that bodies stayed within a box from the first to the last tick, whole: by the bounds of their colliders.
   * @param who default everybody that is not static
   * @throws KeenError as {@link began}
   */
  stayedWithin(box: { readonly min: Place; readonly max: Place }, who: PlayedSide = '*'): void {
    onlyFields(box, ['min', 'max'], 'a box')
    for (const corner of ['min', 'max'] as const) {
      record(box[corner], `'${corner}' of a box`)
      for (const axis of AXES)
        if (box[corner][axis] !== undefined) finite(box[corner][axis], `'${corner}.${axis}' of a box`)
    }
    const side = this.someone(who)
    const moving = [...this.reaches.values()].filter(({ body }) => side.covers(body, null))
    if (moving.length === 0)
      throw new KeenError('bad-argument', `${side.text}: nobody there could move in this run, so nobody could leave`)
    for (const reach of moving) {
      for (const [i, axis] of AXES.entries()) {
        if (i >= reach.min.length) continue
        const low = box.min[axis] ?? -Infinity
        const high = box.max[axis] ?? Infinity
        const text = `${reach.body} was to stay within ${axis} ${low} to ${high}: it reached`
        if (reach.min[i] < low) fail(`${text} ${digits(reach.min[i])} at ${seconds(reach.minTime[i])}`)
        if (reach.max[i] > high) fail(`${text} ${digits(reach.max[i])} at ${seconds(reach.maxTime[i])}`)
      }
    }
  }

  /** The begins and ends of two, as bodies: a begin when the first of their colliders met, an end when the last parted. */
  events(a: PlayedSide = '*', b: PlayedSide = '*'): readonly RunEvent[] {
    return this.eventsOf(a, b)
  }

  /** What two did, a line an event. */
  story(a: PlayedSide = '*', b: PlayedSide = '*'): string {
    const lines = this.eventsOf(a, b).map((event) => {
      const { time, kind, response, cause } = event
      return `${seconds(time).padStart(10)}  ${kind.padEnd(5)}  ${event.a} and ${event.b} (${response}, ${cause})`
    })
    return lines.join('\n')
  }

  /** @internal */
  hear({ kind, tick, time, a, b, aCollider, bCollider, response, cause, impulse, closingSpeed }: Event): void {
    const [one, other] = [this.whoIs(a, aCollider), this.whoIs(b, bCollider)]
    if (kind !== 'during') this.heard.push({ kind, tick, time, a: one, b: other, response, cause })
    if (kind !== 'end' && (impulse > 0 || closingSpeed > 0)) {
      this.strikes.push({ time, a: one, b: other, impulse, speed: closingSpeed })
    }
  }

  /** After a tick. @internal */
  look(): void {
    const { time } = this.world
    for (const body of this.world.bodies() as readonly (PlayedBody & { type: string })[]) {
      if (body.name !== null) this.names.add(body.name)
      for (const { layerBits, tags } of body.colliders) {
        for (const layer of this.world.layers.names(layerBits)) this.layers.add(layer)
        for (const tag of tags) this.tags.add(tag)
      }
      if (body.type === 'static') continue
      for (const { bounds } of body.colliders) {
        if (bounds === null) continue
        const axes = AXES.slice(0, bounds.min.z === undefined ? 2 : 3)
        let reach = this.reaches.get(body)
        if (reach === undefined) {
          const list = (value: number): number[] => axes.map(() => value)
          reach = { body, min: list(Infinity), max: list(-Infinity), minTime: list(0), maxTime: list(0) }
          this.reaches.set(body, reach)
        }
        for (const [i, axis] of axes.entries()) {
          const [low, high] = [bounds.min[axis]!, bounds.max[axis]!]
          if (low < reach.min[i]) {
            reach.min[i] = low
            reach.minTime[i] = time
          }
          if (high > reach.max[i]) {
            reach.max[i] = high
            reach.maxTime[i] = time
          }
        }
      }
    }
  }

  private whoIs(body: PlayedBody, { layerBits, tags }: PlayedCollider): Who {
    return { body, layers: this.world.layers.names(layerBits), tags }
  }

  private told(
    kind: 'begin' | 'end',
    a: PlayedSide,
    b: PlayedSide,
    when: When & { readonly cause?: Cause; readonly response?: 'solid' | 'sense' },
  ): RunEvent {
    const [from, until] = this.window(when, 'cause', 'response')
    const { cause, response } = when
    if (cause !== undefined) oneOf(cause, CAUSES, "'cause' of an expectation")
    if (response !== undefined) oneOf(response, ['solid', 'sense'], "'response' of an expectation")
    const found = this.eventsOf(a, b).find(
      (event) =>
        event.kind === kind &&
        event.time >= from - SLACK &&
        event.time <= until + SLACK &&
        (cause === undefined ? event.cause !== 'watched' : event.cause === cause) &&
        (response === undefined || event.response === response),
    )
    if (found !== undefined) return found
    const how = `${response === undefined ? '' : ` (${response})`}${cause === undefined ? '' : ` with cause '${cause}'`}`
    return this.fail(a, b, `were to ${kind === 'begin' ? 'meet' : 'part'}${how}${windowText(when)}, and did not`)
  }

  /** @param fields what it may say besides */
  private window(when: When, ...fields: string[]): [number, number] {
    onlyFields(when, [...WINDOW, ...fields], 'a window')
    const { from, until } = when
    if (from !== undefined) finite(from, "'from' of a window")
    if (until !== undefined) finite(until, "'until' of a window")
    if (from !== undefined && until !== undefined && from > until) {
      throw new KeenError('bad-number', `a window must not end before it begins, got ${from} to ${until}`)
    }
    if (until !== undefined && until < this.begin) {
      throw new KeenError(
        'bad-number',
        `the run begins at ${seconds(this.begin)}, after the window that ends at ${seconds(until)}`,
      )
    }
    if (from !== undefined && from > this.time + SLACK) {
      throw new KeenError(
        'bad-number',
        `the run ends at ${seconds(this.time)}, before the window that begins at ${seconds(from)}: play it longer`,
      )
    }
    return [from ?? -Infinity, until ?? Infinity]
  }

  /**
   * Bodies meet when the first of their colliders does, and part when the last does. What parts and meets again within a tick has not parted; where none
   * met before nor does after, they passed each other within the tick.
   */
  private eventsOf(a: PlayedSide, b: PlayedSide): RunEvent[] {
    const [first, second] = [this.side(a), this.side(b)]
    const open = new Map<string, number>()
    const events: RunEvent[] = []
    let tick = new Map<string, Heard[]>()
    const endTick = (): void => {
      const told: RunEvent[] = []
      for (const [key, list] of tick) {
        const before = open.get(key) ?? 0
        const begins = list.filter(({ kind }) => kind === 'begin')
        const ends = list.filter(({ kind }) => kind === 'end')
        const after = before + begins.length - ends.length
        open.set(key, after)
        if (before === 0 && begins.length > 0) told.push(eventOf(begins[0]))
        if (after === 0 && ends.length > 0) told.push(eventOf(ends[ends.length - 1]))
      }
      events.push(...told)
      tick = new Map()
    }
    let now = -1
    for (const each of this.heard) {
      if (!isBetween(each, first, second)) continue
      if (each.tick !== now) endTick()
      now = each.tick
      const key = [each.a.body.serial, each.b.body.serial].sort((one, other) => one - other).join(' ')
      const list = tick.get(key)
      if (list === undefined) tick.set(key, [each])
      else list.push(each)
    }
    endTick()
    return events
  }

  /** A side that somebody was on in the run: of nobody it would be no news that nothing happened to him. */
  private someone(side: PlayedSide): Side {
    const found = this.side(side)
    if (found.isEmpty)
      throw new KeenError(
        'bad-argument',
        `${found.text}: nobody was there in this run, so nothing could happen to them`,
      )
    return found
  }

  private side(side: PlayedSide): Side {
    if (side === '*') return { text: 'everybody', covers: () => true }
    if (typeof side === 'string') {
      const isLayer = this.world.layers.all.includes(side)
      const isBody = this.names.has(side)
      if (isLayer && isBody) {
        throw new KeenError(
          'bad-argument',
          `a body and a layer are called "${side}": say { body: '${side}' } or { layer: '${side}' }`,
        )
      }
      if (isBody) return this.side({ body: side })
      if (isLayer) return this.side({ layer: side })
      const known = [...this.names, ...this.world.layers.all]
      throw new KeenError('unknown-name', `no body and no layer is called "${side}"; ${hint(side, known)}`)
    }
    record(side, 'a side of an expectation')
    if ('body' in side && typeof side.body === 'string') {
      const { body } = side
      if (!this.names.has(body)) {
        throw new KeenError('unknown-name', `no body is called "${body}"; ${hint(body, [...this.names])}`)
      }
      return { text: body, covers: ({ name }) => name === body }
    }
    if ('layer' in side && typeof side.layer === 'string') {
      const { layer } = side
      if (!this.world.layers.all.includes(layer)) {
        throw new KeenError('unknown-layer', `no layer is called "${layer}"; ${hint(layer, this.world.layers.all)}`)
      }
      return {
        text: `layer ${layer}`,
        isEmpty: !this.layers.has(layer),
        covers: (body, who) =>
          (who === null ? body.colliders.map((each) => this.whoIs(body, each)) : [who]).some(({ layers }) =>
            layers.includes(layer),
          ),
      }
    }
    if ('tag' in side && typeof side.tag === 'string') {
      const { tag } = side
      this.world.tagged(tag as never)
      return {
        text: `tag ${tag}`,
        isEmpty: !this.tags.has(tag),
        covers: (body, who) => (who === null ? body.colliders : [who]).some(({ tags }) => tags.includes(tag)),
      }
    }
    if ('serial' in side) return { text: String(side), covers: (body) => (body as object) === side }
    throw new KeenError('bad-argument', `a side is a name, { body }, { layer }, { tag } or a body, got ${show(side)}`)
  }

  /** Throws, with what the two did and why they do not meet now. */
  private fail(a: PlayedSide, b: PlayedSide, what: string): never {
    const [first, second] = [this.side(a), this.side(b)]
    const lines = this.story(a, b).split('\n')
    const told = lines[0] === '' ? ['They did not meet at all.'] : ['What they did:', ...lines.slice(0, LINES)]
    if (lines.length > LINES) told.push(`        and ${lines.length - LINES} more`)
    const why = this.why(first, second)
    fail(
      [
        `${first.text} and ${second.text} ${what}.`,
        ...told,
        ...(why === null ? [] : [`At the end, ${seconds(this.time)}:`, why]),
      ].join('\n'),
    )
  }

  /** The account of the two of both sides that came furthest. */
  private why(first: Side, second: Side): string | null {
    const bodies = this.world.bodies()
    const [ones, others] = [first, second].map((side) =>
      bodies.filter((body) => side.covers(body, null)).slice(0, TRIED),
    )
    let best: Account | null = null
    for (const one of ones) {
      for (const other of others) {
        if (one === other) continue
        const found: Account = this.world.explain(one as never, other as never)
        if (best === null || found.checks.length > best.checks.length) best = found
      }
    }
    return best === null ? null : String(best)
  }
}

/** Whom a side of an expectation covers. */
interface Side {
  readonly text: string
  /** Nobody was on it. */
  readonly isEmpty?: boolean
  /** @param who what it was in an event; null for what it is now */
  covers(body: PlayedBody, who: Who | null): boolean
}

function eventOf({ kind, tick, time, a, b, response, cause }: Heard): RunEvent {
  const [older, younger] = [a.body, b.body].sort((one, other) => one.serial - other.serial)
  return { kind, tick, time, a: String(older), b: String(younger), response, cause }
}

function isBetween({ a, b }: { readonly a: Who; readonly b: Who }, first: Side, second: Side): boolean {
  return (first.covers(a.body, a) && second.covers(b.body, b)) || (first.covers(b.body, b) && second.covers(a.body, a))
}

function windowText({ from, until }: When): string {
  if (from !== undefined && until !== undefined) return ` between ${seconds(from)} and ${seconds(until)}`
  if (from !== undefined) return ` from ${seconds(from)} on`
  return until === undefined ? '' : ` until ${seconds(until)}`
}

const seconds = (time: number): string => `${time.toFixed(2)} s`
const digits = (value: number): string => String(Number(value.toPrecision(4)))

function fail(text: string): never {
  throw new KeenError('expectation-failed', text)
}
