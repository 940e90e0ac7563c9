/**
 * The way that two colliders took within a tick, and the time on it at which they met or parted: conservative
 * advancement along the normal (Mirtich, 1996), which for straight motion of convex shapes ends in a few steps. What turns is held
 * apart by a line that stands still or turns along, with a bound of second order on what comes up to it, so that a way which keeps
 * very near ends in a few steps as well. The turn is taken unwrapped, so a body that spins fast is followed all the way round.
 */

import type { StateVisitor } from '../core/save/state.ts'
import { type BentPath, MAX_BENDS } from '../core/solve/sweep.ts'
import { type Column, IntList, type Table } from '../core/state/table.ts'
import { Path } from '../core/step/path.ts'
import type { Way } from '../core/travel/ways.ts'
import { cosSin } from '../core/util/maths.ts'
import type { Distances2 } from './distances.ts'
import type { Geometry } from './geometry.ts'
import { isAtInnerEdge } from './narrow/gap.ts'
import { gapOfPieces } from './narrow/pair.ts'
import { DISTANCE, GAP_SIZE, NORMAL, POINT_A, POINT_B } from './narrow/records.ts'
import { KEPT, type Poses } from './poses.ts'
import { HEAD, PLANE } from './shapes/layout.ts'

/** Metres at which the search is content; the answer is on the near side by no more than this. */
const CLOSE = 1e-9
/** Metres more than rounding, by which bounds are to be farther apart. */
const SURELY = 1e-6
const MAX_STEPS = 512
/** Steps after which a path that stays very close counts as a graze. */
const MANY_STEPS = 50_000

/** Of a leg: when it begins, the pose there (x, y, angle), when it ends, and the motion a whole tick at its speed. */
const T0 = 0
const X0 = 1
const Y0 = 2
const A0 = 3
const T1 = 4
const VX = 5
const VY = 6
const VA = 7
const LEG = 8
/** Of a corner: how far along a line, its speed along it, how it may stray from that. */
const CORNER = 3
/** A bend: its time, and the pose there. */
const BEND = 4

export class Path2 extends Path implements BentPath {
  private readonly geometry: Geometry
  private readonly poses: Poses
  /** Body of a collider. */
  private readonly body: Column<Int32Array>
  /** Row of bends of a body, from 1; 0 for a straight path. */
  private readonly bendsOf: Column<Int32Array>
  private bends = new Float64Array(BEND * MAX_BENDS)
  /** Of each row: how many bends, and where they stand. */
  private readonly counts = new IntList()
  private readonly starts = new IntList()
  private readonly bent = new IntList()
  private used = 0
  private readonly legA = new Float64Array(LEG)
  private readonly legB = new Float64Array(LEG)
  private readonly record = new Float64Array(GAP_SIZE)
  /** x, y, angle, cos, sin. */
  private readonly at = new Float64Array(5)
  /** Blocks of the pieces of the one, one behind the other, and of one piece of the other. */
  block = new Float64Array(64)
  private own = new Float64Array(64)
  private other = new Float64Array(64)

  /** Pieces that are left out, two by two; and those that were passed in this tick, which are then left out as well. */
  readonly aside = new IntList()
  private readonly passed = new IntList()
  private readonly asideGap = new Float64Array(GAP_SIZE)
  /** The two pieces of the last gap. */
  metA = -1
  metB = -1
  private readonly piecesA = new IntList()
  private readonly piecesB = new IntList()
  private readonly distances: Distances2
  private readonly originA = new Float64Array(2)
  private cornersA = new Float64Array(64)
  private cornersB = new Float64Array(64)

  constructor(geometry: Geometry, distances: Distances2, body: Column<Int32Array>, poses: Poses, bodies: Table) {
    super({ meeting: MAX_STEPS, crossing: MANY_STEPS })
    this.geometry = geometry
    this.distances = distances
    this.body = body
    this.poses = poses
    this.bendsOf = bodies.i32()
  }

