/**
 * Continuous collision: a body that moves far in one tick is swept along its path. Where it would pass through something solid it bounces,
 * and continues for the rest of the tick. The legs of such a path are kept for the verdicts.
 */

import { SOLID } from '../../core/filter/filter.ts'
import { BOUNCE } from '../../core/solve/contactKind.ts'
import { ALL, OFF } from '../../core/solve/dynamics.ts'
import type { Scale } from '../../core/solve/motion.ts'
import { DYNAMIC, type Population } from '../../core/state/population.ts'
import { IntList } from '../../core/state/table.ts'
import type { Pairs } from '../../core/step/pairs.ts'
import { SPEED } from '../../core/util/limits.ts'
import { cosSin } from '../../core/util/maths.ts'
import type { Geometry } from '../geometry.ts'
import { FACE_SIZE, FLUSH, hasFace, isFlatAlong, isFlush, SAME, STRAIGHT, writeFace } from '../narrow/flush.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from '../narrow/records.ts'
import { MAX_BENDS, type Path2 } from '../path.ts'
import type { Poses } from '../poses.ts'
import { HEAD } from '../shapes/layout.ts'
import type { Motion } from './motion.ts'

/** Part of half its least width that a body may move in a tick without being followed. */
const FAST_PART = 0.5
/** Bounces within a tick; what is left then waits for the next. */
const MAX_LEGS = MAX_BENDS

/** What a sweep works on. */
export interface SweeperSetup {
  readonly population: Population<object, object>
  readonly pairs: Pairs
  readonly poses: Poses
  readonly path: Path2
  readonly geometry: Geometry
  readonly motion: Motion
  /** The normal of each solid pair: two numbers. */
  readonly normal: { data: Float64Array }
  readonly scale: Scale
}

export class Sweeper {
  private readonly fast = new IntList()
  private readonly record = new Float64Array(GAP_SIZE)
  private readonly centres = new Float64Array(4)
  private readonly mixed = new Float64Array(3)
  private readonly pose = new Float64Array(3)
  /** Velocity x, y and spin of two bodies. */
  private readonly speeds = new Float64Array(6)
  /** Angle, cos, sin. */
  private readonly turn = new Float64Array(3)
  private readonly population: Population<object, object>
  private readonly pairs: Pairs
  private readonly poses: Poses
  private readonly path: Path2
  private readonly geometry: Geometry
  private readonly motion: Motion
  private readonly normal: { data: Float64Array }
  /** The step in which a body was last listed. */
  private readonly listed
  /** The step in which a pair was met at an inner edge. */
  private readonly passed
  private readonly met = new Float64Array(3)
  private readonly on = new Float64Array(2)
  private readonly normalOn = new Float64Array(2)
  private readonly outward = new Float64Array(2)
  /** The face that the last inner edge belongs to. */
  readonly face = new Float64Array(FACE_SIZE)
  private readonly rise = new Float64Array(1)
  private readonly touch: number
  private readonly unit: number
  /** Seconds a tick. */
  private readonly dt: number
  private readonly older = (a: number, b: number): boolean =>
    this.population.bodySerial.data[a] < this.population.bodySerial.data[b]
  /** What the last search found: the pair, and its time. */
  private readonly hit = new Float64Array(2)

  constructor({ population, pairs, poses, path, geometry, motion, normal, scale }: SweeperSetup) {
    const { touch, unit, dt } = scale
    this.dt = dt
    this.population = population
    this.pairs = pairs
    this.poses = poses
    this.path = path
    this.geometry = geometry
    this.motion = motion
    this.normal = normal
    this.touch = touch
    this.unit = unit
    this.rise[0] = FLUSH * unit
    this.passed = pairs.table.i32()
    this.listed = population.bodies.i32()
  }

