/**
 * The way that two colliders took within a tick, and the time on it at which they met or parted: conservative advancement
 * (Mirtich, 1996), along the normal where both are convex, which for straight motion ends in a few steps; past a surface by
 * all that the two can have come. The turn is taken unwrapped, so a body that spins fast is followed all the way round.
 * Two surfaces are not followed through each other.
 */

import type { StateVisitor } from '../core/save/state.ts'
import { type BentPath, MAX_BENDS } from '../core/solve/sweep.ts'
import { type Column, IntList, type Table } from '../core/state/table.ts'
import { swapRecord } from '../core/step/distances.ts'
import { ANY_DISTANCE } from '../core/step/kernel.ts'
import { Path } from '../core/step/path.ts'
import type { Way } from '../core/travel/ways.ts'
import type { Geometry } from './geometry.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from './narrow/records.ts'
import { gapToPiece } from './narrow/surfaceGap.ts'
import { KEPT, type Poses, writeAngle } from './poses.ts'
import { SURFACE } from './shapes/layout.ts'
import { boundsOf } from './shapes/place.ts'
import { FRAME, multiply, normalise, POSE_SIZE, writeFrame, writeTurn } from './vector.ts'

/** Metres at which the search is content; the answer is on the near side by no more than this. */
const CLOSE = 1e-9
/** Steps after which a path that stays very close counts as a graze. */
/** Metres more than rounding, by which bounds are to be farther apart. */
const SURELY = 1e-6
const MANY_STEPS = 20_000

/** Of a leg: when it begins, the place and the quaternion there, when it ends, and motion and turn, each as in a whole tick at its speed. */
const T0 = 0
const X0 = 1
const T1 = 8
const VX = 9
const WX = 12
const LEG = 15

export class Path3 extends Path implements BentPath {
  private readonly geometry: Geometry
  private readonly poses: Poses
  /** Body of a collider. */
  private readonly body: Column<Int32Array>
  /** Row of legs of a body, from 1; 0 for a straight path. */
  private readonly legsOf: Column<Int32Array>
  private legs = new Float64Array(LEG * (MAX_BENDS + 1))
  /** Of each row: how many legs, where they stand, and whether there is a jump between any. */
  private readonly counts = new IntList()
  private readonly starts = new IntList()
  private readonly jumps = new IntList()
  private readonly bent = new IntList()
  private used = 0
  private readonly record = new Float64Array(GAP_SIZE)
  private readonly motion = new Float64Array(3)
  private readonly look = new Float64Array(1)
  private readonly legA = new Float64Array(LEG)
  private readonly legB = new Float64Array(LEG)
  private readonly poseA = new Float64Array(POSE_SIZE)
  private readonly poseB = new Float64Array(POSE_SIZE)
  private readonly turn = new Float64Array(3)
  private readonly quaternion = new Float64Array(4)
  private readonly bounds = new Float64Array(6)
  /** A piece as it was last placed by {@link placeAt}. */
  block = new Float64Array(128)
  private own = new Float64Array(128)
  private other = new Float64Array(128)

  constructor(geometry: Geometry, body: Column<Int32Array>, poses: Poses, bodies: Table) {
    super({ meeting: MANY_STEPS, crossing: MANY_STEPS })
    this.geometry = geometry
    this.body = body
    this.poses = poses
    this.legsOf = bodies.i32()
  }

  override visit(v: StateVisitor): void {
    this.legs = v.numbers(this.legs)
    this.used = v.number(this.used)
    for (const list of [this.counts, this.starts, this.jumps, this.bent]) list.visit(v)
  }

  override reset(): void {
    const { bent, legsOf } = this
    for (let i = 0; i < bent.length; i++) legsOf.data[bent.data[i]] = 0
    bent.clear()
    this.counts.clear()
    this.starts.clear()
    this.jumps.clear()
    this.used = 0
  }

  /** A row for the legs of a body, with room for so many. */
  private claim(body: number, room: number): number {
    const row = this.bent.length
    this.bent.push(body)
    this.counts.push(0)
    this.starts.push(this.used)
    this.jumps.push(0)
    this.legsOf.data[body] = row + 1
    this.used += LEG * room
    if (this.used > this.legs.length) {
      const wider = new Float64Array(2 * this.used)
      wider.set(this.legs)
      this.legs = wider
    }
    return row
  }