  override visit(v: StateVisitor): void {
    this.bends = v.numbers(this.bends)
    this.used = v.number(this.used)
    for (const list of [this.counts, this.starts, this.bent]) list.visit(v)
  }

  /** A new tick: every path is straight. */
  override reset(): void {
    const { bent, bendsOf } = this
    for (let i = 0; i < bent.length; i++) bendsOf.data[bent.data[i]] = 0
    bent.clear()
    this.counts.clear()
    this.starts.clear()
    this.used = 0
  }

  /** A row for the bends of a body, with room for so many. */
  private claim(body: number, room: number): number {
    const row = this.bent.length
    this.bent.push(body)
    this.counts.push(0)
    this.starts.push(this.used)
    this.bendsOf.data[body] = row + 1
    this.used += BEND * room
    while (this.used > this.bends.length) this.bends = wider(this.bends)
    return row
  }

  override setWay(body: number, way: Way): void {
    const { place } = this.poses
    const { count, poses, lengths, jumps } = way
    const last = KEPT * (count - 1)
    const dx = place.data[2 * body] - poses[last]
    const dy = place.data[2 * body + 1] - poses[last + 1]
    const whole = way.length + Math.sqrt(dx * dx + dy * dy)
    if (!(whole > 0) || (count < 3 && way.start === 0 && whole === way.length)) return
    const row = this.claim(body, count)
    for (let i = 0; i < count; i++) {
      // Where the tick begins is where the path does, unless it was teleported on the way; and where it ends is known.
      if (i === 0 && way.start === 0) continue
      if (i === count - 1 && jumps[i] === 0 && whole === way.length) continue
      const at = this.starts.data[row] + BEND * this.counts.data[row]++
      this.bends[at] = i === 0 ? 0 : lengths[i] / whole
      for (let k = 0; k < KEPT; k++) this.bends[at + 1 + k] = poses[KEPT * i + k]
    }
  }

  /** Adds a bend to the path of a body at a time of the tick; from there it leads to another end. */
  addBend(body: number, time: number): void {
    const { bendsOf, counts, legA } = this
    this.leg(body, time, false, legA)
    let row = bendsOf.data[body] - 1
    if (row < 0) row = this.claim(body, MAX_BENDS)
    // Later bends belong to a path that is not taken.
    const first = this.starts.data[row]
    let count = counts.data[row]
    while (count > 0 && this.bends[first + BEND * (count - 1)] >= time) count--
    if (count === MAX_BENDS) count--
    const at = first + BEND * count
    this.bends[at] = time
    for (let k = 0; k < 3; k++) this.bends[at + 1 + k] = legA[X0 + k] + legA[VX + k] * (time - legA[T0])
    counts.data[row] = count + 1
  }

  /** Number of bends in the path of a body. */
  override bendsIn(body: number): number {
    const row = this.bendsOf.data[body]
    return row === 0 ? 0 : this.counts.data[row - 1]
  }

  /** Writes the pose at a bend as x, y, angle, at the start of the path for -1. */
  private bendAt(body: number, index: number, out: Float64Array): void {
    if (index < 0) {
      for (let k = 0; k < 3; k++) out[k] = this.poses.previous.data[3 * body + k]
      return
    }
    const at = this.starts.data[this.bendsOf.data[body] - 1] + BEND * index
    for (let k = 0; k < 3; k++) out[k] = this.bends[at + 1 + k]
  }

  override boundsAtBend(piece: number, body: number, index: number, out: Float64Array): void {
    const { at } = this
    this.bendAt(body, index, at)
    cosSin(at, 2)
    this.geometry.boundsAt(piece, at, out)
  }

  override longestTurn(body: number): number {
    const { at } = this
    let angle = this.poses.turn.data[3 * body]
    let most = 0
    for (let i = this.bendsIn(body) - 1; i >= -1; i--) {
      this.bendAt(body, i, at)
      most = Math.max(most, Math.abs(at[2] - angle))
      angle = at[2]
    }
    return most
  }

