/** The sweep of 2D: inner edges, bounces, and the rest of the way. What is followed, and until when, stands in `core/solve/sweep.ts`. */

import { SOLID } from '../../core/filter/filter.ts'
import { BOUNCE } from '../../core/solve/contactKind.ts'
import { SweeperCore, type SweeperCoreSetup } from '../../core/solve/sweep.ts'
import { DYNAMIC } from '../../core/state/population.ts'
import { IntList } from '../../core/state/table.ts'
import { cosSin } from '../../core/util/maths.ts'
import type { Distances2 } from '../distances.ts'
import type { Geometry } from '../geometry.ts'
import { FACE_SIZE, FLUSH, hasFace, isFlatAlong, isFlush, SAME, STRAIGHT, writeFace } from '../narrow/flush.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from '../narrow/records.ts'
import type { Path2 } from '../path.ts'
import type { Poses } from '../poses.ts'
import { HEAD } from '../shapes/layout.ts'
import type { Motion } from './motion.ts'

/** What a sweep works on. */
export interface SweeperSetup extends SweeperCoreSetup<Motion, Path2> {
  readonly poses: Poses
  readonly geometry: Geometry
  readonly distances: Distances2
  /** The normal of each solid pair: two numbers. */
  readonly normal: { data: Float64Array }
}

export class Sweeper extends SweeperCore<Motion, Path2> {
  private readonly centres = new Float64Array(4)
  private readonly mixed = new Float64Array(3)
  private readonly pose = new Float64Array(3)
  /** Velocity x, y and spin of two bodies. */
  private readonly speeds = new Float64Array(6)
  /** Angle, cos, sin. */
  private readonly turn = new Float64Array(3)
  private readonly poses: Poses
  private readonly geometry: Geometry
  private readonly distances: Distances2
  private readonly near = new IntList()
  private readonly normal: { data: Float64Array }
  private readonly met = new Float64Array(3)
  private readonly on = new Float64Array(2)
  private readonly normalOn = new Float64Array(2)
  private readonly outward = new Float64Array(2)
  /** The face that the last inner edge belongs to. */
  readonly face = new Float64Array(FACE_SIZE)
  private readonly rise = new Float64Array(1)

  constructor(setup: SweeperSetup) {
    super(setup, GAP_SIZE)
    this.poses = setup.poses
    this.geometry = setup.geometry
    this.distances = setup.distances
    this.normal = setup.normal
    this.rise[0] = FLUSH * this.unit
  }