  override setWay(body: number, way: Way): void {
    const { place } = this.poses
    const { count, poses, lengths, jumps } = way
    const last = KEPT * (count - 1)
    let square = 0
    for (let k = 0; k < 3; k++) {
      const beyond = place.data[3 * body + k] - poses[last + k]
      square += beyond * beyond
    }
    const whole = way.length + Math.sqrt(square)
    if (!(whole > 0) || (count < 3 && way.start === 0 && whole === way.length)) return
    const row = this.claim(body, count + 1)
    this.jumps.data[row] = way.start
    for (let i = 0; i < count; i++) {
      const begin = lengths[i] / whole
      const next = i + 1 < count && jumps[i + 1] === 0
      // The last leads to where the body is now; before a jump it stands for a moment.
      const end = next ? lengths[i + 1] / whole : i + 1 < count ? begin : 1
      const at = this.starts.data[row] + LEG * this.counts.data[row]++
      for (let k = 0; k < KEPT; k++) this.legs[at + X0 + k] = poses[KEPT * i + k]
      this.writeLeg(at, begin, end, next ? poses : null, KEPT * (i + 1), body)
    }
  }

  /** Writes times and speeds of a leg whose start stands there: to a pose, or for null to where the body is now. */
  private writeLeg(at: number, begin: number, end: number, to: Float64Array | null, from: number, body: number): void {
    const { legs, quaternion } = this
    const { place, rotation } = this.poses
    const span = end - begin
    legs[at + T0] = begin
    legs[at + T1] = end
    for (let k = VX; k < LEG; k++) legs[at + k] = 0
    if (!(span > 0)) return
    for (let k = 0; k < 3; k++) {
      const target = to === null ? place.data[3 * body + k] : to[from + k]
      legs[at + VX + k] = (target - legs[at + X0 + k]) / span
    }
    for (let k = 0; k < 4; k++) quaternion[k] = k < 3 ? -legs[at + X0 + 3 + k] : legs[at + X0 + 3 + k]
    if (to === null) multiply(rotation.data, 4 * body, quaternion, 0, quaternion, 0)
    else multiply(to, from + 3, quaternion, 0, quaternion, 0)
    writeAngle(quaternion, legs, at + WX)
    for (let k = 0; k < 3; k++) legs[at + WX + k] /= span
  }

  addBend(body: number, time: number): void {
    const { legsOf, counts, legA } = this
    this.leg(body, time, false, legA)
    let row = legsOf.data[body] - 1
    if (row < 0) {
      row = this.claim(body, MAX_BENDS + 1)
      counts.data[row] = 1
      this.legs.set(legA, this.starts.data[row])
    }
    // Later legs belong to a path that is not taken.
    const first = this.starts.data[row]
    let count = counts.data[row]
    while (count > 1 && this.legs[first + LEG * (count - 1)] >= time) count--
    if (count === MAX_BENDS + 1) count--
    this.legs[first + LEG * (count - 1) + T1] = time
    const at = first + LEG * count
    this.legs[at + T0] = time
    this.legs[at + T1] = 1
    this.keepPose(legA, time, this.legs, at + X0)
    for (let k = VX; k < LEG; k++) this.legs[at + k] = 0
    counts.data[row] = count + 1
  }

  /**
   * After a bend: how the body goes on from there.
   * @param motion way and turn of its origin, as in a whole tick at that speed: six numbers
   * @param end place and quaternion at the end of the tick
   */
  goOn(body: number, motion: Float64Array, end: Float64Array): void {
    const row = this.legsOf.data[body] - 1
    const at = this.starts.data[row] + LEG * (this.counts.data[row] - 1)
    for (let k = 0; k < 6; k++) this.legs[at + VX + k] = motion[k]
    this.leg(body, 1, true, this.legA)
    this.keepPose(this.legA, 1, end, 0)
  }

  override bendsIn(body: number): number {
    const row = this.legsOf.data[body]
    return row === 0 ? 0 : this.counts.data[row - 1] - 1
  }

  override boundsAtBend(piece: number, body: number, index: number, out: Float64Array): void {
    const { geometry, poseA } = this
    const row = this.legsOf.data[body] - 1
    if (row < 0) this.leg(body, 0, false, this.legA)
    else this.copyLeg(this.starts.data[row] + LEG * (index + 1), this.legA)
    this.setPose(this.legA, this.legA[T0], poseA)
    while (geometry.sizeOf(piece) > this.own.length) this.own = new Float64Array(2 * this.own.length)
    geometry.blockAt(piece, poseA, this.own, 0)
    boundsOf(this.own, 0, geometry.surfaces[piece]?.bounds ?? this.bounds, 0, out, 0)
  }