  /** Writes the pose of a body at a time of the tick as x, y, angle. */
  poseAt(body: number, time: number, out: Float64Array): void {
    const { legA } = this
    this.leg(body, time, false, legA)
    for (let k = 0; k < 3; k++) out[k] = legA[X0 + k] + legA[VX + k] * (time - legA[T0])
  }

  /** Writes the block of a piece as it is at a time of the tick to {@link block}. */
  placeAt(piece: number, body: number, time: number): void {
    const { geometry, legA } = this
    while (geometry.sizeOf(piece) > this.block.length) this.block = wider(this.block)
    this.leg(body, time, false, legA)
    this.setPose(legA, time)
    geometry.blockAt(piece, this.at, this.block, HEAD)
  }

  /** The leg on which a body is at a time: of two the later one, going backwards the earlier one. */
  private leg(body: number, time: number, backwards: boolean, out: Float64Array): void {
    const { previous, place, turn } = this.poses
    const row = this.bendsOf.data[body] - 1
    let t0 = 0
    let x0 = previous.data[3 * body]
    let y0 = previous.data[3 * body + 1]
    let a0 = previous.data[3 * body + 2]
    let t1 = 1
    let x1 = place.data[2 * body]
    let y1 = place.data[2 * body + 1]
    let a1 = turn.data[3 * body]
    for (let i = 0; row >= 0 && i < this.counts.data[row]; i++) {
      const at = this.starts.data[row] + BEND * i
      const { bends } = this
      if (backwards ? time <= bends[at] : time < bends[at]) {
        t1 = bends[at]
        x1 = bends[at + 1]
        y1 = bends[at + 2]
        a1 = bends[at + 3]
        break
      }
      t0 = bends[at]
      x0 = bends[at + 1]
      y0 = bends[at + 2]
      a0 = bends[at + 3]
    }
    const span = t1 - t0
    // What is reached by a jump at the end of the tick is where it leads.
    if (!(span > 0) && !backwards) {
      x0 = x1
      y0 = y1
      a0 = a1
    }
    out[T0] = t0
    out[X0] = x0
    out[Y0] = y0
    out[A0] = a0
    out[T1] = t1
    out[VX] = span > 0 ? (x1 - x0) / span : 0
    out[VY] = span > 0 ? (y1 - y0) / span : 0
    out[VA] = span > 0 ? (a1 - a0) / span : 0
  }

  /** Lists the pieces of two colliders that may come near to each other in this tick. */
  private listPieces(a: number, b: number): void {
    const { piecesA, piecesB, distances } = this
    piecesA.clear()
    piecesB.clear()
    distances.listNear(a, b, piecesA)
    distances.listNear(b, a, piecesB)
  }

  /** Writes the least gap of two at a time of the tick; pieces whose whole ways are apart are not checked. */
  override gapAt(a: number, b: number, time: number, out: Float64Array): void {
    const { geometry, record, legA, legB, piecesA, piecesB } = this
    this.leg(this.body.data[a], time, false, legA)
    this.leg(this.body.data[b], time, false, legB)
    out[DISTANCE] = Infinity
    this.listPieces(a, b)
    for (let j = 0; j < piecesB.length; j++) {
      const q = piecesB.data[j]
      let placed = false
      for (let i = 0; i < piecesA.length; i++) {
        const p = piecesA.data[i]
        if (geometry.wideApart(p, q)) continue
        if (!placed) {
          while (geometry.sizeOf(q) > this.other.length) this.other = wider(this.other)
          this.setPose(legB, time)
          geometry.blockAt(q, this.at, this.other, HEAD)
          placed = true
        }
        while (geometry.sizeOf(p) > this.own.length) this.own = wider(this.own)
        this.setPose(legA, time)
        geometry.blockAt(p, this.at, this.own, HEAD)
        if (this.isAside(p, q)) continue
        gapOfPieces(this.own, HEAD, this.other, HEAD, record)
        if (record[DISTANCE] >= out[DISTANCE] || this.isCovered(HEAD)) continue
        for (let k = 0; k < GAP_SIZE; k++) out[k] = record[k]
        this.metA = p
        this.metB = q
      }
    }
  }

