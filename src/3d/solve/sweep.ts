/** The sweep of 3D: inner edges, bounces, and the rest of the way. What is followed, and until when, stands in `core/solve/sweep.ts`. */
import { SOLID } from '../../core/filter/filter.ts'
import { BOUNCE } from '../../core/solve/contactKind.ts'
import { GRAVITY_SCALE, TUNING } from '../../core/solve/dynamics.ts'
import { PAIR_FRICTION, PAIR_RESTITUTION, PAIR_SPEED, PAIR_SURFACE } from '../../core/solve/surfaces.ts'
import { SweeperCore, type SweeperCoreSetup } from '../../core/solve/sweep.ts'
import { DYNAMIC } from '../../core/state/population.ts'
import type { Geometry } from '../geometry.ts'
import { BEHIND, FLUSH, faceCosine, hasFace, reachAlong, SAME, STRAIGHT } from '../narrow/flush.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from '../narrow/records.ts'
import type { Path3 } from '../path.ts'
import { KEPT, type Poses } from '../poses.ts'
import { SURFACE } from '../shapes/layout.ts'
import { POSE_SIZE, writeFrame } from '../vector.ts'
import type { Motion3 } from './motion.ts'

/** What a sweep works on. */
export interface SweeperSetup extends SweeperCoreSetup<Motion3, Path3> {
  readonly poses: Poses
  readonly geometry: Geometry
  /** The normal of each solid pair: three numbers. */
  readonly normal: { data: Float64Array }
}

export class Sweeper3 extends SweeperCore<Motion3, Path3> {
  override readonly face = new Float64Array(3)
  private readonly centres = new Float64Array(6)
  private readonly mixed = new Float64Array(PAIR_SURFACE)
  private readonly kept = new Float64Array(KEPT)
  private readonly frame = new Float64Array(POSE_SIZE)
  /** Velocity and spin of two bodies. */
  private readonly speeds = new Float64Array(12)
  private readonly way = new Float64Array(6)
  private readonly gone = new Float64Array(2)
  private readonly inertia = new Float64Array(6)
  private readonly arm = new Float64Array(3)
  private readonly push = new Float64Array(3)
  private readonly point = new Float64Array(3)
  private readonly outward = new Float64Array(3)
  private readonly on = new Float64Array(3)
  private readonly poses: Poses
  private readonly geometry: Geometry
  private readonly normal: { data: Float64Array }

  constructor(setup: SweeperSetup) {
    super(setup, GAP_SIZE)
    this.poses = setup.poses
    this.geometry = setup.geometry
    this.normal = setup.normal
  }

  protected override displacementOf(body: number): number {
    const { poses, population, geometry } = this
    const { place, previous } = poses
    let square = 0
    for (let k = 0; k < 3; k++) {
      const moved = place.data[3 * body + k] - previous.data[KEPT * body + k]
      square += moved * moved
    }
    let far = Math.sqrt(square)
    poses.readStep(body, this.gone)
    const turned = this.gone[0]
    if (turned > 0) {
      let reach = 0
      for (let c = population.first(body); c >= 0; c = population.next(c)) {
        reach = Math.max(reach, geometry.turnReach.data[c])
      }
      far += turned * reach
    }
    return far
  }

