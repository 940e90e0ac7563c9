/**
 * The way that two colliders took within a tick, and the time on it at which they met or parted: conservative
 * advancement along the normal (Mirtich, 1996), which for straight motion of convex shapes ends in a few steps. The
 * turn is taken unwrapped, so a body that spins fast is followed all the way round. Asked only when a pair begins or
 * ends, so it may allocate.
 */

import { cosSin } from '../core/maths.ts'
import type { Column } from '../core/table.ts'
import type { Geometry } from './geometry.ts'
import { gapOfPieces } from './narrow/pair.ts'
import { DISTANCE, GAP_SIZE, NORMAL } from './narrow/words.ts'

/** Metres at which the search is content; the answer is on the near side by no more than this. */
const CLOSE = 1e-9
const MAX_STEPS = 512

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
  private readonly own: Float64Array[] = []

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
   * The part of the tick for which no two pieces can come within reach of each other; 0 when two are. Each pair of pieces
   * is bounded by itself: along its normal by the motion, and by as much as the turning can carry its outermost points.
   */
  private safeStep(a: number, b: number, reach: number, backwards: boolean, time: number): number {
    const { geometry, record, own } = this
    const { first } = geometry
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    const sign = backwards ? -1 : 1
    const vx = sign * (this.travelX(bodyB) - this.travelX(bodyA))
    const vy = sign * (this.travelY(bodyB) - this.travelY(bodyA))
    const spin = this.spinReach(a, bodyA) + this.spinReach(b, bodyB)
    let safe = Infinity
    own.length = 0
    this.setPose(bodyA, time)
    for (let p = first.data[a]; p >= 0; p = geometry.after(p)) own.push(this.block(p))
    this.setPose(bodyB, time)
    for (let q = first.data[b]; q >= 0; q = geometry.after(q)) {
      const other = this.block(q)
      let index = 0
      for (let p = first.data[a]; p >= 0; p = geometry.after(p)) {
        gapOfPieces(
          own[index++],
          0,
          geometry.countOf(p),
          geometry.kindOf(p),
          other,
          0,
          geometry.countOf(q),
          geometry.kindOf(q),
          record,
        )
        const left = record[DISTANCE] - reach
        if (left <= CLOSE) return 0
        const closing = spin - (vx * record[NORMAL] + vy * record[NORMAL + 1])
        if (closing > 0 && left < safe * closing) safe = left / closing
      }
    }
    return safe
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
    return angle === 0 ? 0 : Math.abs(angle) * this.geometry.reach(c)
  }

  private setPose(body: number, time: number): void {
    const { before, at } = this
    const angle = before.data[3 * body + 2]
    at[0] = before.data[3 * body] + this.travelX(body) * time
    at[1] = before.data[3 * body + 1] + this.travelY(body) * time
    at[2] = angle + (this.turn.data[3 * body] - angle) * time
    cosSin(at, 2)
  }

  private block(piece: number): Float64Array {
    const block = new Float64Array(Math.max(3, 1 + 2 * this.geometry.countOf(piece)))
    this.geometry.blockAt(piece, this.at, block)
    return block
  }
}