  override setAside(a: number, b: number, time: number, reach: number): boolean {
    const { geometry, piecesA, piecesB, passed, aside, asideGap } = this
    aside.clear()
    if (geometry.pieceCount.data[a] * geometry.pieceCount.data[b] === 1) return false
    this.listPieces(a, b)
    let left = 0
    for (let i = 0; i < piecesA.length; i++) {
      for (let j = 0; j < piecesB.length; j++) {
        const p = piecesA.data[i]
        const q = piecesB.data[j]
        if (geometry.wideApart(p, q)) continue
        this.gapOfPiecesAt(p, q, a, b, time, asideGap)
        if (asideGap[DISTANCE] > reach && !hasPair(passed, p, q)) {
          left++
          continue
        }
        aside.push(p)
        aside.push(q)
      }
    }
    return left > 0
  }

  override clearAside(): void {
    this.aside.clear()
  }

  override passPieces(): void {
    this.passed.push(this.metA)
    this.passed.push(this.metB)
  }

  override forgetPassed(): void {
    this.passed.clear()
  }

  /** Writes the gap of two pieces at a time of the tick. */
  gapOfPiecesAt(p: number, q: number, a: number, b: number, time: number, out: Float64Array): void {
    this.placeAt(q, this.body.data[b], time)
    while (this.geometry.sizeOf(q) > this.other.length) this.other = wider(this.other)
    const size = this.geometry.sizeOf(q)
    for (let i = 0; i < size; i++) this.other[i] = this.block[i]
    this.placeAt(p, this.body.data[a], time)
    gapOfPieces(this.block, HEAD, this.other, HEAD, out)
  }

  /** Whether two pieces face each other where one that is left out is nearer. */
  private isCovered(from: number): boolean {
    return this.aside.length > 0 && isAtInnerEdge(this.own, from, this.other, HEAD, this.record)
  }

  private isAside(p: number, q: number): boolean {
    return this.aside.length > 0 && hasPair(this.aside, p, q)
  }

  /**
   * How far two come together a tick along the normal of their gap, where they are nearest: reads the gap from a record, as
   * {@link gapAt} writes it, and writes to its first place.
   */
  override closingAt(a: number, b: number, time: number, record: Float64Array): void {
    const { legA, legB } = this
    this.leg(this.body.data[a], time, false, legA)
    this.leg(this.body.data[b], time, false, legB)
    const nx = record[NORMAL]
    const ny = record[NORMAL + 1]
    const x = (record[POINT_A] + record[POINT_B]) / 2
    const y = (record[POINT_A + 1] + record[POINT_B + 1]) / 2
    let closing = 0
    for (let side = 0; side < 2; side++) {
      const leg = side === 0 ? legA : legB
      const since = time - leg[T0]
      const rx = x - leg[X0] - leg[VX] * since
      const ry = y - leg[Y0] - leg[VY] * since
      const along = (leg[VX] - leg[VA] * ry) * nx + (leg[VY] + leg[VA] * rx) * ny
      closing += side === 0 ? along : -along
    }
    record[DISTANCE] = closing
  }

