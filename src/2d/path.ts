/**
 * The way that two colliders took within a tick, and the time on it at which they met or parted: conservative
 * advancement along the normal (Mirtich, 1996), which for straight motion of convex shapes ends in a few steps. The
 * turn is taken unwrapped, so a body that spins fast is followed all the way round. Asked only when a pair begins or
 * ends, so it may allocate.
 */

import { cosSin } from '../core/maths.ts'
import type { Column } from '../core/table.ts'
import type { Geometry } from './geometry.ts'
import { DISTANCE, GAP_SIZE, NORMAL } from './narrow/gap.ts'
import { gapOfPieces } from './narrow/pair.ts'

/** Metres at which the search is content; the answer is on the near side by no more than this. */
const CLOSE = 1e-9
const MAX_STEPS = 64

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
  private readonly best = new Float64Array(GAP_SIZE)
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
    const { geometry, record } = this
    const single = geometry.pieceCount.data[a] === 1 && geometry.pieceCount.data[b] === 1
    const bodyA = this.body.data[a]
    const bodyB = this.body.data[b]
    const sign = backwards ? -1 : 1
    const vx = sign * (this.travelX(bodyB) - this.travelX(bodyA))
    const vy = sign * (this.travelY(bodyB) - this.travelY(bodyA))
    const speed = Math.sqrt(vx * vx + vy * vy)
    const spin = this.spinReach(a, bodyA) + this.spinReach(b, bodyB)
    let done = 0
    for (let step = 0; step < MAX_STEPS && done < 1; step++) {
      const time = backwards ? 1 - done : done
      this.gapAt(a, bodyA, b, bodyB, time)
      const left = record[DISTANCE] - reach
      if (left <= CLOSE) break
      // How fast the gap can close: along the normal by the motion, and at most this fast by the turning. Between
      // several pieces another pair may come nearer than the nearest now, so only the whole speed bounds it.
      const closing = single ? spin - (vx * record[NORMAL] + vy * record[NORMAL + 1]) : spin + speed
      if (closing <= 0) return backwards ? 0 : 1
      done += left / closing
    }
    if (done > 1) done = 1
    return backwards ? 1 - done : done
  }

  /** The least gap of two colliders at a time of the tick, into the record. */
  private gapAt(a: number, bodyA: number, b: number, bodyB: number, time: number): void {
    const { geometry, record, best } = this
    const { first, next, count, kind } = geometry
    best[DISTANCE] = Infinity
    this.setPose(bodyA, time)
    for (let p = first.data[a]; p >= 0; p = next.data[p]) this.own.push(this.block(p))
    this.setPose(bodyB, time)
    for (let q = first.data[b]; q >= 0; q = next.data[q]) {
      const other = this.block(q)
      let index = 0
      for (let p = first.data[a]; p >= 0; p = next.data[p]) {
        gapOfPieces(this.own[index++], 0, count.data[p], kind.data[p], other, 0, count.data[q], kind.data[q], record)
        if (record[DISTANCE] < best[DISTANCE]) best.set(record)
      }
    }
    this.own.length = 0
    record.set(best)
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
    const block = new Float64Array(Math.max(3, 1 + 2 * this.geometry.count.data[piece]))
    this.geometry.blockAt(piece, this.at, block)
    return block
  }
}
