/**
 * The part of a world that knows no dimension: who is in it, what is watched, the tick, and what was reported. A dimension
 * adds shapes, poses and queries.
 */

import type { Advice, advise } from './filter/advise.ts'
import type { Explanation, explain } from './filter/explain.ts'
import { DEAD, ON, RESPONSE_NAMES } from './filter/filter.ts'
import { Layers, RESPONSES, type Response } from './filter/layers.ts'
import type { AnyJointEnd } from './joints/joint.ts'
import { Hash } from './save/hash.ts'
import { History, type HistoryHost } from './save/history.ts'
import type { SaveOptions, Saver } from './save/save.ts'
import { Keeper, Restorer, Snapshot, type StateVisitor } from './save/state.ts'
import { BodyHandle, ColliderHandle, type DataType, type Kinds } from './state/handle.ts'
import { Population } from './state/population.ts'
import { Tags } from './state/tags.ts'
import { Crossings } from './step/crossings.ts'
import type { Kernel, KernelSetup } from './step/kernel.ts'
import { Pairs } from './step/pairs.ts'
import { type Rooms, runTick } from './step/tick.ts'
import type { Consult } from './travel/caster.ts'
import { callable, flag, list, oneOf, onlyFields, positive, refuseAssignment } from './util/checks.ts'
import { KeenError, show } from './util/errors.ts'
import { INSPECT } from './util/inspect.ts'
import { LEAST_RATE, LEAST_UNIT, RATE, UNIT } from './util/limits.ts'
import { REMOVED } from './watch/causes.ts'
import { type DecidedPair, DecideHooks, type DecideOptions, Hook } from './watch/decideHooks.ts'
import { Dispatch } from './watch/dispatch.ts'
import type { WatchEvent } from './watch/event.ts'
import { Interest } from './watch/interest.ts'
import { FLIPPED, Ledger } from './watch/ledger.ts'
import { Matcher, readSide, type Side, type WatchSide } from './watch/sides.ts'
import { Watch, type WatchHandlers, type WatchKeeper, type WatchOptions, type WatchPair } from './watch/watch.ts'

/** What handles need of their world. */
export interface Host {
  readonly population: Population<object, object>
  readonly layers: Layers
  readonly tags: Tags
  wordsChanged(collider: number): void
  removeBody(body: number): void
  removeCollider(collider: number): void
  ignoreBodies(one: object, other: object, ignored: boolean): void
  ignoreColliders(one: object, other: object, ignored: boolean): void
  retype(body: number, type: number): void
}

/** Counters of a world, for a debug display. */
export interface WorldStats {
  /** Ticks made so far. */
  readonly tick: number
  /** Living bodies. */
  readonly bodies: number
  /** Living colliders. */
  readonly colliders: number
  /** Candidate pairs: near enough, and let meet by the filter. */
  readonly pairs: number
  /** Exact shape tests in the last step. */
  readonly tests: number
  /** How often in the last step a speed or a place was clamped to its limit, so that every number stays finite. */
  readonly held: number
  /** Watches that run. */
  readonly watches: number
}

/** What a world is made from, as far as it knows no dimension. */
export interface WorldOptions<L extends string, T extends string, D> {
  /** The layers, from `defineLayers`. */
  layers: Layers<L>
  /** The tags that colliders can carry, 32 at most. Default none. */
  tags?: readonly T[] | undefined
  /** The type of `body.data`, given as `ofType<MyData>()`. */
  data?: DataType<D> | undefined
  /** Ticks a second. Default 60. */
  rate?: number | undefined
  /** The user's lengths to a metre: 64 for a game that thinks in pixels. Scales every tolerance. Default 1. */
  unit?: number | undefined
  /** How many ticks `world.past` reaches back, up to 3600. Default 0: then nothing is taken down. */
  history?: number | undefined
  /** Collects what is worth a look, for `world.advice()`: while a game is made. Default false; then it costs nothing. */
  advise?: boolean | undefined
}

/** How a step is made. */
export interface StepOptions {
  /** Call no handler. Default false. */
  quiet?: boolean | undefined
}

/** How a state is put back. */
export interface RestoreOptions<D = unknown> {
  /** Tell, with the next step that is not quiet, what handlers have not heard. Default false. */
  tell?: boolean | undefined
  /** With bytes of `save`: makes a body's `data` from what its `data` option kept of it. Default: `data` is left as it is, undefined where the body is new. */
  data?: ((saved: unknown, name: string | null) => D) | undefined
}

/** A watch that is over by itself. */
interface Finished<W extends object> {
  readonly id: number
  readonly sign: string
  readonly watch: WeakRef<W> | null
}

/** Names that a message lists at most. */
const NAMED = 8

/** What only a world that gives reasons has: it is bundled only with that. */
export interface Reasons {
  readonly explain: typeof explain
  readonly advise: typeof advise
}

/** Makes what writes the states of a world as bytes, and reads them. */
export type MakeSaver = (world: object) => Saver

/** What a world can have or do without. */
export interface CoreFeatures {
  readonly reasons: Reasons | null
  readonly makeSaver: MakeSaver | null
}