  /**
   * The part of the tick for which no two pieces can come within reach of each other; 0 when two are. Each pair of pieces
   * is bounded by itself: along its normal by the motion, and by as much as the turning can carry its outermost points. No
   * step leads over the end of a leg.
   */
  protected override safeStep(a: number, b: number, reach: number, backwards: boolean, time: number): number {
    const { geometry, record, legA, legB, piecesA, piecesB } = this
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    this.leg(bodyA, time, backwards, legA)
    this.leg(bodyB, time, backwards, legB)
    const sign = backwards ? -1 : 1
    const vx = sign * (legB[VX] - legA[VX])
    const vy = sign * (legB[VY] - legA[VY])
    const spin = this.spinReach(a, legA) + this.spinReach(b, legB)
    let safe = backwards ? time - Math.max(legA[T0], legB[T0]) : Math.min(legA[T1], legB[T1]) - time
    // At the end of a path no longer than its rounding error.
    if (!(safe > 0)) safe = 1e-16
    const straight = this.bendsOf.data[bodyA] === 0 && this.bendsOf.data[bodyB] === 0
    if (straight) safe = Infinity
    this.setPose(legA, time)
    this.originA[0] = this.at[0]
    this.originA[1] = this.at[1]
    let used = 0
    this.listPieces(a, b)
    for (let i = 0; i < piecesA.length; i++) {
      const p = piecesA.data[i]
      const size = geometry.sizeOf(p)
      while (used + size > this.own.length) this.own = wider(this.own)
      geometry.blockAt(p, this.at, this.own, used + HEAD)
      used += size
    }
    this.setPose(legB, time)
    for (let j = 0; j < piecesB.length; j++) {
      const q = piecesB.data[j]
      let placed = false
      let at = 0
      for (let i = 0; i < piecesA.length; i++) {
        const p = piecesA.data[i]
        const from = at + HEAD
        at += geometry.sizeOf(p)
        if (geometry.wideApart(p, q) || this.isAside(p, q)) continue
        if (!placed) {
          while (geometry.sizeOf(q) > this.other.length) this.other = wider(this.other)
          geometry.blockAt(q, this.at, this.other, HEAD)
          placed = true
        }
        gapOfPieces(this.own, from, this.other, HEAD, record)
        const left = record[DISTANCE] - reach
        if (left <= CLOSE) {
          if (this.isCovered(from)) continue
          return 0
        }
        // How deep two overlap changes by no more than they move; how far apart they are, by what they move along the normal.
        const along =
          record[DISTANCE] < 0 ? Math.sqrt(vx * vx + vy * vy) : -(vx * record[NORMAL] + vy * record[NORMAL + 1])
        const closing = spin + along
        if (!(closing > 0 && left < safe * closing)) continue
        let step = left / closing
        if (spin > 0 && spin < Infinity && record[DISTANCE] >= 0) {
          step = Math.max(step, this.whileApart(p, from, q, reach, sign))
        }
        if (step < safe) safe = step
      }
    }
    return safe
  }

  /**
   * How long a line between two placed pieces, across the normal of their gap, keeps them further apart than `reach`: the best of one
   * that stands still, one that turns with the first and one that turns with the second. Cost: the corners of both, multiplied
   * where both turn.
   */
  private whileApart(p: number, from: number, q: number, reach: number, sign: number): number {
    const { legA, legB } = this
    let safe = this.whileBetween(p, from, q, reach, sign, null)
    // What has no end cannot be told from a line that turns.
    if (this.isPlane(p) || this.isPlane(q)) return safe
    if (legA[VA] !== 0) safe = Math.max(safe, this.whileBetween(p, from, q, reach, sign, legA))
    if (legB[VA] !== 0) safe = Math.max(safe, this.whileBetween(p, from, q, reach, sign, legB))
    return safe
  }

  /** How long the line keeps two apart: until a corner of the one can have come up to a corner of the other, seen from a frame. */
  private whileBetween(
    p: number,
    from: number,
    q: number,
    reach: number,
    sign: number,
    frame: Float64Array | null,
  ): number {
    const { record } = this
    const n = this.readCorners(p, true, from, sign, frame)
    const m = this.readCorners(q, false, HEAD, -sign, frame)
    const { cornersA: own, cornersB: its } = this
    // The outermost of the one and of the other, and what is left between them.
    let most = -Infinity
    let least = Infinity
    for (let i = 0; i < n; i++) if (own[CORNER * i] > most) most = own[CORNER * i]
    for (let j = 0; j < m; j++) if (its[CORNER * j] < least) least = its[CORNER * j]
    const radii = (this.isPlane(p) ? 0 : this.own[from]) + (this.isPlane(q) ? 0 : this.other[HEAD])
    const between = Math.min(least - most - radii, record[DISTANCE]) - reach
    if (!(between > 0)) return 0
    let safe = Infinity
    for (let i = 0; i < n; i++) {
      for (let j = 0; j < m; j++) {
        const left = between + (most - own[CORNER * i]) + (its[CORNER * j] - least)
        const closing = own[CORNER * i + 1] + its[CORNER * j + 1]
        const stray = own[CORNER * i + 2] + its[CORNER * j + 2]
        if (stray === 0 && closing <= 0) continue
        const root = Math.sqrt(closing * closing + 2 * stray * left)
        const time = closing > 0 ? (2 * left) / (closing + root) : (root - closing) / stray
        if (time < safe) safe = time
      }
    }
    return safe
  }