  /**
   * Follows every fast body of this tick.
   * @param refit updates geometry, bounds and candidate pairs of a body after its path has changed
   */
  run(now: number, refit: (body: number) => void): void {
    const { fast, motion } = this
    const { awake } = motion.islands
    fast.clear()
    for (let i = 0; i < awake.length; i++) {
      const body = awake.data[i]
      if (
        motion.dynamics.sweep.data[body] !== OFF &&
        this.displacementOf(body) > FAST_PART * motion.dynamics.halfWidth.data[body]
      ) {
        this.list(body, now)
      }
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

  /** How far a body's outermost point has come in this tick, at most. */
  private displacementOf(body: number): number {
    const { poses, population, geometry } = this
    const { place, previous, turn } = poses
    const dx = place.data[2 * body] - previous.data[3 * body]
    const dy = place.data[2 * body + 1] - previous.data[3 * body + 1]
    const turned = Math.abs(turn.data[3 * body] - previous.data[3 * body + 2])
    let far = Math.sqrt(dx * dx + dy * dy)
    if (turned > 0) {
      let reach = 0
      for (let c = population.first(body); c >= 0; c = population.next(c)) {
        reach = Math.max(reach, geometry.turnReach.data[c])
      }
      far += turned * reach
    }
    return far
  }

  private follow(body: number, now: number, refit: (body: number) => void): void {
    const { path, hit, poses, pose } = this
    let from = 0
    for (let leg = 0; leg < MAX_LEGS; leg++) {
      if (!this.firstHit(body, from, now)) return
      const pair = hit[0]
      const time = hit[1]
      path.addBend(body, time)
      this.bounce(body, pair, time, now, refit)
      refit(body)
      from = time
    }
    // Enough for one tick: it waits here.
    path.poseAt(body, from, pose)
    poses.set(body, pose)
    refit(body)
  }

  /** The first solid pair that a body meets after a time of the tick, inner edges of what it slides on aside. */
  private firstHit(body: number, from: number, now: number): boolean {
    const { hit, passed } = this
    while (this.nextHit(body, from, now)) {
      // An inner edge is left to the contacts, unless the body goes half way through all the same.
      if (passed.data[hit[0]] === now || !this.isInnerEdge(body, hit[0], hit[1])) return true
      passed.data[hit[0]] = now
    }
    return false
  }

  /**
   * Whether what is met at a time does not rise above a face that the body touches then: the next piece of the ground on which it slides.
   */
  isInnerEdge(body: number, pair: number, time: number): boolean {
    const { population, pairs, path, record, geometry, motion, touch, met, on, normalOn, outward, face, rise } = this
    const { body: bodyOf } = population.filter
    const a = pairs.a.data[pair]
    const b = pairs.b.data[pair]
    const isA = bodyOf.data[a] === body
    const other = isA ? b : a
    const its = bodyOf.data[other]
    if (population.type.data[its] === DYNAMIC) return false
    path.gapAt(a, b, time, record)
    // Outwards of what is met, and where.
    const sign = isA ? -1 : 1
    const nx = sign * record[NORMAL]
    const ny = sign * record[NORMAL + 1]
    outward[0] = nx
    outward[1] = ny
    const isFace = this.hasFaceAt(other, time, outward, 1, SAME) || this.isFlatAt(isA ? a : b, time, outward)
    const at = isA ? POINT_B : POINT_A
    met[0] = record[at]
    met[1] = record[at + 1]
    met[2] = motion.dynamics.halfWidth.data[body]
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        const by = edge >> 1
        const ground = (edge & 1) === 0 ? pairs.b.data[by] : pairs.a.data[by]
        if (ground === other || population.type.data[bodyOf.data[ground]] === DYNAMIC) continue
        if (motion.responseOf(by) !== SOLID || !motion.moveAlike(bodyOf.data[ground], its)) continue
        path.gapAt(pairs.a.data[by], pairs.b.data[by], time, record)
        if (!(record[DISTANCE] <= touch)) continue
        normalOn[0] = record[NORMAL]
        normalOn[1] = record[NORMAL + 1]
        const bySign = (edge & 1) === 0 ? -1 : 1
        if (isFace && bySign * (nx * normalOn[0] + ny * normalOn[1]) >= STRAIGHT[0]) continue
        const point = (edge & 1) === 0 ? POINT_B : POINT_A
        on[0] = record[point]
        on[1] = record[point + 1]
        writeFace(normalOn, bySign, on, met, face)
        if (!this.hasFaceAt(ground, time, normalOn, bySign, STRAIGHT)) continue
        let flush = true
        for (let p = geometry.first.data[other]; p >= 0 && flush; p = geometry.after(p)) {
          path.placeAt(p, its, time)
          flush = isFlush(path.block, HEAD, face, rise)
        }
        if (flush) return true
      }
    }
    return false
  }

