/**
 * The way that two colliders took within a tick, and the time on it at which they met or parted: conservative advancement
 * (Mirtich, 1996), along the normal where both are convex, which for straight motion ends in a few steps; past a surface by
 * all that the two can have come. The turn is taken unwrapped, so a body that spins fast is followed all the way round.
 * Two surfaces are not followed through each other.
 */
import type { Column } from '../core/state/table.ts'
import { swapRecord } from '../core/step/distances.ts'
import { ANY_DISTANCE } from '../core/step/kernel.ts'
import { Path } from '../core/step/path.ts'
import type { Geometry } from './geometry.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from './narrow/records.ts'
import { gapToPiece } from './narrow/surfaceGap.ts'
import { KEPT, type Poses } from './poses.ts'
import { SURFACE } from './shapes/layout.ts'
import { boundsOf } from './shapes/place.ts'
import { FRAME, multiply, normalise, POSE_SIZE, writeFrame, writeTurn } from './vector.ts'

/** Metres at which the search is content; the answer is on the near side by no more than this. */
const CLOSE = 1e-9
/** Steps after which a path that stays very close counts as a graze. */
const MANY_STEPS = 20_000

export class Path3 extends Path {
  private readonly geometry: Geometry
  private readonly poses: Poses
  /** Body of a collider. */
  private readonly body: Column<Int32Array>
  private readonly record = new Float64Array(GAP_SIZE)
  private readonly motion = new Float64Array(3)
  private readonly look = new Float64Array(1)
  private readonly poseA = new Float64Array(POSE_SIZE)
  private readonly poseB = new Float64Array(POSE_SIZE)
  private readonly turn = new Float64Array(3)
  private readonly quaternion = new Float64Array(4)
  private readonly bounds = new Float64Array(6)
  private own = new Float64Array(128)
  private other = new Float64Array(128)

  constructor(geometry: Geometry, body: Column<Int32Array>, poses: Poses) {
    super({ meeting: MANY_STEPS, crossing: MANY_STEPS })
    this.geometry = geometry
    this.body = body
    this.poses = poses
  }

  /** Writes the least gap of two at a time of the tick; two surfaces have none. */
  override gapAt(a: number, b: number, time: number, out: Float64Array): void {
    const { geometry, record, bounds, poseA, poseB } = this
    const { first } = geometry
    this.poseAt(this.body.data[a], time, poseA)
    this.poseAt(this.body.data[b], time, poseB)
    out[DISTANCE] = Infinity
    for (let p = first.data[a]; p >= 0; p = geometry.after(p)) {
      for (let q = first.data[b]; q >= 0; q = geometry.after(q)) {
        const turned = geometry.kindOf(p) === SURFACE
        if ((turned && geometry.kindOf(q) === SURFACE) || geometry.wideApart(p, q)) continue
        const asked = turned ? p : q
        this.place(turned ? q : p, turned ? poseB : poseA, asked, turned ? poseA : poseB)
        boundsOf(this.own, 0, bounds, 0, bounds, 0)
        gapToPiece(this.own, 0, bounds, 0, this.other, 0, geometry.surfaces[asked], ANY_DISTANCE, record)
        if (!(record[DISTANCE] < out[DISTANCE])) continue
        if (turned) swapRecord(record, 3)
        for (let i = 0; i < GAP_SIZE; i++) out[i] = record[i]
      }
    }
  }

  /**
   * How far two come together a tick along the normal of their gap, where they are nearest at a time: reads the gap from a record,
   * and writes to its first place.
   */
  override closingAt(a: number, b: number, time: number, record: Float64Array): void {
    const { poseA, poseB, motion } = this
    const { swept } = this.poses
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    this.poseAt(bodyA, time, poseA)
    this.poseAt(bodyB, time, poseB)
    this.readMotion(a, b)
    let closing = 0
    for (let i = 0; i < 3; i++) {
      const j = (i + 1) % 3
      const k = (i + 2) % 3
      const y = (record[POINT_A + j] + record[POINT_B + j]) / 2
      const z = (record[POINT_A + k] + record[POINT_B + k]) / 2
      const own = swept.data[3 * bodyA + j] * (z - poseA[k]) - swept.data[3 * bodyA + k] * (y - poseA[j])
      const its = swept.data[3 * bodyB + j] * (z - poseB[k]) - swept.data[3 * bodyB + k] * (y - poseB[j])
      closing += (own - its - motion[i]) * record[NORMAL + i]
    }
    record[DISTANCE] = closing
  }