  override longestTurn(body: number): number {
    const row = this.legsOf.data[body] - 1
    let most = 0
    for (let i = 0; row >= 0 && i < this.counts.data[row]; i++) {
      const at = this.starts.data[row] + LEG * i
      const { legs } = this
      const x = legs[at + WX]
      const y = legs[at + WX + 1]
      const z = legs[at + WX + 2]
      const turned = Math.sqrt(x * x + y * y + z * z)
      most = Math.max(most, turned * (legs[at + T1] - legs[at + T0]))
    }
    return most
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
    const { poseA, poseB, legA, legB } = this
    // At the very end of a path, by the way that led there.
    this.leg(this.body.data[a], time, time === 1, legA)
    this.leg(this.body.data[b], time, time === 1, legB)
    this.setPose(legA, time, poseA)
    this.setPose(legB, time, poseB)
    let closing = 0
    for (let i = 0; i < 3; i++) {
      const j = (i + 1) % 3
      const k = (i + 2) % 3
      const y = (record[POINT_A + j] + record[POINT_B + j]) / 2
      const z = (record[POINT_A + k] + record[POINT_B + k]) / 2
      const own = legA[WX + j] * (z - poseA[k]) - legA[WX + k] * (y - poseA[j])
      const its = legB[WX + j] * (z - poseB[k]) - legB[WX + k] * (y - poseB[j])
      closing += (own - its - (legB[VX + i] - legA[VX + i])) * record[NORMAL + i]
    }
    record[DISTANCE] = closing
  }

  /** Writes to `out[0]` an upper bound of how far any point of the one came nearer to any of the other in this tick. */
  override approach(a: number, b: number, out: Float64Array): void {
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    if (this.bendsIn(bodyA) > 0 || this.bendsIn(bodyB) > 0) {
      out[0] = this.jumped(bodyA) || this.jumped(bodyB) ? Infinity : this.lengthOf(a, bodyA) + this.lengthOf(b, bodyB)
      return
    }
    this.leg(bodyA, 0, false, this.legA)
    this.leg(bodyB, 0, false, this.legB)
    out[0] = this.readMotion() + this.spinReach(a, this.legA) + this.spinReach(b, this.legB)
  }

  override keptApart(a: number, b: number, p: number, q: number): boolean {
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    if (this.legsOf.data[bodyA] !== 0 || this.legsOf.data[bodyB] !== 0) return false
    const bounds = this.geometry.bounds.data
    const { data: was } = this.poses.previous
    const { data: now } = this.poses.place
    const stray = SURELY + this.turned(a, bodyA) + this.turned(b, bodyB)
    for (let i = 0; i < 3; i++) {
      const v = now[3 * bodyB + i] - was[KEPT * bodyB + i] - (now[3 * bodyA + i] - was[KEPT * bodyA + i])
      const most = (v < 0 ? -v : v) + stray
      if (bounds[6 * p + i] - bounds[6 * q + 3 + i] > most || bounds[6 * q + i] - bounds[6 * p + 3 + i] > most)
        return true
    }
    return false
  }

  /** How far the outermost point of a collider can have been carried by the turn of its body. */
  private turned(c: number, body: number): number {
    const { data } = this.poses.swept
    const x = data[3 * body]
    const y = data[3 * body + 1]
    const z = data[3 * body + 2]
    if (x === 0 && y === 0 && z === 0) return 0
    return Math.sqrt(x * x + y * y + z * z) * this.geometry.reach.data[c]
  }

  /** Whether the path of a body has a jump: where it ends says nothing of how far it has come. */
  private jumped(body: number): boolean {
    const row = this.legsOf.data[body] - 1
    return row >= 0 && this.jumps.data[row] !== 0
  }

  /** How far the outermost point of a collider came along all legs of its body. */
  private lengthOf(c: number, body: number): number {
    const { legA } = this
    let way = 0
    for (let time = 0; time < 1; time = legA[T1]) {
      this.leg(body, time, false, legA)
      const length = Math.sqrt(legA[VX] * legA[VX] + legA[VX + 1] * legA[VX + 1] + legA[VX + 2] * legA[VX + 2])
      way += (legA[T1] - legA[T0]) * (length + this.spinReach(c, legA))
    }
    return way
  }

  /** Writes how the second moves as seen from the first, by their legs, a tick; returns how far. */
  private readMotion(): number {
    const { motion, legA, legB } = this
    let square = 0
    for (let i = 0; i < 3; i++) {
      motion[i] = legB[VX + i] - legA[VX + i]
      square += motion[i] * motion[i]
    }
    return Math.sqrt(square)
  }

  /** How far a collider's outermost point is carried by the turn of its body, a tick at the speed of a leg. What does not turn may be endless. */
  private spinReach(c: number, leg: Float64Array): number {
    const turned = Math.sqrt(leg[WX] * leg[WX] + leg[WX + 1] * leg[WX + 1] + leg[WX + 2] * leg[WX + 2])
    return turned === 0 ? 0 : turned * this.geometry.reach.data[c]
  }