  private hasFaceAt(c: number, time: number, normal: Float64Array, sign: number, least: Float64Array): boolean {
    const { geometry, path, population } = this
    for (let p = geometry.first.data[c]; p >= 0; p = geometry.after(p)) {
      path.placeAt(p, population.filter.body.data[c], time)
      if (hasFace(path.block, HEAD, normal, 0, sign, least)) return true
    }
    return false
  }

  /** Whether a collider presses with a flat side against a normal. */
  private isFlatAt(c: number, time: number, normal: Float64Array): boolean {
    const { geometry, path, population } = this
    for (let p = geometry.first.data[c]; p >= 0; p = geometry.after(p)) {
      path.placeAt(p, population.filter.body.data[c], time)
      if (isFlatAlong(path.block, HEAD, normal, 0, -1, SAME)) return true
    }
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
    path.gapAt(a, b, from, record)
    const gap = record[DISTANCE]
    const slender = motion.dynamics.halfWidth.data[body]
    let reach = gap > touch && passed.data[pair] !== now ? 0.5 * touch : -0.5 * slender
    // What is half way through already goes no deeper.
    if (gap <= reach) reach = gap - 0.5 * touch
    return path.firstWithin(a, b, reach, from)
  }

  /** At the time of a hit: the impulse that the two exchange, and the rest of the motion. */
  private bounce(body: number, pair: number, time: number, now: number, refit: (body: number) => void): void {
    const { pairs, population, motion, path, record, centres, mixed, dt } = this
    const a = pairs.a.data[pair]
    const b = pairs.b.data[pair]
    const own = population.filter.body.data[a]
    const its = population.filter.body.data[b]
    path.gapAt(a, b, time, record)
    const nx = record[NORMAL]
    const ny = record[NORMAL + 1]
    const x = (record[POINT_A] + record[POINT_B]) / 2
    const y = (record[POINT_A + 1] + record[POINT_B + 1]) / 2
    this.centreAt(own, time, centres, 0)
    this.centreAt(its, time, centres, 2)
    // Their speeds at that time: the pull of the rest of the tick comes after it.
    this.pull(own, -(1 - time) * dt)
    this.pull(its, -(1 - time) * dt)
    const { speeds } = this
    this.velocityOf(own, speeds, 0)
    this.velocityOf(its, speeds, 3)
    const vax = speeds[0] - speeds[2] * (y - centres[1])
    const vay = speeds[1] + speeds[2] * (x - centres[0])
    const vx = speeds[3] - speeds[5] * (y - centres[3]) - vax
    const vy = speeds[4] + speeds[5] * (x - centres[2]) - vay
    const closing = -(vx * nx + vy * ny)
    this.normal.data[2 * pair] = nx
    this.normal.data[2 * pair + 1] = ny
    motion.activation.wake(body)
    if (motion.pressed.data[pair] !== now) motion.pressedWhen.data[pair] = time
    motion.pressed.data[pair] = now
    motion.swept.data[pair] = now
    motion.metAt.data[2 * pair] = x
    motion.metAt.data[2 * pair + 1] = y
    if (closing > 0) {
      motion.surfaces.read(pair, mixed)
      const restitution = closing > BOUNCE * this.unit ? mixed[1] : 0
      const jn = (closing * (1 + restitution)) / this.inverseAlong(own, its, x, y, nx, ny)
      if (jn < Infinity) {
        const tx = ny
        const ty = -nx
        const across = vx * tx + vy * ty - mixed[2]
        let jt = -across / this.inverseAlong(own, its, x, y, tx, ty)
        const most = mixed[0] * jn
        if (!(jt < most)) jt = most
        if (!(jt > -most)) jt = -most
        this.push(own, -(jn * nx + jt * tx), -(jn * ny + jt * ty), x - centres[0], y - centres[1])
        this.push(its, jn * nx + jt * tx, jn * ny + jt * ty, x - centres[2], y - centres[3])
        pairs.impulse.data[pair] += jn
        pairs.friction.data[pair] += Math.abs(jt)
        if (closing > pairs.closing.data[pair]) pairs.closing.data[pair] = closing
      }
    }
    // The body goes on from here at its new speed; so does the other one, if it can be moved.
    const other = body === own ? its : own
    const half = ((1 - time) * dt) / 2
    this.pull(own, half)
    this.pull(its, half)
    this.continueMotion(body, time)
    if (population.type.data[other] === DYNAMIC) {
      motion.activation.wake(other)
      path.addBend(other, time)
      this.continueMotion(other, time)
      refit(other)
    }
    this.pull(own, half)
    this.pull(its, half)
  }

