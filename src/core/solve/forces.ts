/**
 * What forces and contacts add to the stages of a tick (`core/step/kernel.ts`), as far as that knows no dimension. A kernel without them has
 * bodies that stand still, and bodies that move as they are told.
 */

import { SOLID } from '../filter/filter.ts'
import type { Hash } from '../save/hash.ts'
import type { StateVisitor } from '../save/state.ts'
import { DYNAMIC, type Population } from '../state/population.ts'
import type { Table } from '../state/table.ts'
import type { BroadPhase } from '../step/broadPhase.ts'
import type { JointStages } from '../step/kernel.ts'
import { PASSED_THROUGH, type Pairs, PRESSED_APART } from '../step/pairs.ts'
import type { Activation } from './activation.ts'
import type { ContactBook } from './contactBook.ts'
import type { DynamicsCore } from './dynamics.ts'
import type { MotionCore } from './motion.ts'
import type { Surfaces } from './surfaces.ts'
import type { BentPath, SweeperCore } from './sweep.ts'

/** Lengths a second (times the unit) at which two come together, below which nobody asks why. */
const LEAST_CLOSING = 0.01

/** The kernel that forces are added to. */
export interface ForcedKernel {
  readonly broadPhase: Pick<
    BroadPhase<never, never, never>,
    'now' | 'follow' | 'followBends' | 'makeRoom' | 'changedTick'
  >
  readonly poses: { readStep(body: number, out: Float64Array): void }
  readonly surfaces: Surfaces
  findPairs(): void
  /** The verdict of one pair at the end poses. */
  judge(pair: number): void
}

/** What forces work on. */
export interface ForcesSetup {
  readonly population: Population<object, object>
  readonly pairs: Pairs
  readonly kernel: ForcedKernel
  readonly path: BentPath
  /** The normal of each solid pair, from its `a` to its `b`. */
  readonly normal: { data: Float64Array }
  /** Numbers of a vector. */
  readonly axes: number
  /** The user's lengths to a metre. */
  readonly unit: number
}

/** What forces ask of joints. */
interface ForcedJoints extends JointStages {
  readonly book: { readonly table: Table }
  visit(v: StateVisitor): void
  wakeMoved(velocities: Float64Array, speeds: number): void
  wakeJoined(body: number): void
  bodyRemoved(body: number): void
}

export abstract class ForcesCore<
  D extends DynamicsCore,
  C extends ContactBook,
  M extends MotionCore<D, C>,
  P extends BentPath,
  J extends ForcedJoints,