  /** The part of the tick for which no two pieces can come within reach of each other; 0 when two are. */
  protected override safeStep(a: number, b: number, reach: number, backwards: boolean, time: number): number {
    const { geometry, record, motion, look, bounds, poseA, poseB, legA, legB } = this
    const { first } = geometry
    const sign = backwards ? -1 : 1
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    this.leg(bodyA, time, backwards, legA)
    this.leg(bodyB, time, backwards, legB)
    const length = this.readMotion()
    const spin = this.spinReach(a, legA) + this.spinReach(b, legB)
    this.setPose(legA, time, poseA)
    this.setPose(legB, time, poseB)
    let safe = Infinity
    if (this.legsOf.data[bodyA] !== 0 || this.legsOf.data[bodyB] !== 0) {
      safe = backwards ? time - Math.max(legA[T0], legB[T0]) : Math.min(legA[T1], legB[T1]) - time
      // At the end of a path no longer than its rounding error.
      if (!(safe > 0)) safe = 1e-16
    }
    look[0] = Math.max(0, length + spin + reach)
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

  /** Writes the block of a piece as it is at a time of the tick to {@link block}. */
  placeAt(piece: number, body: number, time: number): void {
    const { geometry, poseA } = this
    while (geometry.sizeOf(piece) > this.block.length) this.block = new Float64Array(2 * this.block.length)
    this.poseAt(body, time, poseA)
    geometry.blockAt(piece, poseA, this.block, 0)
  }

  /** Writes the blocks of two pieces as they are at poses. */
  private place(p: number, poseP: Float64Array, q: number, poseQ: Float64Array): void {
    const { geometry } = this
    while (geometry.sizeOf(p) > this.own.length) this.own = new Float64Array(2 * this.own.length)
    while (geometry.sizeOf(q) > this.other.length) this.other = new Float64Array(2 * this.other.length)
    geometry.blockAt(p, poseP, this.own, 0)
    geometry.blockAt(q, poseQ, this.other, 0)
  }

  /** Writes the pose of a body at a time of the tick. */
  private poseAt(body: number, time: number, out: Float64Array): void {
    this.leg(body, time, false, this.legA)
    this.setPose(this.legA, time, out)
  }

  /** Writes place and quaternion of a body at a time of the tick. */
  keptAt(body: number, time: number, out: Float64Array): void {
    this.leg(body, time, false, this.legA)
    this.keepPose(this.legA, time, out, 0)
  }

  /** The leg on which a body is at a time: of two the later one, going backwards the earlier one. */
  private leg(body: number, time: number, backwards: boolean, out: Float64Array): void {
    const row = this.legsOf.data[body] - 1
    if (row < 0) {
      const { previous, place, swept } = this.poses
      out[T0] = 0
      out[T1] = 1
      for (let k = 0; k < KEPT; k++) out[X0 + k] = previous.data[KEPT * body + k]
      for (let k = 0; k < 3; k++) {
        out[VX + k] = place.data[3 * body + k] - out[X0 + k]
        out[WX + k] = swept.data[3 * body + k]
      }
      return
    }
    const { legs } = this
    const first = this.starts.data[row]
    let index = this.counts.data[row] - 1
    while (index > 0 && (backwards ? time <= legs[first + LEG * index] : time < legs[first + LEG * index])) index--
    this.copyLeg(first + LEG * index, out)
  }

  private copyLeg(at: number, out: Float64Array): void {
    for (let k = 0; k < LEG; k++) out[k] = this.legs[at + k]
  }

  /** Writes place and quaternion on a leg at a time: straight, and evenly turned. */
  private keepPose(leg: Float64Array, time: number, out: Float64Array, at: number): void {
    const { turn } = this
    const since = time - leg[T0]
    for (let i = 0; i < 3; i++) {
      out[at + i] = leg[X0 + i] + leg[VX + i] * since
      turn[i] = leg[WX + i] * since
    }
    writeTurn(turn, 0, out, at + 3)
    multiply(out, at + 3, leg, X0 + 3, out, at + 3)
    normalise(out, at + 3)
  }

  /** Writes the pose on a leg at a time. */
  private setPose(leg: Float64Array, time: number, out: Float64Array): void {
    const { turn, quaternion } = this
    const since = time - leg[T0]
    for (let i = 0; i < 3; i++) {
      out[i] = leg[X0 + i] + leg[VX + i] * since
      turn[i] = leg[WX + i] * since
    }
    writeTurn(turn, 0, quaternion, 0)
    multiply(quaternion, 0, leg, X0 + 3, quaternion, 0)
    normalise(quaternion, 0)
    writeFrame(quaternion, 0, out, FRAME)
  }
}