  /** Velocity of the centre and spin, as a dynamic body has it or a kinematic one is driven. */
  private velocityOf(body: number, out: Float64Array, at: number): void {
    const { poses, population, dt } = this
    if (population.type.data[body] === DYNAMIC) {
      for (let k = 0; k < 3; k++) out[at + k] = poses.velocity.data[3 * body + k]
      return
    }
    const { place, previous, turn } = poses
    out[at] = (place.data[2 * body] - previous.data[3 * body]) / dt
    out[at + 1] = (place.data[2 * body + 1] - previous.data[3 * body + 1]) / dt
    out[at + 2] = (turn.data[3 * body] - previous.data[3 * body + 2]) / dt
  }

  private centreAt(body: number, time: number, out: Float64Array, at: number): void {
    const { pose, path, motion } = this
    path.poseAt(body, time, pose)
    const { turn } = this
    turn[0] = pose[2]
    cosSin(turn, 0)
    const x = motion.dynamics.centre.data[2 * body]
    const y = motion.dynamics.centre.data[2 * body + 1]
    out[at] = pose[0] + turn[1] * x - turn[2] * y
    out[at + 1] = pose[1] + turn[2] * x + turn[1] * y
  }

  /** How much two bodies give way together to a push at a point along a direction. */
  private inverseAlong(own: number, its: number, x: number, y: number, nx: number, ny: number): number {
    const { centres } = this
    const { inverse } = this.motion.dynamics
    let sum = 0
    for (let side = 0; side < 2; side++) {
      const at = 3 * (side === 0 ? own : its)
      const arm = (x - centres[2 * side]) * ny - (y - centres[2 * side + 1]) * nx
      sum += inverse.data[at] * nx * nx + inverse.data[at + 1] * ny * ny + inverse.data[at + 2] * arm * arm
    }
    return sum
  }

  /** Adds what gravity does to a dynamic body in so many seconds. */
  private pull(body: number, seconds: number): void {
    const { gravity, dynamics } = this.motion
    if (this.population.type.data[body] !== DYNAMIC) return
    const scale = dynamics.tuning.data[3 * body] * seconds
    const { velocity } = this.poses
    for (let k = 0; k < 2; k++) {
      if (dynamics.inverse.data[3 * body + k] > 0) velocity.data[3 * body + k] += gravity[k] * scale
    }
  }

  private push(body: number, px: number, py: number, rx: number, ry: number): void {
    const { inverse } = this.motion.dynamics
    const { velocity } = this.poses
    velocity.data[3 * body] += px * inverse.data[3 * body]
    velocity.data[3 * body + 1] += py * inverse.data[3 * body + 1]
    velocity.data[3 * body + 2] += (rx * py - ry * px) * inverse.data[3 * body + 2]
    this.poses.clampSpeed(body, SPEED * this.unit, Math.PI / this.dt)
  }

  /** From its pose at a time on, a body moves at its velocity for the rest of the tick. */
  private continueMotion(body: number, time: number): void {
    const { poses, centres, pose, turn, motion, path, dt } = this
    const left = (1 - time) * dt
    this.centreAt(body, time, centres, 0)
    const { velocity } = poses
    const x = motion.dynamics.centre.data[2 * body]
    const y = motion.dynamics.centre.data[2 * body + 1]
    path.poseAt(body, time, pose)
    turn[0] = pose[2] + velocity.data[3 * body + 2] * left
    cosSin(turn, 0)
    pose[0] = centres[0] + velocity.data[3 * body] * left - turn[1] * x + turn[2] * y
    pose[1] = centres[1] + velocity.data[3 * body + 1] * left - turn[2] * x - turn[1] * y
    pose[2] = turn[0]
    poses.set(body, pose)
  }
}