> {
  abstract readonly motion: M
  abstract readonly joints: J
  abstract readonly dynamics: D
  /** Names of what a body may be locked in, bit by bit. */
  protected abstract readonly lockNames: readonly string[]
  protected abstract readonly sweeper: SweeperCore<M, P>
  protected readonly population: Population<object, object>
  protected readonly pairs: Pairs
  private readonly kernel: ForcedKernel
  private readonly path: BentPath
  private readonly normal: { data: Float64Array }
  private readonly axes: number
  private readonly gone = new Float64Array(2)
  private readonly follow = (body: number): void => {
    this.kernel.poses.readStep(body, this.gone)
    this.kernel.broadPhase.follow(body, this.gone)
  }
  private readonly followBends = (body: number): void => {
    this.kernel.broadPhase.followBends(body, this.path)
    this.kernel.findPairs()
  }
  private readonly makeRoom = (body: number): void => {
    this.kernel.broadPhase.makeRoom(body, this.motion.predicted)
  }
  /** Whether the tick has not moved anything yet. */
  private ahead = false
  /** Lengths a second of coming together that are checked twice. */
  private readonly least: number

  constructor({ population, pairs, kernel, path, normal, axes, unit }: ForcesSetup) {
    this.population = population
    this.pairs = pairs
    this.kernel = kernel
    this.path = path
    this.normal = normal
    this.axes = axes
    this.least = LEAST_CLOSING * unit
  }

  /** Their state. */
  visit(v: StateVisitor): void {
    this.motion.visit(v)
    this.joints.visit(v)
  }

  hash(into: Hash): void {
    for (const part of this.motion.gravity) into.number(part)
    this.motion.contacts.hash(into)
    into.table(this.joints.book.table)
  }

  get activation(): Activation {
    return this.motion.activation
  }

  /** A body became dynamic, or is dynamic no more. */
  setDynamic(body: number, dynamic: boolean): void {
    if (dynamic) this.activation.enter(body)
    else this.motion.leave(body)
  }

  // The stages of a tick that forces add.

  predictBounds(): void {
    if (this.activation.count > 0) this.motion.predict(this.makeRoom)
  }

  findContacts(): void {
    this.ahead = true
    const { motion, joints } = this
    if (this.activation.count === 0) return
    if (motion.movingKinematics.length > 0) joints.wakeMoved(motion.startVelocity.data, motion.speeds)
    motion.findContacts(this.kernel.broadPhase.now, this.follow)
  }

  move(): void {
    const { motion } = this
    this.ahead = false
    if (this.activation.count === 0) return
    motion.restFallen()
    motion.solve(this.kernel.broadPhase.now, this.follow)
  }

  sweep(): void {
    if (this.activation.count > 0) this.sweeper.run(this.kernel.broadPhase.now, this.followBends)
  }

  /** What was pressed in this tick touches, wherever it is by its end; returns false for what was not. */
  judgePressed(pair: number, before: number): boolean {
    const { pairs, motion, kernel } = this
    const { now } = kernel.broadPhase
    const { pressedWhen } = motion
    if (motion.pressed.data[pair] !== now) return false
    if (motion.swept.data[pair] === now) {
      const closing = pairs.closing.data[pair]
      kernel.judge(pair)
      pairs.closing.data[pair] = closing
      if (pairs.next.data[pair] === 0) {
        if (before !== 0) return true
        // Met on the way, and left again.
        pairs.when.data[pair] = pressedWhen.data[pair]
        pairs.exit.data[pair] = pressedWhen.data[pair]
        pairs.flags.data[pair] |= PASSED_THROUGH | PRESSED_APART
        pairs.markChanged(pair)
        return true
      }
    }
    pairs.next.data[pair] = SOLID
    if (before !== SOLID) pairs.when.data[pair] = pressedWhen.data[pair]
    return true
  }

  /** A verdict is about to be written: what slept on it wakes. */
  wakeFor(pair: number, before: number, verdict: number): void {
    if (verdict !== before && (verdict === SOLID || before === SOLID)) this.activation.wakePair(pair)
  }

  /** At an inner edge nothing is struck: the body comes together with the ground where it slides on it, and that is another pair. */
  straighten(pair: number): void {
    const { population, normal, sweeper, pairs, axes } = this
    if (!(pairs.closing.data[pair] > this.least)) return
    const a = population.filter.body.data[pairs.a.data[pair]]
    const b = population.filter.body.data[pairs.b.data[pair]]
    const slides = population.type.data[a] === DYNAMIC ? a : population.type.data[b] === DYNAMIC ? b : -1
    if (slides < 0 || !sweeper.isInnerEdge(slides, pair, 1)) return
    const sign = slides === a ? -1 : 1
    for (let k = 0; k < axes; k++) normal.data[axes * pair + k] = sign * sweeper.face[k]
    pairs.closing.data[pair] = 0
  }

  wake(body: number): void {
    this.activation.wake(body)
  }

  wakeTouching(c: number): void {
    this.activation.wakeTouching(c)
  }

  releasePair(pair: number): void {
    this.motion.contacts.clear(pair)
  }

  /** For explanations: how forces move a dynamic body, in a few words. Cold. */
  describeMass(body: number): string {
    const { dynamics, motion } = this
    const locked = this.lockNames.filter((_, bit) => (dynamics.locks.data[body] & (1 << bit)) !== 0)
    const asleep = motion.islands.isAwake.data[body] === 0
    return dynamics.describe(body, !motion.gravity.some((part) => part !== 0), locked, asleep)
  }

  /** Newton seconds at a point of contact: the pair, the pieces by their place within each, and the name of the point. */
  abstract impulseAt(pair: number, partA: number, partB: number, name: number): number

  /**
   * Before anything has moved: writes how a pair's `a` moves as seen from its `b`, by the speeds at which both set out, as three numbers.
   * Returns false after that.
   */
  readApproach(pair: number, out: Float64Array, at: number): boolean {
    if (!this.ahead) return false
    const { data } = this.motion.startVelocity
    const { speeds } = this.motion
    const { body } = this.population.filter
    const a = speeds * body.data[this.pairs.a.data[pair]]
    const b = speeds * body.data[this.pairs.b.data[pair]]
    for (let k = 0; k < 3; k++) out[at + k] = k < this.axes ? data[a + k] - data[b + k] : 0
    return true
  }
}