  /** Writes to `out[0]` an upper bound of how far any point of the one came nearer to any of the other in this tick. */
  override approach(a: number, b: number, out: Float64Array): void {
    out[0] = this.readMotion(a, b) + this.spinOf(a) + this.spinOf(b)
  }

  /** Writes how the second moved as seen from the first, in the tick; returns how far. */
  private readMotion(a: number, b: number): number {
    const { motion } = this
    const { previous, place } = this.poses
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    let square = 0
    for (let i = 0; i < 3; i++) {
      const own = place.data[3 * bodyA + i] - previous.data[KEPT * bodyA + i]
      motion[i] = place.data[3 * bodyB + i] - previous.data[KEPT * bodyB + i] - own
      square += motion[i] * motion[i]
    }
    return Math.sqrt(square)
  }

  /** How far a collider's outermost point is carried by the turn of its body in the tick. What does not turn may be endless. */
  private spinOf(c: number): number {
    const turned = this.poses.turnInTick(this.body.data[c])
    return turned === 0 ? 0 : turned * this.geometry.reach.data[c]
  }

  /** The part of the tick for which no two pieces can come within reach of each other; 0 when two are. */
  protected override safeStep(a: number, b: number, reach: number, backwards: boolean, time: number): number {
    const { geometry, record, motion, look, bounds, poseA, poseB } = this
    const { first } = geometry
    const sign = backwards ? -1 : 1
    const length = this.readMotion(a, b)
    const spin = this.spinOf(a) + this.spinOf(b)
    this.poseAt(this.body.data[a], time, poseA)
    this.poseAt(this.body.data[b], time, poseB)
    look[0] = Math.max(0, length + spin + reach)
    let safe = Infinity
    for (let p = first.data[a]; p >= 0; p = geometry.after(p)) {
      for (let q = first.data[b]; q >= 0; q = geometry.after(q)) {
        const surfaces = +(geometry.kindOf(p) === SURFACE) + +(geometry.kindOf(q) === SURFACE)
        if (surfaces === 2 || geometry.wideApart(p, q)) continue
        // A surface is asked by what is none.
        const turned = geometry.kindOf(p) === SURFACE
        const asking = turned ? q : p
        const asked = turned ? p : q
        this.place(asking, turned ? poseB : poseA, asked, turned ? poseA : poseB)
        boundsOf(this.own, 0, bounds, 0, bounds, 0)
        gapToPiece(this.own, 0, bounds, 0, this.other, 0, geometry.surfaces[asked], look, record)
        const left = record[DISTANCE] - reach
        if (left <= CLOSE) return 0
        let along = length
        // How deep two overlap changes by no more than they move; how far apart they are, by what they move along the normal.
        if (surfaces === 0 && record[DISTANCE] >= 0) {
          along = 0
          for (let i = 0; i < 3; i++) along -= sign * motion[i] * record[NORMAL + i]
        }
        const closing = spin + along
        if (closing > 0 && left < safe * closing) safe = left / closing
      }
    }
    return safe
  }

  /** Writes the blocks of two pieces as they are at poses. */
  private place(p: number, poseP: Float64Array, q: number, poseQ: Float64Array): void {
    const { geometry } = this
    while (geometry.sizeOf(p) > this.own.length) this.own = new Float64Array(2 * this.own.length)
    while (geometry.sizeOf(q) > this.other.length) this.other = new Float64Array(2 * this.other.length)
    geometry.blockAt(p, poseP, this.own, 0)
    geometry.blockAt(q, poseQ, this.other, 0)
  }

  /** Writes the pose of a body at a time of the tick: straight, and evenly turned. */
  private poseAt(body: number, time: number, out: Float64Array): void {
    const { previous, place, swept } = this.poses
    const { turn, quaternion } = this
    for (let i = 0; i < 3; i++) {
      const from = previous.data[KEPT * body + i]
      out[i] = from + (place.data[3 * body + i] - from) * time
      turn[i] = swept.data[3 * body + i] * time
    }
    writeTurn(turn, 0, quaternion, 0)
    multiply(quaternion, 0, previous.data, KEPT * body + 3, quaternion, 0)
    normalise(quaternion, 0)
    writeFrame(quaternion, 0, out, FRAME)
  }
}
