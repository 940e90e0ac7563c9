/**
 * The 2D side of a tick: poses and motion of bodies. The stages stand in `core/step/kernel.ts`; this adds what forces and contacts do.
 */
import { SOLID } from '../core/filter/filter.ts'
import { Surfaces } from '../core/solve/surfaces.ts'
import { DYNAMIC } from '../core/state/population.ts'
import { Kernel, type KernelSetup, touchDistance } from '../core/step/kernel.ts'
import { PASSED_THROUGH, PRESSED_APART } from '../core/step/pairs.ts'
import type { ContactPoint } from '../core/watch/event.ts'
import { BroadPhase2 } from './broadPhase.ts'
import { Distances2 } from './distances.ts'
import type { Geometry } from './geometry.ts'
import { CAST_SIZE, castAgainst } from './narrow/cast.ts'
import { FACE_X, FACE_Y } from './narrow/flush.ts'
import { grazeOf } from './narrow/graze.ts'
import {
  FIRST_POINT,
  GAP,
  MANIFOLD_SIZE,
  manifoldOfPieces,
  NAME,
  POINT_COUNT,
  POINT_SIZE,
  WITHIN,
} from './narrow/manifold.ts'
import { MISS, POINT_A, POINT_B } from './narrow/records.ts'
import { Path2 } from './path.ts'
import { Poses } from './poses.ts'
import { HEAD } from './shapes/layout.ts'
import { writePose } from './shapes/place.ts'
import { Dynamics, GRAVITY_SCALE, type PlacedShape } from './solve/dynamics.ts'
import { Motion } from './solve/motion.ts'
import { Sweeper } from './solve/sweep.ts'
import type { Tree } from './tree/tree.ts'
import type { MutableVec2 } from './vector.ts'

/** Lengths a second (times the unit) at which two come together, below which nobody asks why. */
const LEAST_CLOSING = 0.01
const NONE = -1

export class Kernel2 extends Kernel<MutableVec2, Geometry> {
  declare readonly broadPhase: BroadPhase2
  declare readonly trees: readonly Tree[]
  declare readonly poses: Poses
  declare protected readonly path: Path2
  /** What forces and contacts do. */
  readonly motion: Motion
  readonly dynamics: Dynamics
  readonly surfaces: Surfaces
  private readonly sweeper: Sweeper
  private readonly manifold = new Float64Array(MANIFOLD_SIZE)
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

  /** @param placed the shape of a collider, within its body */
  constructor(setup: KernelSetup, placed: (c: number) => PlacedShape) {
    const { population, pairs, dt, unit } = setup
    const poses = new Poses(population.bodies)
    const touch = touchDistance(unit)
    const broadPhase = new BroadPhase2(population, poses, touch)
    const { geometry } = broadPhase
    const distances = new Distances2(geometry, broadPhase.trees, broadPhase.treeOf, 2)
    const path = new Path2(geometry, population.filter.body, poses, population.bodies)
    super(setup, { axes: 2, poses, broadPhase, distances, path })
    this.least = LEAST_CLOSING * unit
    this.surfaces = new Surfaces(population.colliders, pairs)
    this.dynamics = new Dynamics(population, this.surfaces, placed)
    const scale = { touch, unit, dt }
    const { normal } = this
    const { metAt } = this
    this.motion = new Motion({
      population,
      pairs,
      poses,
      geometry,
      distances,
      dynamics: this.dynamics,
      surfaces: this.surfaces,
      normal,
      metAt,
      scale,
    })
    this.sweeper = new Sweeper({ population, pairs, poses, path, geometry, motion: this.motion, normal, scale })
  }

  /** A body became dynamic, or is dynamic no more. */
  setDynamic(body: number, dynamic: boolean): void {
    if (dynamic) this.motion.activation.enter(body)
    else this.motion.leave(body)
  }

  override graze(piece: number, line: Float64Array, out: Float64Array): boolean {
    return grazeOf(this.geometry.world, this.geometry.offsetOf(piece), line, out)
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
    const { pairs } = this
    const one = pairs.a.data[pair]
    const other = pairs.b.data[pair]
    if (verdict !== before && (verdict === SOLID || before === SOLID)) this.motion.activation.wakePair(pair)
    pairs.closing.data[pair] = verdict === SOLID ? this.closingOf(pair, one, other) : 0
    if (pairs.closing.data[pair] > this.least) this.straighten(pair, one, other)
  }

