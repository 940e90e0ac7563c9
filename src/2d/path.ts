/**
 * The way that two colliders took within a tick, and the time on it at which they met or parted: conservative
 * advancement along the normal (Mirtich, 1996), which for straight motion of convex shapes ends in a few steps. The
 * turn is taken unwrapped, so a body that spins fast is followed all the way round.
 */

import { cosSin } from '../core/maths.ts'
import type { Column } from '../core/table.ts'
import type { Geometry } from './geometry.ts'
import { gapOfPieces } from './narrow/pair.ts'
import { DISTANCE, GAP_SIZE, NORMAL } from './narrow/words.ts'

/** Metres at which the search is content; the answer is on the near side by no more than this. */
const CLOSE = 1e-9
const MAX_STEPS = 512
/** Steps after which a way that keeps very near is taken to graze. */
const MANY_STEPS = 50_000

export class Path {
  private readonly geometry: Geometry
  /** Body of a collider, and each body's pose before (x, y, angle) and after (x, y; angle first of three). */
  private readonly body: Column<Int32Array>
  private readonly before: Column<Float64Array>
  private readonly place: Column<Float64Array>
  private readonly turn: Column<Float64Array>
  private readonly record = new Float64Array(GAP_SIZE)
  /** x, y, angle, cos, sin. */
  private readonly at = new Float64Array(5)
  /** Blocks of the pieces of the one, one behind the other, and of one piece of the other. */
  private own = new Float64Array(64)
  private other = new Float64Array(64)

  constructor(
    geometry: Geometry,
    body: Column<Int32Array>,
    before: Column<Float64Array>,
    place: Column<Float64Array>,
    turn: Column<Float64Array>,
  ) {
    this.geometry = geometry
    this.body = body
    this.before = before
    this.place = place
    this.turn = turn
  }

  /**
   * When the gap of two colliders first fell to `reach`, 0 to 1. Searching backwards: when it last was that small.
   * The two must be further apart than that where the search starts; else the answer is its start.
   */
  meeting(a: number, b: number, reach: number, backwards: boolean): number {
    let done = 0
    for (let step = 0; step < MAX_STEPS && done < 1; step++) {
      const safe = this.safeStep(a, b, reach, backwards, backwards ? 1 - done : done)
      if (safe === 0) break
      done += safe
    }
    if (done > 1) done = 1
    return backwards ? 1 - done : done
  }

  /**
   * When two that are apart at the end of the tick first met on the way, or -1. What only grazes, nearer than can be told
   * apart in many steps, has not met.
   */
  crossing(a: number, b: number): number {
    let done = 0
    for (let step = 0; step < MANY_STEPS; step++) {
      const safe = this.safeStep(a, b, 0, false, done)
      if (safe === 0) return done
      done += safe
      if (done >= 1) return -1
    }
    return -1
  }

  /**
   * The part of the tick for which no two pieces can come within reach of each other; 0 when two are. Each pair of pieces
   * is bounded by itself: along its normal by the motion, and by as much as the turning can carry its outermost points.
   */
  private safeStep(a: number, b: number, reach: number, backwards: boolean, time: number): number {
    const { geometry, record } = this
    const { first } = geometry
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    const sign = backwards ? -1 : 1
    const vx = sign * (this.travelX(bodyB) - this.travelX(bodyA))
    const vy = sign * (this.travelY(bodyB) - this.travelY(bodyA))
    const spin = this.spinReach(a, bodyA) + this.spinReach(b, bodyB)
    let safe = Infinity
    this.setPose(bodyA, time)
    let used = 0
    for (let p = first.data[a]; p >= 0; p = geometry.after(p)) {
      const size = 1 + 2 * geometry.countOf(p)
      while (used + size > this.own.length) this.own = wider(this.own)
      geometry.blockAt(p, this.at, this.own, used)
      used += size
    }
    this.setPose(bodyB, time)
    for (let q = first.data[b]; q >= 0; q = geometry.after(q)) {
      while (1 + 2 * geometry.countOf(q) > this.other.length) this.other = wider(this.other)
      geometry.blockAt(q, this.at, this.other, 0)
      let at = 0
      for (let p = first.data[a]; p >= 0; p = geometry.after(p)) {
        const n = geometry.countOf(p)
        gapOfPieces(this.own, at, n, geometry.kindOf(p), this.other, 0, geometry.countOf(q), geometry.kindOf(q), record)
        at += 1 + 2 * n
        const left = record[DISTANCE] - reach
        if (left <= CLOSE) return 0
        const closing = spin - (vx * record[NORMAL] + vy * record[NORMAL + 1])
        if (closing > 0 && left < safe * closing) safe = left / closing
      }
    }
    return safe
  }

  /** Writes to `out[0]` an upper bound of how far any point of the one came nearer to any of the other in this tick. */
  approach(a: number, b: number, out: Float64Array): void {
    const { geometry, before, place, turn } = this
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    const was = before.data
    const { data: now } = place
    const vx = now[2 * bodyB] - was[3 * bodyB] - (now[2 * bodyA] - was[3 * bodyA])
    const vy = now[2 * bodyB + 1] - was[3 * bodyB + 1] - (now[2 * bodyA + 1] - was[3 * bodyA + 1])
    const turnA = turn.data[3 * bodyA] - was[3 * bodyA + 2]
    const turnB = turn.data[3 * bodyB] - was[3 * bodyB + 2]
    let most = Math.sqrt(vx * vx + vy * vy)
    // What does not turn may be endless.
    if (turnA !== 0) most += Math.abs(turnA) * geometry.reach.data[a]
    if (turnB !== 0) most += Math.abs(turnB) * geometry.reach.data[b]
    out[0] = most
  }

  private travelX(body: number): number {
    return this.place.data[2 * body] - this.before.data[3 * body]
  }

  private travelY(body: number): number {
    return this.place.data[2 * body + 1] - this.before.data[3 * body + 1]
  }

  /** How far a collider's outermost point is carried by the turn of its body. */
  private spinReach(c: number, body: number): number {
    const angle = this.turn.data[3 * body] - this.before.data[3 * body + 2]
    return angle === 0 ? 0 : Math.abs(angle) * this.geometry.reach.data[c]
  }

  private setPose(body: number, time: number): void {
    const { before, at } = this
    const angle = before.data[3 * body + 2]
    at[0] = before.data[3 * body] + this.travelX(body) * time
    at[1] = before.data[3 * body + 1] + this.travelY(body) * time
    at[2] = angle + (this.turn.data[3 * body] - angle) * time
    cosSin(at, 2)
  }
}

function wider(data: Float64Array): Float64Array<ArrayBuffer> {
  const twice = new Float64Array(2 * data.length)
  twice.set(data)
  return twice
}
