/**
 * Continuous collision: a body that moves far in one tick is swept along its path. Where it would pass through something solid it bounces,
 * and continues for the rest of the tick. The legs of such a path are kept for the verdicts. A dimension brings paths and bounces.
 */
import { SOLID } from '../filter/filter.ts'
import { DYNAMIC, type Population } from '../state/population.ts'
import { type Column, IntList } from '../state/table.ts'
import { DISTANCE } from '../step/distances.ts'
import type { Pairs } from '../step/pairs.ts'
import type { Path } from '../step/path.ts'
import type { ContactBook } from './contactBook.ts'
import { ALL, type DynamicsCore, OFF } from './dynamics.ts'
import type { MotionCore, Scale } from './motion.ts'

/** Part of half its least width that a body may move in a tick without being followed. */
const FAST_PART = 0.5
/** Bends of a path, at most: so many bounces within a tick; what is left then waits for the next. */
export const MAX_BENDS = 8

/** Paths that may have bends. */
export interface BentPath extends Path {
  /** Adds a bend to the path of a body at a time of the tick; from there it leads to another end. */
  addBend(body: number, time: number): void
}

/** What a sweep works on, as far as it knows no dimension. */
export interface SweeperCoreSetup<M, P> {
  readonly population: Population<object, object>
  readonly pairs: Pairs
  readonly path: P
  readonly motion: M
  readonly scale: Scale
}

export abstract class SweeperCore<M extends MotionCore<DynamicsCore, ContactBook>, P extends BentPath> {
  protected readonly population: Population<object, object>
  protected readonly pairs: Pairs
  protected readonly path: P
  protected readonly motion: M
  protected readonly record: Float64Array
  protected readonly touch: number
  protected readonly unit: number
  /** Seconds a tick. */
  protected readonly dt: number
  private readonly fast = new IntList()
  /** The step in which a body was last listed. */
  private readonly listed: Column<Int32Array>
  /** The step in which a pair was met at an inner edge. */
  private readonly passed: Column<Int32Array>
  private readonly older = (a: number, b: number): boolean =>
    this.population.bodySerial.data[a] < this.population.bodySerial.data[b]
  /** What the last search found: the pair, and its time. */
  private readonly hit = new Float64Array(3)
  /** Whether the last time was that of pieces which were apart, while others of the two were in contact. */
  private apart = false

  /** @param record numbers of the record of a gap */
  constructor({ population, pairs, path, motion, scale }: SweeperCoreSetup<M, P>, record: number) {
    const { touch, unit, dt } = scale
    this.dt = dt
    this.population = population
    this.pairs = pairs
    this.path = path
    this.motion = motion
    this.touch = touch
    this.unit = unit
    this.record = new Float64Array(record)
    this.passed = pairs.table.i32()
    this.listed = population.bodies.i32()
  }

  /** The face that the last inner edge belongs to: first its outward unit normal. */
  abstract readonly face: Float64Array

  /** How far a body's outermost point has come in this tick, at most. */
  protected abstract displacementOf(body: number): number

  /**
   * Whether what is met at a time does not rise above a face that the body touches then: the next piece of the ground on which it slides.
   */
  abstract isInnerEdge(body: number, pair: number, time: number): boolean

  /** At the time of a hit, where the path has a bend: the impulse that the two exchange, and the rest of the motion. */
  protected abstract bounce(body: number, pair: number, time: number, now: number, refit: (body: number) => void): void

  /** The body ends the tick where it is at a time of it. */
  protected abstract stay(body: number, time: number): void

  /**
   * Follows every fast body of this tick.
   * @param refit updates geometry, bounds and candidate pairs of a body after its path has changed
   */
  run(now: number, refit: (body: number) => void): void {
    const { fast, motion } = this
    const { awake } = motion.islands
    const { sweep, halfWidth } = motion.dynamics
    fast.clear()
    this.path.forgetPassed()
    for (let i = 0; i < awake.length; i++) {
      const body = awake.data[i]
      if (sweep.data[body] !== OFF && this.displacementOf(body) > FAST_PART * halfWidth.data[body]) this.list(body, now)
    }
    for (let i = 0; i < motion.movingKinematics.length; i++) this.listInPathOf(motion.movingKinematics.data[i], now)
    if (fast.length === 0) return
    fast.sort(this.older)
    for (let i = 0; i < fast.length; i++) this.follow(fast.data[i], now, refit)
  }

  private list(body: number, now: number): void {
    if (this.listed.data[body] === now) return
    this.listed.data[body] = now
    this.fast.push(body)
  }