  protected override displacementOf(body: number): number {
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

  override isInnerEdge(body: number, pair: number, time: number): boolean {
    const { population, pairs, path, record, motion, touch, met, outward } = this
    const { body: bodyOf } = population.filter
    const a = pairs.a.data[pair]
    const b = pairs.b.data[pair]
    const isA = bodyOf.data[a] === body
    const other = isA ? b : a
    const its = bodyOf.data[other]
    if (population.type.data[its] === DYNAMIC) return false
    path.gapAt(a, b, time, record)
    // While other pieces of the two are in contact, it is one piece that is met.
    const { aside, metA, metB } = path
    const piece = aside.length > 0 ? (isA ? metB : metA) : -1
    // Outwards of what is met, and where.
    const sign = isA ? -1 : 1
    outward[0] = sign * record[NORMAL]
    outward[1] = sign * record[NORMAL + 1]
    const at = isA ? POINT_B : POINT_A
    met[0] = record[at]
    met[1] = record[at + 1]
    met[2] = motion.dynamics.halfWidth.data[body]
    const isFace =
      (piece >= 0
        ? this.pieceHasFace(piece, its, time, outward, 1, SAME)
        : this.hasFaceAt(other, isA ? a : b, time, outward, 1, SAME)) || this.isFlatAt(isA ? a : b, time, outward)
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        const by = edge >> 1
        const ground = (edge & 1) === 0 ? pairs.b.data[by] : pairs.a.data[by]
        if (ground === other || population.type.data[bodyOf.data[ground]] === DYNAMIC) continue
        if (motion.responseOf(by) !== SOLID || !motion.moveAlike(bodyOf.data[ground], its)) continue
        path.gapAt(pairs.a.data[by], pairs.b.data[by], time, record)
        if (!(record[DISTANCE] <= touch) || !this.writeSlidingFace((edge & 1) === 0, isFace)) continue
        const bySign = (edge & 1) === 0 ? -1 : 1
        if (!this.hasFaceAt(ground, c, time, this.normalOn, bySign, STRAIGHT)) continue
        if (piece >= 0 ? this.isPieceFlush(piece, its, time) : this.isAllFlush(other, isA ? a : b, time)) {
          path.metA = metA
          path.metB = metB
          return true
        }
      }
    }
    if (piece < 0) return false
    path.metA = metA
    path.metB = metB
    // What it slides on may be another piece of the same collider.
    for (let i = 0; i < aside.length; i += 2) {
      path.gapOfPiecesAt(aside.data[i], aside.data[i + 1], a, b, time, record)
      if (!(record[DISTANCE] <= touch) || !this.writeSlidingFace(isA, isFace)) continue
      const ground = aside.data[isA ? i + 1 : i]
      if (!this.pieceHasFace(ground, its, time, this.normalOn, isA ? -1 : 1, STRAIGHT)) continue
      if (this.isPieceFlush(piece, its, time)) return true
    }
    return false
  }

  /** Writes the face on which a body slides by the record of the gap to it; false where it looks the same way as the face that is met. */
  private writeSlidingFace(isA: boolean, isFace: boolean): boolean {
    const { record, normalOn, outward, on, met, face } = this
    normalOn[0] = record[NORMAL]
    normalOn[1] = record[NORMAL + 1]
    const bySign = isA ? -1 : 1
    if (isFace && bySign * (outward[0] * normalOn[0] + outward[1] * normalOn[1]) >= STRAIGHT[0]) return false
    const point = isA ? POINT_B : POINT_A
    on[0] = record[point]
    on[1] = record[point + 1]
    writeFace(normalOn, bySign, on, met, face)
    return true
  }

  /** Whether no piece of a collider rises above the face on which a body slides, near to where it is met. */
  private isAllFlush(other: number, by: number, time: number): boolean {
    const { near } = this
    const its = this.population.filter.body.data[other]
    near.clear()
    this.distances.listNear(other, by, near)
    for (let i = 0; i < near.length; i++) if (!this.isPieceFlush(near.data[i], its, time)) return false
    return true
  }

  private isPieceFlush(piece: number, body: number, time: number): boolean {
    const { path, face, rise } = this
    path.placeAt(piece, body, time)
    return isFlush(path.block, HEAD, face, rise)
  }

  private pieceHasFace(
    piece: number,
    body: number,
    time: number,
    normal: Float64Array,
    sign: number,
    least: Float64Array,
  ): boolean {
    this.path.placeAt(piece, body, time)
    return hasFace(this.path.block, HEAD, normal, 0, sign, least)
  }

  /** Whether a collider has a face with a normal, where another one is near. */
  private hasFaceAt(
    c: number,
    by: number,
    time: number,
    normal: Float64Array,
    sign: number,
    least: Float64Array,
  ): boolean {
    const { population, near } = this
    near.clear()
    this.distances.listNear(c, by, near)
    const body = population.filter.body.data[c]
    for (let i = 0; i < near.length; i++) {
      if (this.pieceHasFace(near.data[i], body, time, normal, sign, least)) return true
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

  protected override stay(body: number, time: number): void {
    this.path.poseAt(body, time, this.pose)
    this.poses.set(body, this.pose)
  }

  protected override bounce(
    body: number,
    pair: number,
    time: number,
    now: number,
    refit: (body: number) => void,
  ): void {
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
    this.markStruck(body, pair, time, now)
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
    this.poses.clampSpeed(body, this.motion.bodyRows.most)
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