const OPTIONS = ['layers', 'tags', 'data', 'rate', 'unit', 'history', 'advise'] as const
/** Ticks that can be asked about at most. */
const MOST_HISTORY = 3600

export abstract class WorldCore<
  K extends Kinds,
  B extends BodyHandle<K, C>,
  C extends ColliderHandle<K, B>,
  V extends object,
  E extends AnyJointEnd = AnyJointEnd,
> implements WatchKeeper<B, C>
{
  /** The user's lengths to a metre. @internal */
  readonly unit: number
  /** @internal */ readonly population = new Population<B, C>()
  /** @internal */ readonly pairs = new Pairs(this.population.serial)
  /** @internal */ readonly tags: Tags<K['tag']>
  private table: Layers<K['layer']>
  private readonly names = new Map<string, B>()
  private readonly rooms: Rooms<B, C, V>
  private readonly pace: number
  private readonly reasons: Reasons | null
  private readonly makeSaver: MakeSaver | null
  private saver: Saver | null = null
  private readonly emptyMasks = new Set<string>()
  /** Hears which layers queries ask for, in a world that advises. @internal */ readonly onMask:
    | ((mask: number) => void)
    | null
  private ticks = 0
  /** Of a world that shows the past of another: that one. @internal */ present: object | null = null
  private history: History<C> | null = null
  private watchesMade = 0
  private finished: readonly Finished<Watch<B, C, V>>[] = []
  private stepping = false

  /**
   * @param ownOptions the names of the options that only a dimension has
   * @internal
   */
  constructor(
    options: WorldOptions<K['layer'], K['tag'], K['data']>,
    ownOptions: readonly string[],
    { reasons, makeSaver }: CoreFeatures,
    makeKernel: (setup: KernelSetup) => Kernel<V>,
  ) {
    onlyFields(options, [...OPTIONS, ...ownOptions], 'the options of a world')
    this.reasons = reasons
    this.makeSaver = makeSaver
    const advises = flag(options.advise, false, "'advise' of a world")
    if (advises && reasons === null) {
      throw new KeenError(
        'bad-argument',
        "'advise' of a world needs explanations, which this createWorld leaves out, to be smaller",
      )
    }
    this.onMask = advises ? (mask) => this.noteMask(mask) : null
    const unit = positive(options.unit ?? 1, "'unit' of a world", UNIT, LEAST_UNIT)
    if (!(options.layers instanceof Layers)) {
      throw new KeenError(
        'bad-argument',
        `'layers' of a world must come from defineLayers, got ${show(options.layers)}`,
      )
    }
    if (options.data !== undefined && typeof options.data?.of !== 'function') {
      throw new KeenError(
        'bad-argument',
        `'data' of a world stands for the type of its bodies' data: ofType<…>(), got ${show(options.data)}`,
      )
    }
    this.table = options.layers
    this.tags = new Tags(list(options.tags ?? [], "'tags' of a world") as readonly K['tag'][])
    this.unit = unit
    this.pace = positive(options.rate ?? 60, "'rate' of a world", RATE, LEAST_RATE)
    const { population, pairs } = this
    const matcher = new Matcher(population, this.tags)
    const interest = new Interest<Watch<B, C, V>, B, C>(population, matcher, this.tags)
    const hookInterest = new Interest<Hook<B, C, V>, B, C>(population, matcher, this.tags)
    const isWatched = (a: number, b: number, response: number): boolean =>
      interest.any(a, b, response) || hookInterest.any(a, b, response)
    const kernel = makeKernel({ population, pairs, isWatched, dt: this.dt, unit })
    const ledger = new Ledger<B, C, V>(population, pairs, interest)
    const decide = new DecideHooks<B, C, V>(population, pairs, matcher, kernel)
    const dispatch = new Dispatch<B, C, V>(population, ledger, kernel, this.dt, (watch) => this.finish(watch))
    const forget = (c: number): void => kernel.broadPhase.release(c)
    this.rooms = {
      population,
      pairs,
      interest,
      hookInterest,
      isWatched,
      matcher,
      ledger,
      decide,
      dispatch,
      kernel,
      crossings: new Crossings(population.serial),
      freshWatches: [],
      freshHooks: [],
      watchesChanged: false,
      release: () => population.release(forget),
      releasePair: (pair) => kernel.releasePair(pair),
    }
  }

  /** Ticks a second. */
  get rate(): number {
    return this.pace
  }

  /** Seconds a tick. */
  get dt(): number {
    return 1 / this.pace
  }

  /** The layers with this world's own pair table. */
  get layers(): Layers<K['layer']> {
    return this.table
  }

  /** Ticks made so far. */
  get tick(): number {
    return this.ticks
  }

  /** Simulated seconds so far. */
  get time(): number {
    return this.ticks * this.dt
  }

  get stats(): WorldStats {
    return {
      tick: this.ticks,
      bodies: this.population.bodies.count,
      colliders: this.population.colliders.count,
      pairs: this.pairs.table.count,
      tests: this.lastTests(),
      held: this.lastHeld(),
      watches: this.rooms.interest.watches.size,
    }
  }

  /** What `JSON.stringify` writes: the counters, and the bodies. For looking at: a world is not made from it again. */
  toJSON(): { readonly stats: WorldStats; readonly bodies: readonly B[] } {
    return { stats: this.stats, bodies: this.bodies() }
  }

  /** @internal */
  [INSPECT](): string {
    const { tick, bodies, colliders, watches } = this.stats
    return `world at tick ${tick}: bodies ${bodies}, colliders ${colliders}, watches ${watches}`
  }

  /** The bodies of the world in the order of their age. Allocates. */
  bodies(): B[] {
    const { bodyHandles } = this.population
    return bodyHandles.filter((body): body is B => body?.alive === true).sort((a, b) => a.serial - b.serial)
  }

  /** The living body of that name, or null. */
  find(name: string): B | null {
    if (typeof name !== 'string') throw new KeenError('bad-argument', `find takes a name, got ${show(name)}`)
    return this.names.get(name) ?? null
  }

  /** The bodies with at least one collider that carries the tag, by age. Throws `unknown-tag`. */
  tagged(tag: K['tag']): B[] {
    const index = this.tags.index(tag)
    const { tagSet } = this.population
    return this.bodies().filter(({ slot }) =>
      this.population.slotsOf(slot).some((c) => this.tags.has(tagSet.data[c], index)),
    )
  }

  /** Removes every body. Watches stay; what was reported ends with cause `removed`. */
  clear(): void {
    for (const body of this.bodies()) body.remove()
  }

  /**
   * Changes the pair table of this world; words set by hand stay. What begins or ends by it has cause `refiltered`.
   * @throws KeenError `unknown-layer`, `bad-argument`
   */
  setPair(a: K['layer'] | '*', b: K['layer'] | '*', response: Response): void {
    this.population.guard('setPair')
    this.table = this.table.withPair(a, b, oneOf(response, RESPONSES, 'the response of a pair'))
    const { population } = this
    for (const body of population.bodyHandles) {
      if (body === null || !body.alive) continue
      for (let c = population.first(body.slot); c >= 0; c = population.next(c)) {
        population.refillWords(c, this.table)
        this.refiltered(c)
      }
    }
  }

  /**
   * Reports when what matches the first side meets what matches the second, from the next step on. What already meets
   * by then begins with cause `watched`. By default bodies are counted: one begin when the first of their matching
   * colliders meet, one end when the last part.
   *
   * @throws KeenError `unknown-layer`, `unknown-tag`, `dead-handle`, `foreign-handle`, `bad-argument`
   * @example world.watch('craft', 'zone', { begin: (e) => console.log(`${e.a} enters ${e.b}`) })
   */
  watch(
    first: WatchSide<K, B, C>,
    second: WatchSide<K, B, C>,
    handlers: WatchHandlers<WatchEvent<B, C, V>> = {},
    options: WatchOptions = {},
  ): Watch<B, C, V> {
    this.population.guard('watch')
    const watch = new Watch<B, C, V>(this, {
      id: ++this.watchesMade,
      first: this.side(first, 'the first side of a watch'),
      second: this.side(second, 'the second side of a watch'),
      handlers,
      options,
    })
    this.rooms.interest.watches.add(watch)
    this.rooms.freshWatches.push(watch)
    this.rooms.watchesChanged = true
    return watch
  }

  /**
   * One tick of `1 / rate` seconds: moves the kinematic bodies, finds who meets, and reports it.
   * With `quiet` the same happens, `events()` has it, and no handler is called (decide hooks are: they choose what happens). For ticks that are made
   * once more after {@link restore}.
   * @throws KeenError `step-in-callback`; `callback-failed` when handlers threw, after all were called
   */
  step(options?: StepOptions): void {
    if (typeof options === 'number') {
      throw new KeenError(
        'bad-argument',
        `step() takes no time, got ${show(options)}: a tick is always 1 / rate seconds; fixedClock() makes even ticks of frame times`,
      )
    }
    // Most steps have none, and a tick makes no object.
    const quiet = options !== undefined && isQuiet(options)
    if (this.stepping) {
      throw new KeenError(
        'step-in-callback',
        'step() was called while a step is running: note it in the handler and step after it',
      )
    }
    this.population.guard('step')
    this.stepping = true
    this.ticks++
    try {
      runTick(this.rooms, this.ticks, quiet)
    } finally {
      this.stepping = false
      this.history?.record(this.ticks)
    }
  }

  /**
   * What the last step reported or recorded, in order, each fact once whichever watches heard it, `a` the older body. Ends of joints
   * come first, and have a `joint`.
   * With `per: 'collider'` the facts of the watches that count colliders. Allocates.
   */
  events(options: { per?: 'body' | 'collider' } = {}): (WatchEvent<B, C, V> | E)[] {
    onlyFields(options, ['per'], 'the options of events')
    const perCollider = oneOf(options.per ?? 'body', ['body', 'collider'], "'per'") === 'collider'
    const { dispatch, kernel } = this.rooms
    const ends = (kernel.forces?.joints.told ?? []) as readonly E[]
    return [...ends, ...dispatch.events(perCollider)]
  }

  /**
   * The state of the world as it is now: everything that decides what comes, and what watches have told. Not kept are handlers and hooks,
   * which are code, and `data` of bodies, which is the user's. Cost: the memory of the world, copied.
   * @param into a snapshot of this world that is no longer wanted: its memory is used again
   * @throws KeenError `locked` from inside a handler or a hook; `bad-argument`
   * @example const before = world.snapshot(); world.step(); world.restore(before)
   */
  snapshot(into?: Snapshot): Snapshot {
    this.betweenSteps('snapshot')
    if (into !== undefined) this.checkSnapshot(into, "'into' of snapshot")
    this.rooms.kernel.refresh()
    const kept = into ?? new Snapshot()
    const keeper = new Keeper(kept)
    this.visitState(keeper)
    keeper.end()
    kept.world = this
    ;(kept as { tick: number }).tick = this.ticks
    return kept
  }

  /**
   * Puts the world back to where it was when a snapshot of it was taken: to the bit. Bodies, colliders and joints that were removed since are alive
   * again, by the same handles; those that were added since are removed. Watches stay, with what each had told by then; what was begun in between
   * is told again as it comes. With `tell` the next step that is not quiet tells instead how what it finds differs from what handlers have heard: ends
   * and begins with cause `restored`.
   *
   * Bytes of `save()` are taken by any world that was made with the same options (layers, tags, rate, unit). There bodies keep their handles where name
   * and age are the same, else they have new ones; watches and hooks take over what those of the same key had told; `events()` is empty and the past
   * forgotten. They are checked first: with what is damaged or does not fit the world stays as it is.
   * @throws KeenError `locked` from inside a handler or a hook; `bad-argument` for a snapshot of another world; `bad-save`
   */
  restore(state: Snapshot | Uint8Array, options: RestoreOptions<K['data']> = {}): void {
    if (!(state instanceof Uint8Array)) this.restoreSnapshot(state, options)
    else this.restoreWith(this.needSaver(), state, options)
  }

  /**
   * The state of the world as bytes that last: for a file, another process, another machine. It is what `snapshot()` keeps, and the shapes. Not in it are
   * handlers, hooks, and what the last step told. Cost: the memory of the world, copied and summed. `docs/save-format.md` has the format.
   * @param options `data` gives what is kept of a body's `data`
   * @throws KeenError `locked` from inside a handler or a hook; `bad-argument`
   * @example const bytes = world.save(); const other = createWorld({ layers }); other.restore(bytes)
   */
  save(options: SaveOptions<B> = {}): Uint8Array {
    return this.saveWith(this.needSaver(), options)
  }

  /** @internal */
  saveWith(makeSaver: MakeSaver, options: SaveOptions<B>): Uint8Array {
    this.betweenSteps('save')
    onlyFields(options, ['data'], 'the options of save')
    if (options.data !== undefined) callable(options.data, "'data' of save")
    this.rooms.kernel.refresh()
    this.saver ??= makeSaver(this)
    return this.saver.save(options as SaveOptions<object>)
  }

  /** @internal */
  restoreWith(makeSaver: MakeSaver, state: unknown, options: RestoreOptions<K['data']>): void {
    this.betweenSteps('restore')
    if (!(state instanceof Uint8Array)) {
      throw new KeenError('bad-argument', `what is restored must be bytes of save(), got ${show(state)}`)
    }
    const tells = this.checkRestore(options)
    this.rooms.kernel.refresh()
    this.saver ??= makeSaver(this)
    this.saver.restore(state, options.data, () => this.hearAgain(tells))
  }

  private restoreSnapshot(snapshot: Snapshot, options: RestoreOptions<K['data']>): void {
    this.betweenSteps('restore')
    this.checkSnapshot(snapshot, 'what is restored', ' or bytes of save()')
    if (snapshot.world !== this) throw new KeenError('bad-argument', 'restore() takes a snapshot that was filled')
    const tells = this.checkRestore(options)
    if (options.data !== undefined) {
      throw new KeenError('bad-argument', "'data' of restore belongs to bytes of save(): a snapshot leaves data alone")
    }
    this.hearAgain(tells)
    this.rooms.kernel.refresh()
    this.visitState(new Restorer(snapshot))
  }

  /** Returns whether the difference is told. */
  private checkRestore(options: RestoreOptions<K['data']>): boolean {
    onlyFields(options, ['tell', 'data'], 'the options of restore')
    if (options.data !== undefined) callable(options.data, "'data' of restore")
    return flag(options.tell, false, "'tell' of restore")
  }

  /** A state is put back: what handlers have heard is taken down, or holds. */
  private hearAgain(tells: boolean): void {
    const { dispatch, interest } = this.rooms
    if (tells) dispatch.remember(interest.watches)
    else dispatch.forgetHeard()
  }

  private needSaver(): MakeSaver {
    if (this.makeSaver !== null) return this.makeSaver
    throw new KeenError(
      'bad-argument',
      'this world was made without saving, to be smaller: import { save, restore } from where createWorld is imported from, and call save(world) or restore(world, bytes)',
    )
  }

  /**
   * 16 digits that are the same for two worlds to which the same was done, on any engine, and in all likelihood for no others: of poses, motion, filters,
   * pairs, contacts, joints, and what watches have told. Asking questions does not change it. Not for secrets. Cost: the memory of bodies, colliders
   * and pairs, read once.
   * @throws KeenError `locked` from inside a handler or a hook
   */
  hash(): string {
    this.betweenSteps('hash')
    const { population, pairs, rooms } = this
    rooms.kernel.refresh()
    const hash = new Hash()
    hash.word(this.ticks)
    hash.table(population.bodies)
    hash.table(population.colliders)
    pairs.hash(hash)
    rooms.kernel.hash(hash)
    for (const watch of rooms.interest.watches) {
      hash.word(watch.reported)
      hash.word(watch.onceRecord >= 0 ? 1 : 0)
    }
    return hash.text()
  }

  // What saving asks besides: see `save/save.ts`.

  /** @internal */
  get watches(): Iterable<Watch<B, C, V>> {
    const over = this.finished.map(({ watch }) => watch?.deref()).filter((watch) => watch !== undefined)
    return new Set([...this.rooms.interest.watches, ...over])
  }

  /** @internal */
  get hooks(): readonly Hook<B, C, V>[] {
    return this.rooms.decide.hooks
  }

  /** What a world must be made with to take over a state of this one. @internal */
  likeness(): Readonly<Record<string, number | boolean>> {
    const { forces } = this.rooms.kernel
    return { rate: this.pace, unit: this.unit, forces: forces !== null }
  }

  /** @internal */
  layersNow(): Layers<K['layer']> {
    return this.table
  }

  /** A state was put back that is not one of the own past. @internal */
  arrived(): void {
    this.history?.forget(this.ticks)
  }

  /** Begins to remember, where that is wanted. Called when a dimension is ready. */
  protected remember(ticks: number | undefined, host: HistoryHost<C>): void {
    if (ticks === undefined || ticks === 0) return
    if (!Number.isInteger(ticks) || ticks < 0 || ticks > MOST_HISTORY) {
      throw new KeenError(
        'bad-number',
        `'history' of a world must be a whole number of ticks from 0 to ${MOST_HISTORY}, got ${show(ticks)}`,
      )
    }
    this.history = new History<C>(host, ticks)
    this.history.record(0)
  }

  /** The pair table of an earlier tick, in a world that shows it. */
  protected showLayers(layers: Layers): void {
    this.table = layers as Layers<K['layer']>
  }

  /** Shows the world of so many ticks ago in one beside it, now and whenever the answer is called. */
  protected pastOf(ago: unknown): { readonly tick: number; readonly show: () => HistoryHost<C> } {
    const { history } = this
    if (history === null) {
      throw new KeenError(
        'bad-argument',
        'past: this world remembers nothing: createWorld({ history: 30 }) remembers 30 ticks',
      )
    }
    if (typeof ago !== 'number' || !Number.isInteger(ago) || ago < 0 || ago > history.length) {
      throw new KeenError(
        'bad-number',
        `past takes a whole number of ticks from 0 to ${history.length}, got ${show(ago)}`,
      )
    }
    const tick = this.ticks - ago
    const shown = (): HistoryHost<C> => {
      if (!history.knows(tick)) {
        const why = tick < 0 ? 'the world had not begun' : 'it is forgotten'
        throw new KeenError('bad-argument', `past: nothing is known of tick ${tick}: ${why}`)
      }
      return history.show(tick)
    }
    if (!history.knows(tick)) shown()
    return { tick, show: shown }
  }

  /** The state, part by part. @internal */
  visitState(v: StateVisitor): void {
    const { population, pairs, rooms } = this
    this.ticks = v.number(this.ticks)
    this.table = v.object(this.table)
    population.visit(v)
    pairs.visit(v)
    rooms.ledger.visit(v)
    rooms.dispatch.visit(v)
    rooms.crossings.visit(v)
    rooms.kernel.visit(v)
    if (v instanceof Restorer) this.wakeHandles()
    for (const collider of population.handles.all()) collider?.visit(v)
    this.visitWatches(v)
  }

  /** Handles are what their slots say: alive, with their colliders, by their names. */
  private wakeHandles(): void {
    const { bodyHandles, handles, filter, bodySerial } = this.population
    this.names.clear()
    for (const collider of handles.all()) collider?.setAlive((filter.flags.data[collider.slot] & DEAD) === 0)
    for (const body of bodyHandles) {
      if (body === null || bodySerial.data[body.slot] === 0) continue
      const colliders = this.population.collidersOf(body.slot)
      const same = colliders.length === body.colliders.length && colliders.every((c, i) => c === body.colliders[i])
      const alive = this.population.bodyAlive(body.slot)
      body.setAlive(alive, same ? body.colliders : colliders)
      if (alive && body.name !== null) this.names.set(body.name, body)
    }
  }

  /** What each watch has told. Those that were made since have told nothing; one that was `once` and is over by itself may be there again. */
  private visitWatches(v: StateVisitor): void {
    const { rooms } = this
    const { interest, ledger, dispatch, decide } = rooms
    const now = [...interest.watches]
    const kept = v.objects(now)
    for (const watch of kept) watch.visit(v)
    const hooks = v.objects(decide.hooks)
    const freshHooks = v.objects(rooms.freshHooks)
    rooms.watchesChanged = v.flag(rooms.watchesChanged)
    let over: readonly Finished<Watch<B, C, V>>[] = []
    v.copy(
      () => (v.portable ? this.finished.map(({ sign }) => ({ sign })) : this.finished) as typeof over,
      (were) => {
        over = were
      },
    )
    if (kept === now) return
    const sameHooks = hooks.length === decide.hooks.length && hooks.every((hook, i) => hook === decide.hooks[i])
    const known = new Set(kept)
    interest.watches.clear()
    for (const watch of kept) {
      if (!watch.dropped) interest.watches.add(watch)
      else {
        watch.over = true
        dispatch.dropWatch(watch)
        ledger.dropWatch(watch)
      }
    }
    const rest = now.filter((watch) => !known.has(watch))
    this.finished = v.portable ? this.overAgain(over, rest, known) : over
    const isOver = new Set(this.finished.map(({ id }) => id))
    for (const watch of rest) {
      watch.forget()
      if (isOver.has(watch.id)) watch.over = true
      else interest.watches.add(watch)
    }
    rooms.freshWatches.length = 0
    for (const watch of interest.watches) if (watch.fresh) rooms.freshWatches.push(watch)
    const active = [...interest.watches]
    const sameWatches = active.length === kept.length && active.every((watch, i) => watch === kept[i])
    if (sameHooks) rooms.freshHooks.splice(0, Infinity, ...freshHooks)
    else decide.reconsider()
    if (!sameHooks || !sameWatches) rooms.watchesChanged = true
    else if (v.portable) {
      // No step has looked at them yet, and none needs to.
      interest.rebuild()
      rooms.hookInterest.rebuild()
    }
  }

  /**
   * Of a state of another world: which watches are over by themselves there, by their signs.
   * @param rest those in force that the state has not
   */
  private overAgain(
    over: readonly Finished<Watch<B, C, V>>[],
    rest: readonly Watch<B, C, V>[],
    known: ReadonlySet<Watch<B, C, V>>,
  ): readonly Finished<Watch<B, C, V>>[] {
    const own = this.finished.map(({ watch }) => watch?.deref()).filter((watch) => watch !== undefined)
    const left = [...rest, ...own.filter((watch) => !known.has(watch))]
    return over.map(({ sign }) => {
      const at = left.findIndex((watch) => watch.sign === sign)
      if (at < 0) return { id: 0, sign, watch: null }
      const [watch] = left.splice(at, 1)
      return { id: watch.id, sign, watch: new WeakRef(watch) }
    })
  }

  private betweenSteps(what: string): void {
    this.population.guard(what)
    if (!this.stepping) return
    throw new KeenError(
      'locked',
      `${what}: the state of a world is whole between two steps only; note it, and do it after the step`,
    )
  }

  private checkSnapshot(snapshot: unknown, what: string, or = ''): void {
    if (!(snapshot instanceof Snapshot)) {
      throw new KeenError('bad-argument', `${what} must be a snapshot of this world${or}, got ${show(snapshot)}`)
    }
    if (snapshot.world !== null && snapshot.world !== this) {
      throw new KeenError('bad-argument', `${what} is of another world`)
    }
  }

  /** @internal */
  pairsOf(watch: Watch<B, C, V>): WatchPair<B, C>[] {
    const { ledger } = this.rooms
    const { bodyHandles, handles } = this.population
    return ledger.toldOf(watch).map((record) => {
      const turned = (ledger.flags.data[record] & FLIPPED) !== 0
      const bodyA = bodyHandles[ledger.bodyA.data[record]]!
      const bodyB = bodyHandles[ledger.bodyB.data[record]]!
      const colliderA = handles.of(ledger.colliderA.data[record])
      const colliderB = handles.of(ledger.colliderB.data[record])
      return {
        a: turned ? bodyB : bodyA,
        b: turned ? bodyA : bodyB,
        aCollider: turned ? colliderB : colliderA,
        bCollider: turned ? colliderA : colliderB,
        response: RESPONSE_NAMES[ledger.toldResponse.data[record]] as 'solid' | 'sense',
        dwell: (this.ticks - ledger.beginTick.data[record]) * this.dt,
      }
    })
  }

  /** A watch that is `once` has told its end. */
  private finish(watch: Watch<B, C, V>): void {
    this.stop(watch)
    // Never changed in place: states that were taken down share it.
    this.finished = [...this.finished, { id: watch.id, sign: watch.sign, watch: new WeakRef(watch) }]
  }

  /** @internal */
  stop(watch: Watch<B, C, V>): void {
    if (watch.over) return
    this.population.guard('stop')
    watch.over = true
    this.rooms.dispatch.dropWatch(watch)
    this.rooms.ledger.dropWatch(watch)
    this.rooms.interest.watches.delete(watch)
    this.rooms.watchesChanged = true
  }

  /** Folds a collider's words again after a change. @internal */
  wordsChanged(c: number): void {
    this.population.markDirty(c)
    this.refiltered(c)
  }

  /**
   * Gives the last word on pairs of what matches the first side and the second: asked when two come into touch, the
   * hook answers `'solid'`, `'sense'` or `'pass'`, and may keep or weaken what the filter says, never raise it. Of several
   * hooks the weakest answer wins, and it is kept until the two part. Inside a hook the world cannot be changed and not be
   * asked questions, for poses are in flux.
   *
   * @throws KeenError as {@link watch}; what a hook throws, or a wrong answer, is thrown by `step` as `callback-failed`
   * @example world.decide('craft', 'ledge', (pair) => (pair.approach.y > 0 ? 'pass' : 'solid'))
   */
  decide(
    first: WatchSide<K, B, C>,
    second: WatchSide<K, B, C>,
    answer: (pair: DecidedPair<B, C, V>) => Response,
    options: DecideOptions = {},
  ): Hook<B, C, V> {
    this.population.guard('decide')
    const hook = new Hook<B, C, V>(
      this.side(first, 'the first side of a decide hook'),
      this.side(second, 'the second side of a decide hook'),
      answer,
      options,
      (ended) => {
        this.population.guard('stop')
        this.rooms.decide.remove(ended)
        this.rooms.hookInterest.watches.delete(ended)
        this.rooms.watchesChanged = true
      },
    )
    this.rooms.decide.add(hook)
    this.rooms.hookInterest.watches.add(hook)
    this.rooms.freshHooks.push(hook)
    this.rooms.watchesChanged = true
    return hook
  }

  /**
   * Why two bodies or colliders meet or do not, as things stand: every check in order, with its verdict, what was found, and
   * for the one that refused the change that would let them meet. `String()` of it is a text. Of bodies with several
   * colliders the pair that came furthest is explained. Removed handles can be asked about too.
   * @throws KeenError `bad-argument`, `foreign-handle`, `locked` inside a decide hook
   * @example console.log(String(world.explain(craft, beacon)))
   */
  explain(a: B | C, b: B | C): Explanation {
    if (this.reasons !== null) return this.explainWith(this.reasons.explain, a, b)
    throw new KeenError(
      'bad-argument',
      'this world was made without explanations, to be smaller: import { explain } from where createWorld is imported from, and call explain(world, a, b)',
    )
  }

  /**
   * What is worth a look in a world that was made with `advise: true`: watches that have told nothing, layers that queries asked for and nobody
   * is on, bodies that have left, solid pairs that were passed at speed; each with a cure. Cost: the bodies, and for each silent watch some
   * explanations.
   * @throws KeenError `bad-argument` in a world that was made without it
   */
  advice(): readonly Advice[] {
    this.population.guardQuery()
    const { reasons } = this
    if (reasons === null || this.onMask === null) {
      throw new KeenError(
        'bad-argument',
        'this world collects no advice: make it with createWorld({ …, advise: true })',
      )
    }
    const { interest, matcher, crossings } = this.rooms
    return reasons.advise({
      tick: this.ticks,
      dt: this.dt,
      unit: this.unit,
      bodies: this.bodies() as never,
      watches: interest.watches as never,
      emptyMasks: this.emptyMasks,
      crossings: crossings.all(),
      matches: (side, c) => matcher.matches(side, c),
      explain: (a, b) => this.explainWith(reasons.explain, a as never, b as never),
    })
  }

  /** Takes down layers that a query asks for while nobody is on them. */
  private noteMask(mask: number): void {
    const { flags, activeLayers } = this.population.filter
    let used = 0
    for (let c = 0; c < this.population.colliders.size; c++)
      if ((flags.data[c] & ON) !== 0) used |= activeLayers.data[c]
    if ((mask & used) !== 0) return
    const names = this.table.names(mask >>> 0).map((each) => `'${each}'`)
    this.emptyMasks.add(names.join(', ') || 'no layer')
  }

  /** @internal */
  explainWith(explainer: typeof explain, a: B | C, b: B | C): Explanation {
    this.population.guardQuery()
    for (const each of [a, b] as unknown[]) {
      if (!(each instanceof BodyHandle || each instanceof ColliderHandle)) {
        const names = [...this.names.keys()].slice(0, NAMED).map(show).join(', ')
        const hint =
          each === null ? `: find() gives null where no body has the name; there are ${names || 'no names'}` : ''
        throw new KeenError('bad-argument', `explain takes two bodies or colliders, got ${show(each)}${hint}`)
      }
      if (each.alive) this.owned(each as unknown as B | C, 'explain')
    }
    const { population, pairs, layers } = this
    const { interest, kernel, matcher, crossings } = this.rooms
    return explainer<B, C, V>(
      {
        population,
        pairs,
        layers: layers as unknown as Layers,
        interest,
        matches: (side, c) => matcher.matches(side, c),
        apart: (one, other) => kernel.apart(one, other),
        jumped: (one, other) => kernel.teleportedPast(one, other),
        weight: (body) => kernel.describeMass(body),
        joints: (one, other) => kernel.describeJoints(one, other),
        passed: (one, other) => crossings.last(one, other),
        came: (one, other) => kernel.cameThrough(one, other),
        below: (one, other, gravity) => kernel.isBelow(one, other, gravity),
        dt: this.dt,
        tick: this.tick,
        gravity: kernel.forces?.motion.gravity ?? null,
      },
      a as never,
      b as never,
    )
  }

  /** @internal */
  ignoreBodies(one: B, other: B, ignored: boolean): void {
    this.ignorable(one, other, BodyHandle, ignored)
    if (!this.population.filter.bodiesIgnoring.set(one.slot, other.slot, ignored)) return
    for (let c = this.population.first(one.slot); c >= 0; c = this.population.next(c)) this.population.markDirty(c)
  }

  /** @internal */
  ignoreColliders(one: C, other: C, ignored: boolean): void {
    this.ignorable(one, other, ColliderHandle, ignored)
    if (this.population.filter.collidersIgnoring.set(one.slot, other.slot, ignored)) this.population.markDirty(one.slot)
  }

  private ignorable(
    one: B | C,
    other: unknown,
    Kind: typeof BodyHandle | typeof ColliderHandle,
    ignored: boolean,
  ): void {
    const what = ignored ? 'ignore' : 'unignore'
    one.change(what)
    if (!(other instanceof Kind)) {
      const kind = Kind === BodyHandle ? 'body' : 'collider'
      throw new KeenError('bad-argument', `${what} of a ${kind} takes another ${kind}, got ${show(other)}`)
    }
    this.owned(other as unknown as B | C, what)
    if ((other as unknown) === one) throw new KeenError('bad-argument', `${what}: ${one} never meets itself`)
  }

  /** @internal */
  retype(body: number, type: number): void {
    this.population.retype(body, type)
    for (let c = this.population.first(body); c >= 0; c = this.population.next(c)) this.refiltered(c)
  }

  /** @internal */
  removeBody(body: number): void {
    const handle = this.population.bodyHandles[body]!
    for (const { slot } of handle.colliders) this.takeOut(slot)
    if (handle.name !== null) this.names.delete(handle.name)
    handle.markDead()
    this.buried(body)
    this.population.killBody(body)
  }

  /** @internal */
  removeCollider(c: number): void {
    this.takeOut(c)
    this.population.handles.of(c).body.changeColliders()
  }

  /** The living body of a slot takes its name. @internal */
  protected register(handle: B): void {
    this.population.bodyHandles[handle.slot] = handle
    if (handle.name !== null) this.names.set(handle.name, handle)
  }

  /** Refuses a name that a living body has. */
  protected checkName(name: unknown): string | null {
    if (name === undefined || name === null) return null
    if (typeof name !== 'string' || name === '') {
      throw new KeenError('bad-argument', `'name' of a body must be a string other than '', got ${show(name)}`)
    }
    if (this.names.has(name))
      throw new KeenError('duplicate-name', `a body called ${show(name)} is already in the world`)
    return name
  }

  /** Takes the effective words of a collider over into the dimension's trees. */
  protected abstract refiltered(collider: number): void
  /** Takes a collider out of the dimension's trees. */
  protected abstract takenOut(collider: number): void
  /** A body was removed; its slot is still its own. */
  protected abstract buried(body: number): void
  protected abstract lastTests(): number
  protected abstract lastHeld(): number

  private takeOut(c: number): void {
    const { pairs, population } = this
    const handle = population.handles.of(c)
    this.rooms.kernel.wakeTouching(c)
    for (let edge = pairs.firstEdge(c); edge >= 0; ) {
      const next = pairs.nextEdge(edge)
      this.rooms.ledger.unlinkPair(edge >> 1, REMOVED)
      pairs.remove(edge >> 1)
      edge = next
    }
    handle.markDead()
    population.killCollider(c)
    this.takenOut(c)
  }

  private side(value: unknown, what: string): Side {
    return readSide(value, what, this.table, this.tags, (handle) => this.owned(handle as B | C, what))
  }

  /**
   * What decide hooks say of two that `travel` brings together; null where there are none.
   * @param kept only what they have answered before
   * @internal
   */
  lastWord(kept: boolean): Consult | null {
    if (this.rooms.decide.hooks.length === 0) return null
    return kept ? this.keptAnswers : this.answers
  }

  private readonly approach = new Float64Array(3)
  private readonly answers: Consult = (own, other, normal, motion) => this.consult(own, other, normal, motion, false)
  private readonly keptAnswers: Consult = (own, other, normal, motion) => this.consult(own, other, normal, motion, true)

  private consult(own: number, other: number, normal: Float64Array, motion: Float64Array, kept: boolean): number {
    for (let k = 0; k < motion.length; k++) this.approach[k] = motion[k] * this.pace
    return this.rooms.decide.consult(own, other, normal, this.approach, kept)
  }

  /** Refuses handles that are dead or of another world. @internal */
  owned(handle: B | C, what: string): boolean {
    const { bodyHandles, handles } = this.population
    const isHere = bodyHandles[handle.slot] === handle || handles.known(handle.slot) === handle
    if (this.present !== null) {
      if (isHere || handle.livesIn(this.present)) return isHere
    } else {
      handle.use(what)
      if (isHere) return true
    }
    throw new KeenError('foreign-handle', `${what}: ${handle} belongs to another world`)
  }
}

function isQuiet(options: StepOptions): boolean {
  onlyFields(options, ['quiet'], 'the options of a step')
  return flag(options.quiet, false, "'quiet' of a step")
}

refuseAssignment(WorldCore.prototype, {
  rate: 'make a world with another rate',
  dt: 'make a world with another rate',
  layers: 'setPair() changes the pair table; layers are given when a world is made',
  tick: 'step() counts it',
  time: 'step() counts it',
  stats: 'they are counted by the world',
})