  /** Lists dynamic bodies that a fast kinematic body may pass through: they are swept as well. */
  private listInPathOf(driven: number, now: number): void {
    const { population, pairs, motion } = this
    const { halfWidth, sweep } = motion.dynamics
    const way = this.displacementOf(driven)
    for (let c = population.first(driven); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        const other = (edge & 1) === 0 ? pairs.b.data[edge >> 1] : pairs.a.data[edge >> 1]
        const body = population.filter.body.data[other]
        if (
          population.type.data[body] !== DYNAMIC ||
          sweep.data[body] === OFF ||
          way <= FAST_PART * halfWidth.data[body]
        )
          continue
        if (motion.responseOf(edge >> 1) === SOLID) this.list(body, now)
      }
    }
  }

  private follow(body: number, now: number, refit: (body: number) => void): void {
    const { path, hit } = this
    let from = 0
    for (let leg = 0; leg < MAX_BENDS; leg++) {
      if (!this.firstHit(body, from, now)) return
      const pair = hit[0]
      const time = hit[1]
      path.addBend(body, time)
      this.bounce(body, pair, time, now, refit)
      path.clearAside()
      refit(body)
      from = time
    }
    // Enough for one tick: it waits here.
    this.stay(body, from)
    refit(body)
  }

  /** The first solid pair that a body meets after a time of the tick, inner edges of what it slides on aside. */
  private firstHit(body: number, from: number, now: number): boolean {
    const { hit, passed, path, pairs, touch } = this
    while (this.nextHit(body, from, now)) {
      const pair = hit[0]
      path.clearAside()
      if (hit[2] !== 0) path.setAside(pairs.a.data[pair], pairs.b.data[pair], from, touch)
      else if (passed.data[pair] === now) return true
      // An inner edge is left to the contacts, unless the body goes half way through all the same.
      if (!this.isInnerEdge(body, pair, hit[1])) return true
      if (hit[2] !== 0) path.passPieces()
      else passed.data[pair] = now
    }
    path.clearAside()
    return false
  }

  /** The first solid pair that a body meets after a time of the tick. */
  private nextHit(body: number, from: number, now: number): boolean {
    const { population, pairs, motion, hit } = this
    const all = motion.dynamics.sweep.data[body] === ALL
    let best = Infinity
    let found = -1
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        const pair = edge >> 1
        const other = (edge & 1) === 0 ? pairs.b.data[pair] : pairs.a.data[pair]
        if (!all && population.type.data[population.filter.body.data[other]] === DYNAMIC) continue
        if (motion.responseOf(pair) !== SOLID) continue
        const time = this.timeOf(pair, body, from, now)
        // Of two at the same time the older pair comes first: edges run from the youngest.
        if (time > best || time < 0 || (time === best && !this.olderPair(pair, found))) continue
        best = time
        found = pair
        hit[2] = this.apart ? 1 : 0
      }
    }
    hit[0] = found
    hit[1] = best
    return found >= 0
  }

  private olderPair(p: number, q: number): boolean {
    const { serial } = this.population
    const { a, b } = this.pairs
    const first = serial.data[a.data[p]] - serial.data[a.data[q]]
    return first !== 0 ? first < 0 : serial.data[b.data[p]] < serial.data[b.data[q]]
  }

  /**
   * When two that are not in contact first come to touch after a time, or -1. Two that were in contact then are left to the solver, and
   * only stopped when one goes half way through the other all the same, or deeper than that.
   */
  private timeOf(pair: number, body: number, from: number, now: number): number {
    const { pairs, path, motion, touch, record, passed } = this
    const a = pairs.a.data[pair]
    const b = pairs.b.data[pair]
    this.apart = false
    path.clearAside()
    path.gapAt(a, b, from, record)
    const gap = record[DISTANCE]
    if (gap > touch && passed.data[pair] !== now) return path.firstWithin(a, b, 0.5 * touch, from)
    // What is half way through already, or as good as that, goes no deeper. It must not be met where it is, or it could never leave.
    const reach = Math.min(-0.5 * motion.dynamics.halfWidth.data[body], gap - 0.5 * touch)
    const through = path.firstWithin(a, b, reach, from)
    // Of two that are in contact other pieces may be met, as if they were other colliders.
    if (!path.setAside(a, b, from, touch)) return through
    const time = path.firstWithin(a, b, 0.5 * touch, from)
    path.clearAside()
    this.apart = time >= 0 && (through < 0 || time < through)
    return this.apart ? time : through
  }

  /** The books of a pair that is struck at a time of the tick, at a point that stands in `metAt`. */
  protected markStruck(body: number, pair: number, time: number, now: number): void {
    const { motion } = this
    motion.activation.wake(body)
    if (motion.pressed.data[pair] !== now) motion.pressedWhen.data[pair] = time
    motion.pressed.data[pair] = now
    motion.swept.data[pair] = now
  }
}