  override isInnerEdge(body: number, pair: number, time: number): boolean {
    const { population, pairs, path, record, motion, touch, outward, on, face, unit } = this
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
    for (let k = 0; k < 3; k++) {
      outward[k] = sign * record[NORMAL + k]
      on[k] = record[(isA ? POINT_B : POINT_A) + k]
    }
    const isFace = this.faces(other, time, outward, 1, SAME) || this.faces(isA ? a : b, time, outward, -1, STRAIGHT)
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        const by = edge >> 1
        const ground = (edge & 1) === 0 ? pairs.b.data[by] : pairs.a.data[by]
        if (ground === other || population.type.data[bodyOf.data[ground]] === DYNAMIC) continue
        if (motion.responseOf(by) !== SOLID || !motion.moveAlike(bodyOf.data[ground], its)) continue
        path.gapAt(pairs.a.data[by], pairs.b.data[by], time, record)
        if (!(record[DISTANCE] <= touch)) continue
        const bySign = (edge & 1) === 0 ? -1 : 1
        const at = (edge & 1) === 0 ? POINT_B : POINT_A
        let cosine = 0
        let height = 0
        let met = 0
        for (let k = 0; k < 3; k++) {
          face[k] = bySign * record[NORMAL + k]
          cosine += face[k] * outward[k]
          height += face[k] * record[at + k]
          met += face[k] * on[k]
        }
        if (isFace && cosine >= STRAIGHT) continue
        if (met < height - BEHIND * unit) continue
        if (!this.hasFaceAt(ground, time)) continue
        if (this.reachOf(other, its, time, met) <= height + FLUSH * unit) return true
      }
    }
    return false
  }

  /** Whether a collider has a face along a normal. */
  private faces(c: number, time: number, normal: Float64Array, sign: number, least: number): boolean {
    const { geometry, path, population } = this
    for (let p = geometry.first.data[c]; p >= 0; p = geometry.after(p)) {
      if (geometry.kindOf(p) === SURFACE) return false
      path.placeAt(p, population.filter.body.data[c], time)
      if (faceCosine(path.block, 0, normal, 0, sign) >= least) return true
    }
    return false
  }

  private hasFaceAt(c: number, time: number): boolean {
    const { geometry, path, population, face } = this
    for (let p = geometry.first.data[c]; p >= 0; p = geometry.after(p)) {
      path.placeAt(p, population.filter.body.data[c], time)
      if (hasFace(path.block, 0, face, 0, 1, STRAIGHT)) return true
    }
    return false
  }

  /** How far a collider reaches along the face; a surface, at the place where it is met. */
  private reachOf(c: number, body: number, time: number, met: number): number {
    const { geometry, path, face } = this
    let most = -Infinity
    for (let p = geometry.first.data[c]; p >= 0; p = geometry.after(p)) {
      if (geometry.kindOf(p) === SURFACE) {
        most = Math.max(most, met)
        continue
      }
      path.placeAt(p, body, time)
      most = Math.max(most, reachAlong(path.block, 0, face, 0, 1))
    }
    return most
  }

  protected override stay(body: number, time: number): void {
    const { kept, way, path } = this
    path.keptAt(body, time, kept)
    path.addBend(body, time)
    way.fill(0)
    path.goOn(body, way, kept)
    this.poses.set(body, kept)
    this.poses.measureTurn(body)
  }

  protected override bounce(
    body: number,
    pair: number,
    time: number,
    now: number,
    refit: (body: number) => void,
  ): void {
    const { pairs, population, motion, path, record, mixed, dt, speeds, point, push, outward: n } = this
    const { body: bodyOf } = population.filter
    const a = pairs.a.data[pair]
    const b = pairs.b.data[pair]
    const own = bodyOf.data[a]
    const its = bodyOf.data[b]
    path.gapAt(a, b, time, record)
    for (let k = 0; k < 3; k++) {
      n[k] = record[NORMAL + k]
      point[k] = (record[POINT_A + k] + record[POINT_B + k]) / 2
      this.normal.data[3 * pair + k] = n[k]
      motion.metAt.data[3 * pair + k] = point[k]
    }
    this.centreAt(own, time, 0)
    this.centreAt(its, time, 3)
    // Their speeds at that time: the pull of the rest of the tick comes after it.
    this.pull(own, -(1 - time) * dt)
    this.pull(its, -(1 - time) * dt)
    this.velocityOf(own, 0)
    this.velocityOf(its, 6)
    let closing = 0
    for (let k = 0; k < 3; k++) {
      // How the second moves at the point, as seen from the first.
      push[k] = speeds[6 + k] + this.spun(1, k) - speeds[k] - this.spun(0, k)
      closing -= push[k] * n[k]
    }
    this.markStruck(body, pair, time, now)
    if (closing > 0) {
      motion.surfaces.read(pair, mixed)
      const restitution = closing > BOUNCE * this.unit ? mixed[PAIR_RESTITUTION] : 0
      const jn = (closing * (1 + restitution)) / this.inverseAlong(own, its, n)
      if (jn < Infinity) {
        // Across the normal it is held by friction, along the way that it slips.
        const { on: slip } = this
        let slipping = 0
        for (let k = 0; k < 3; k++) {
          slip[k] = push[k] + closing * n[k] + mixed[PAIR_SPEED + k]
        }
        const off = slip[0] * n[0] + slip[1] * n[1] + slip[2] * n[2]
        for (let k = 0; k < 3; k++) {
          slip[k] -= off * n[k]
          slipping += slip[k] * slip[k]
        }
        slipping = Math.sqrt(slipping)
        let jt = 0
        if (slipping > 0) {
          for (let k = 0; k < 3; k++) slip[k] /= slipping
          jt = Math.min(slipping / this.inverseAlong(own, its, slip), mixed[PAIR_FRICTION] * jn)
        }
        for (let k = 0; k < 3; k++) push[k] = jn * n[k] - (jt > 0 ? jt * slip[k] : 0)
        this.give(own, -1, 0)
        this.give(its, 1, 3)
        pairs.impulse.data[pair] += jn
        pairs.friction.data[pair] += jt
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

  /** A part of the velocity that its spin gives the first (0) or the second (1) of two bodies at the point. */
  private spun(side: number, axis: number): number {
    const { speeds, point, centres } = this
    const j = (axis + 1) % 3
    const k = (axis + 2) % 3
    const w = 6 * side + 3
    return speeds[w + j] * (point[k] - centres[3 * side + k]) - speeds[w + k] * (point[j] - centres[3 * side + j])
  }

  /** Velocity of the centre and spin, as a dynamic body has it or a kinematic one is driven. */
  private velocityOf(body: number, at: number): void {
    const { poses, population, dt, speeds } = this
    if (population.type.data[body] === DYNAMIC) {
      for (let k = 0; k < 6; k++) speeds[at + k] = poses.velocity.data[6 * body + k]
      return
    }
    const { place, previous, swept } = poses
    for (let k = 0; k < 3; k++) {
      speeds[at + k] = (place.data[3 * body + k] - previous.data[KEPT * body + k]) / dt
      speeds[at + 3 + k] = swept.data[3 * body + k] / dt
    }
  }

  /** Writes the centre of mass of a body at a time of the tick, and its pose there to `kept`. */
  private centreAt(body: number, time: number, at: number): void {
    const { kept, path, motion, frame, centres } = this
    path.keptAt(body, time, kept)
    writeFrame(kept, 3, frame, 0)
    const { data } = motion.dynamics.centre
    for (let i = 0; i < 3; i++) {
      let sum = kept[i]
      for (let k = 0; k < 3; k++) sum += frame[3 * i + k] * data[3 * body + k]
      centres[at + i] = sum
    }
  }

  /** How much two bodies give way together to a push at the point along a direction. */
  private inverseAlong(own: number, its: number, d: Float64Array): number {
    const { inverse } = this.motion.dynamics
    let sum = 0
    for (let side = 0; side < 2; side++) {
      const body = side === 0 ? own : its
      for (let k = 0; k < 3; k++) sum += inverse.data[3 * body + k] * d[k] * d[k]
      if (inverse.data[3 * body] === 0 && this.motion.dynamics.mass.data[body] === 0) continue
      this.writeArm(d, 3 * side)
      sum += this.turnAlong(body)
    }
    return sum
  }

  /** Writes the arm (r x direction) of a push at the point about one of the two centres. */
  private writeArm(d: Float64Array, side: number): void {
    const { arm, point, centres } = this
    const x = point[0] - centres[side]
    const y = point[1] - centres[side + 1]
    const z = point[2] - centres[side + 2]
    arm[0] = y * d[2] - z * d[1]
    arm[1] = z * d[0] - x * d[2]
    arm[2] = x * d[1] - y * d[0]
  }

  /** Replaces the arm by how an impulse with it turns a body; returns how much the body gives way by that. */
  private turnAlong(body: number): number {
    const { arm, inertia: t, motion } = this
    motion.inverseInertia(body, t)
    const x = arm[0]
    const y = arm[1]
    const z = arm[2]
    arm[0] = t[0] * x + t[3] * y + t[4] * z
    arm[1] = t[3] * x + t[1] * y + t[5] * z
    arm[2] = t[4] * x + t[5] * y + t[2] * z
    return arm[0] * x + arm[1] * y + arm[2] * z
  }

  /** Adds what gravity does to a dynamic body in so many seconds. */
  private pull(body: number, seconds: number): void {
    const { gravity, dynamics } = this.motion
    if (this.population.type.data[body] !== DYNAMIC) return
    const scale = dynamics.tuning.data[TUNING * body + GRAVITY_SCALE] * seconds
    const { velocity } = this.poses
    for (let k = 0; k < 3; k++) {
      if (dynamics.inverse.data[3 * body + k] > 0) velocity.data[6 * body + k] += gravity[k] * scale
    }
  }

  /** Gives a body the push at the point. */
  private give(body: number, sign: number, side: number): void {
    const { dynamics } = this.motion
    if (dynamics.mass.data[body] === 0) return
    const { velocity } = this.poses
    const { push, arm } = this
    this.writeArm(push, side)
    this.turnAlong(body)
    for (let k = 0; k < 3; k++) {
      velocity.data[6 * body + k] += sign * push[k] * dynamics.inverse.data[3 * body + k]
      velocity.data[6 * body + 3 + k] += sign * arm[k]
    }
    this.poses.clampSpeed(body, this.motion.bodyRows.most)
  }

  /** From its pose at a time on, a body moves at its velocity for the rest of the tick. */
  private continueMotion(body: number, time: number): void {
    const { poses, centres, kept, motion, path, dt, way } = this
    this.centreAt(body, time, 0)
    const { velocity } = poses
    const { data: own } = motion.dynamics.centre
    const left = (1 - time) * dt
    // The centre goes straight; the origin turns about it. On a leg it is taken to go straight, too.
    for (let k = 0; k < 6; k++) way[k] = velocity.data[6 * body + k] * dt
    if (left > 0 && (own[3 * body] !== 0 || own[3 * body + 1] !== 0 || own[3 * body + 2] !== 0)) {
      const { frame } = this
      path.goOn(body, way, kept)
      writeFrame(kept, 3, frame, 0)
      path.keptAt(body, time, kept)
      for (let i = 0; i < 3; i++) {
        let end = centres[i] + velocity.data[6 * body + i] * left
        for (let k = 0; k < 3; k++) end -= frame[3 * i + k] * own[3 * body + k]
        way[i] = ((end - kept[i]) / left) * dt
      }
    }
    path.goOn(body, way, kept)
    poses.set(body, kept)
    poses.measureTurn(body)
  }
}