  /**
   * Writes for each corner of a placed piece, seen from a frame (a leg, or null for the world): how far it lies along the normal of
   * the gap, its speed along it times `sign`, and the most that this speed changes in a tick. Where all go alike the outermost is
   * told alone. Returns how many.
   */
  private readCorners(piece: number, isA: boolean, from: number, sign: number, frame: Float64Array | null): number {
    const { record, geometry } = this
    const leg = isA ? this.legA : this.legB
    const block = isA ? this.own : this.other
    const origin = isA ? this.originA : this.at
    const base = frame === this.legA ? this.originA : this.at
    const nx = record[NORMAL]
    const ny = record[NORMAL + 1]
    const spin = leg[VA]
    const turn = frame === null ? 0 : frame[VA]
    const vx = leg[VX] - (frame === null ? 0 : frame[VX])
    const vy = leg[VY] - (frame === null ? 0 : frame[VY])
    const way = Math.sqrt(vx * vx + vy * vy)
    const count = this.isPlane(piece) ? 1 : geometry.countOf(piece)
    let out = isA ? this.cornersA : this.cornersB
    while (CORNER * count > out.length) out = wider(out)
    if (isA) this.cornersA = out
    else this.cornersB = out
    // A plane has no corners: its nearest point is used.
    const points = this.isPlane(piece) ? record : block
    const first = this.isPlane(piece) ? (isA ? POINT_A : POINT_B) : from + 1
    let outermost = 0
    for (let i = 0; i < count; i++) {
      const x = points[first + 2 * i]
      const y = points[first + 2 * i + 1]
      const rx = x - origin[0]
      const ry = y - origin[1]
      const at = CORNER * i
      out[at] = nx * x + ny * y
      if (isA ? out[at] > out[CORNER * outermost] : out[at] < out[CORNER * outermost]) outermost = i
      if (frame === leg) {
        out[at + 1] = out[at + 2] = 0
        continue
      }
      const fx = x - base[0]
      const fy = y - base[1]
      const r = Math.sqrt(rx * rx + ry * ry)
      const most = way + Math.abs(spin) * r
      out[at + 1] = sign * (nx * (vx - spin * ry + turn * fy) + ny * (vy + spin * rx - turn * fx))
      // Towards the origin of its own turn, and seen from what turns the other way and sideways.
      out[at + 2] = spin * spin * r
      if (turn === 0) continue
      out[at + 2] += 2 * Math.abs(turn) * most + turn * turn * (Math.sqrt(fx * fx + fy * fy) + most)
    }
    if (spin === 0 && turn === 0) {
      for (let k = 0; k < CORNER; k++) out[k] = out[CORNER * outermost + k]
      return 1
    }
    if (frame !== leg) return count
    out[0] = out[CORNER * outermost]
    return 1
  }