  /** How fast two that touch came together in this tick: along the normal, where they are nearest. */
  private closingOf(pair: number, one: number, other: number): number {
    const { record, normal, dt } = this
    const { body } = this.population.filter
    const nx = normal.data[2 * pair]
    const ny = normal.data[2 * pair + 1]
    const x = (record[POINT_A] + record[POINT_B]) / 2
    const y = (record[POINT_A + 1] + record[POINT_B + 1]) / 2
    const a = this.advance(body.data[one], x, y, nx, ny)
    const closing = (a - this.advance(body.data[other], x, y, nx, ny)) / dt
    return closing > 0 ? closing : 0
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

  /** How far the point of a body that is at (x, y) now has come along a direction in this tick. */
  private advance(body: number, x: number, y: number, nx: number, ny: number): number {
    const { place, turn, previous } = this.poses
    const nowX = place.data[2 * body]
    const nowY = place.data[2 * body + 1]
    const turned = turn.data[3 * body] - previous.data[3 * body + 2]
    const dx = nowX - previous.data[3 * body] - turned * (y - nowY)
    const dy = nowY - previous.data[3 * body + 1] + turned * (x - nowX)
    return dx * nx + dy * ny
  }

  override wakeTouching(c: number): void {
    this.motion.activation.wakeTouching(c)
  }

  override releasePair(pair: number): void {
    this.motion.contacts.clear(pair)
  }

  override readSurface(pair: number, out: Float64Array): void {
    this.surfaces.read(pair, out)
  }

  override writeSurface(pair: number, from: Float64Array): void {
    this.surfaces.write(pair, from)
  }

  override describeMass(body: number): string {
    const { dynamics, motion } = this
    const { gravity } = motion
    const scale = dynamics.tuning.data[3 * body + GRAVITY_SCALE]
    const words = [`weighs ${Number(dynamics.mass.data[2 * body].toPrecision(3))} kg`]
    if (gravity[0] === 0 && gravity[1] === 0) words.push('no gravity')
    else if (scale === 0) words.push('its gravity is scaled to 0')
    else if (scale !== 1) words.push(`gravity scaled by ${scale}`)
    const locks = dynamics.locks.data[body]
    if (locks !== 0)
      words.push(`locked in ${['x', 'y', 'turn'].filter((_, bit) => (locks & (1 << bit)) !== 0).join(', ')}`)
    if (motion.islands.isAwake.data[body] === 0) words.push('asleep')
    return words.join(', ')
  }

  override pointsOf(pair: number): ContactPoint<MutableVec2>[] {
    const { geometry, pairs, manifold } = this
    const { contacts } = this.motion
    const found: ContactPoint<MutableVec2>[] = []
    const { world } = geometry
    for (let p = geometry.first.data[pairs.a.data[pair]]; p !== NONE; p = geometry.after(p)) {
      for (let q = geometry.first.data[pairs.b.data[pair]]; q !== NONE; q = geometry.after(q)) {
        manifold[WITHIN] = 2 * this.touch
        manifoldOfPieces(world, geometry.offsetOf(p), world, geometry.offsetOf(q), manifold)
        for (let i = 0; i < manifold[POINT_COUNT]; i++) {
          const at = FIRST_POINT + POINT_SIZE * i
          const impulse = contacts.impulseAt(pair, geometry.ordinalOf(p), geometry.ordinalOf(q), manifold[at + NAME])
          found.push({ x: manifold[at], y: manifold[at + 1], depth: 0 - manifold[at + GAP], impulse })
        }
      }
    }
    if (found.length > 0 || pairs.impulse.data[pair] === 0) return found
    // Pressed in this tick, and parted again: where it was.
    const { metAt } = this
    return [{ x: metAt.data[2 * pair], y: metAt.data[2 * pair + 1], depth: 0, impulse: pairs.impulse.data[pair] }]
  }

  override readApproach(pair: number, out: Float64Array, at: number): void {
    const { dt } = this
    const { data: was } = this.poses.previous
    const { data: now } = this.poses.place
    const { data: startVelocity } = this.motion.startVelocity
    const { body } = this.population.filter
    const a = body.data[this.pairs.a.data[pair]]
    const b = body.data[this.pairs.b.data[pair]]
    for (let axis = 0; axis < 2; axis++) {
      // Before anything has moved, by the speeds at which it sets out.
      if (this.ahead) {
        out[at + axis] = startVelocity[3 * a + axis] - startVelocity[3 * b + axis]
        continue
      }
      const moved = now[2 * a + axis] - was[3 * a + axis] - (now[2 * b + axis] - was[3 * b + axis])
      out[at + axis] = moved / dt
    }
    out[at + 2] = 0
  }

  protected override jumpCrosses(c: number, other: number): boolean {
    const { geometry, population } = this
    const { jump, place } = this.poses
    const body = population.filter.body.data[c]
    const [x, y, angle] = jump.data.subarray(3 * body, 3 * body + 3)
    const line = Float64Array.of(0, 0, place.data[2 * body] - x, place.data[2 * body + 1] - y)
    const pose = new Float64Array(5)
    writePose({ x, y }, angle, pose)
    const out = new Float64Array(CAST_SIZE)
    for (let p = geometry.first.data[c]; p !== NONE; p = geometry.after(p)) {
      if (geometry.isEndless(p)) continue
      const block = new Float64Array(geometry.sizeOf(p))
      geometry.blockAt(p, pose, block, HEAD)
      for (let q = geometry.first.data[other]; q !== NONE; q = geometry.after(q)) {
        if (castAgainst(block, HEAD, geometry.world, geometry.offsetOf(q), line, out) !== MISS) return true
      }
    }
    return false
  }

  override newVector(): MutableVec2 {
    return { x: 0, y: 0 }
  }

  override fillVector(out: MutableVec2, from: Float64Array, at: number, sign: number): void {
    // Adding 0 turns -0 into 0.
    out.x = sign * from[at] + 0
    out.y = sign * from[at + 1] + 0
  }
}
