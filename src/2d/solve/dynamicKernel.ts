/** What forces and contacts add to the 2D side of a tick: see `core/step/kernel.ts` for the stages. */
import { SOLID } from '../../core/filter/filter.ts'
import { DYNAMIC } from '../../core/state/population.ts'
import { type KernelSetup, touchDistance } from '../../core/step/kernel.ts'
import { PASSED_THROUGH, PRESSED_APART } from '../../core/step/pairs.ts'
import { Kernel2 } from '../kernel.ts'
import { FACE_X, FACE_Y } from '../narrow/flush.ts'
import { TOTAL } from './contacts.ts'
import { Dynamics, type PlacedShape } from './dynamics.ts'
import { Motion } from './motion.ts'
import { Sweeper } from './sweep.ts'

/** Lengths a second (times the unit) at which two come together, below which nobody asks why. */
const LEAST_CLOSING = 0.01

/** With forces: dynamic bodies too. */
export class DynamicKernel2 extends Kernel2 {
  /** What forces and contacts do. */
  readonly motion: Motion
  readonly dynamics: Dynamics
  private readonly sweeper: Sweeper
  private readonly follow = (body: number): void => this.broadPhase.follow(body, this.poses.turnInTick(body))
  private readonly followBends = (body: number): void => {
    this.broadPhase.followBends(body, this.path)
    this.findPairs()
  }
  private readonly makeRoom = (body: number): void => this.broadPhase.makeRoom(body, this.motion.predicted)
  /** Whether the tick has not moved anything yet. */
  private ahead = false
  /** Lengths a second of coming together that are checked twice. */
  private readonly least: number

  constructor(setup: KernelSetup, placed: (c: number) => PlacedShape) {
    super(setup)
    const { population, pairs, dt, unit } = setup
    const { poses, path, geometry, distances, surfaces, oneWay, normal, metAt } = this
    this.least = LEAST_CLOSING * unit
    this.dynamics = new Dynamics(population, surfaces, placed)
    const { dynamics } = this
    const scale = { touch: touchDistance(unit), unit, dt }
    this.motion = new Motion({
      population,
      pairs,
      poses,
      geometry,
      distances,
      dynamics,
      surfaces,
      oneWay,
      normal,
      metAt,
      scale,
    })
    this.sweeper = new Sweeper({ population, pairs, poses, path, geometry, motion: this.motion, normal, scale })
  }

  override get forces(): DynamicKernel2 {
    return this
  }

  /** A body became dynamic, or is dynamic no more. */
  setDynamic(body: number, dynamic: boolean): void {
    if (dynamic) this.motion.activation.enter(body)
    else this.motion.leave(body)
  }

  // The stages of a tick that forces add.

  override predictBounds(): void {
    if (this.motion.activation.count > 0) this.motion.predict(this.makeRoom)
  }

  override findContacts(): void {
    this.ahead = true
    if (this.motion.activation.count > 0) this.motion.findContacts(this.broadPhase.now)
  }

  protected override moveDynamic(): void {
    const { motion } = this
    this.ahead = false
    this.path.reset()
    if (motion.activation.count === 0) return
    motion.restFallen()
    motion.solve(this.broadPhase.now, this.follow)
  }

  override sweep(): void {
    if (this.motion.activation.count > 0) this.sweeper.run(this.broadPhase.now, this.followBends)
  }

  protected override judgeMoved(pair: number, before: number): void {
    if (this.motion.pressed.data[pair] === this.broadPhase.now) this.judgePressed(pair, before)
    else this.judge(pair)
  }

  protected override parted(pair: number): void {
    this.surfaces.reset(pair)
  }

  /** What was pressed in this tick touches, wherever it is by its end. */
  private judgePressed(pair: number, before: number): void {
    const { pairs, motion } = this
    const { pressedWhen } = motion
    if (motion.swept.data[pair] === this.broadPhase.now) {
      const closing = pairs.closing.data[pair]
      this.judge(pair)
      pairs.closing.data[pair] = closing
      if (pairs.next.data[pair] === 0 && before === 0) {
        // Met on the way, and left again.
        pairs.when.data[pair] = pressedWhen.data[pair]
        pairs.exit.data[pair] = pressedWhen.data[pair]
        pairs.flags.data[pair] |= PASSED_THROUGH | PRESSED_APART
        pairs.markChanged(pair)
        return
      }
      if (pairs.next.data[pair] === 0) return
    }
    pairs.next.data[pair] = SOLID
    if (before !== SOLID) pairs.when.data[pair] = pressedWhen.data[pair]
  }

  protected override writeClosing(pair: number, before: number, verdict: number): void {
    if (verdict !== before && (verdict === SOLID || before === SOLID)) this.motion.activation.wakePair(pair)
    super.writeClosing(pair, before, verdict)
    const { pairs } = this
    if (pairs.closing.data[pair] > this.least) this.straighten(pair, pairs.a.data[pair], pairs.b.data[pair])
  }

  /** At an inner edge nothing is struck: the body comes together with the ground where it slides on it, and that is another pair. */
  private straighten(pair: number, one: number, other: number): void {
    const { population, normal, sweeper, pairs } = this
    const a = population.filter.body.data[one]
    const b = population.filter.body.data[other]
    const slides = population.type.data[a] === DYNAMIC ? a : population.type.data[b] === DYNAMIC ? b : -1
    if (slides < 0 || !sweeper.isInnerEdge(slides, pair, 1)) return
    const sign = slides === a ? -1 : 1
    normal.data[2 * pair] = sign * sweeper.face[FACE_X]
    normal.data[2 * pair + 1] = sign * sweeper.face[FACE_Y]
    pairs.closing.data[pair] = 0
  }

  override wakeTouching(c: number): void {
    this.motion.activation.wakeTouching(c)
  }

  override releasePair(pair: number): void {
    this.motion.contacts.clear(pair)
  }

  override writeSurface(pair: number, from: Float64Array): void {
    this.surfaces.write(pair, from)
  }

  override describeMass(body: number): string {
    const { dynamics, motion } = this
    const { gravity, islands } = motion
    const locked = ['x', 'y', 'turn'].filter((_, bit) => (dynamics.locks.data[body] & (1 << bit)) !== 0)
    return dynamics.describe(body, gravity[0] === 0 && gravity[1] === 0, locked, islands.isAwake.data[body] === 0)
  }

  protected override impulseAt(pair: number, a: number, b: number, name: number): number {
    const { contacts } = this.motion
    const point = contacts.pointAt(pair, a, b, 0, name)
    return point < 0 ? 0 : contacts.points.data[point + TOTAL]
  }

  override readApproach(pair: number, out: Float64Array, at: number): void {
    if (!this.ahead) {
      super.readApproach(pair, out, at)
      return
    }
    // Before anything has moved, by the speeds at which it sets out.
    const { data } = this.motion.startVelocity
    const { body } = this.population.filter
    const a = body.data[this.pairs.a.data[pair]]
    const b = body.data[this.pairs.b.data[pair]]
    for (let axis = 0; axis < 2; axis++) out[at + axis] = data[3 * a + axis] - data[3 * b + axis]
    out[at + 2] = 0
  }
}