  /** Writes to `out[0]` an upper bound of how far any point of the one came nearer to any of the other in this tick. */
  override approach(a: number, b: number, out: Float64Array): void {
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    if (this.bendsOf.data[bodyA] !== 0 || this.bendsOf.data[bodyB] !== 0) {
      out[0] = this.jumped(bodyA) || this.jumped(bodyB) ? Infinity : this.lengthOf(a, bodyA) + this.lengthOf(b, bodyB)
      return
    }
    const { data: was } = this.poses.previous
    const { data: now } = this.poses.place
    const { data: turn } = this.poses.turn
    const vx = now[2 * bodyB] - was[3 * bodyB] - (now[2 * bodyA] - was[3 * bodyA])
    const vy = now[2 * bodyB + 1] - was[3 * bodyB + 1] - (now[2 * bodyA + 1] - was[3 * bodyA + 1])
    const turnA = turn[3 * bodyA] - was[3 * bodyA + 2]
    const turnB = turn[3 * bodyB] - was[3 * bodyB + 2]
    let most = Math.sqrt(vx * vx + vy * vy)
    // What does not turn may be endless.
    if (turnA !== 0) most += Math.abs(turnA) * this.geometry.turnReach.data[a]
    if (turnB !== 0) most += Math.abs(turnB) * this.geometry.turnReach.data[b]
    out[0] = most
  }

  override keptApart(a: number, b: number, p: number, q: number): boolean {
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    if (this.bendsOf.data[bodyA] !== 0 || this.bendsOf.data[bodyB] !== 0) return false
    const bounds = this.geometry.bounds.data
    const { data: was } = this.poses.previous
    const { data: now } = this.poses.place
    const { data: turn } = this.poses.turn
    const turnA = turn[3 * bodyA] - was[3 * bodyA + 2]
    const turnB = turn[3 * bodyB] - was[3 * bodyB + 2]
    let stray = SURELY
    if (turnA !== 0) stray += Math.abs(turnA) * this.geometry.turnReach.data[a]
    if (turnB !== 0) stray += Math.abs(turnB) * this.geometry.turnReach.data[b]
    const vx = now[2 * bodyB] - was[3 * bodyB] - (now[2 * bodyA] - was[3 * bodyA])
    const mostX = (vx < 0 ? -vx : vx) + stray
    if (bounds[4 * p] - bounds[4 * q + 2] > mostX || bounds[4 * q] - bounds[4 * p + 2] > mostX) return true
    const vy = now[2 * bodyB + 1] - was[3 * bodyB + 1] - (now[2 * bodyA + 1] - was[3 * bodyA + 1])
    const mostY = (vy < 0 ? -vy : vy) + stray
    return bounds[4 * p + 1] - bounds[4 * q + 3] > mostY || bounds[4 * q + 1] - bounds[4 * p + 3] > mostY
  }

  /** Whether the path of a body has a jump: where it ends says nothing of how far it has come. */
  private jumped(body: number): boolean {
    const row = this.bendsOf.data[body] - 1
    return row >= 0 && this.counts.data[row] > 0 && this.bends[this.starts.data[row]] === 0
  }

  /** How far the outermost point of a collider came along all legs of its body. */
  private lengthOf(c: number, body: number): number {
    const { legA } = this
    let way = 0
    for (let time = 0; time < 1; time = legA[T1]) {
      this.leg(body, time, false, legA)
      const span = legA[T1] - legA[T0]
      way += span * (Math.sqrt(legA[VX] * legA[VX] + legA[VY] * legA[VY]) + this.spinReach(c, legA))
    }
    return way
  }

  private isPlane(piece: number): boolean {
    return this.geometry.kindOf(piece) === PLANE
  }

  /** How far a collider's outermost point is carried by the turn of its body, a tick at the speed of a leg. */
  private spinReach(c: number, leg: Float64Array): number {
    return leg[VA] === 0 ? 0 : Math.abs(leg[VA]) * this.geometry.turnReach.data[c]
  }

  private setPose(leg: Float64Array, time: number): void {
    const { at } = this
    const since = time - leg[T0]
    for (let k = 0; k < 3; k++) at[k] = leg[X0 + k] + leg[VX + k] * since
    cosSin(at, 2)
  }
}

function hasPair(list: IntList, p: number, q: number): boolean {
  for (let i = 0; i < list.length; i += 2) if (list.data[i] === p && list.data[i + 1] === q) return true
  return false
}

function wider(data: Float64Array): Float64Array<ArrayBuffer> {
  const twice = new Float64Array(2 * data.length)
  twice.set(data)
  return twice
}
