/**
 * Who stands on what, and is carried along by it: by what moved at once (`travel`), and by what the step moves, whatever moves it. A
 * dimension tells where a point of a moved body has come to.
 */
import type { StateVisitor } from '../save/state.ts'
import type { Population } from '../state/population.ts'
import { type Column, IntList } from '../state/table.ts'

/** Whether a body stood after its last travel; 0 for what has not travelled. */
export const STOOD = 1
export const AIRBORNE = 2
const NONE = -1

/** Moves a rider. */
export type Carry = (rider: number, ground: number, by: Float64Array, turn: Float64Array, up: Float64Array) => void

/** What riders need of a dimension. */
export interface RiderSpace {
  readonly population: Population<object, object>
  readonly axes: number
  /** Numbers of a pose. */
  readonly kept: number
  /** Writes the pose of a body. */
  keep(body: number, out: Float64Array): void
  /** Writes how far a point, which a body at an earlier pose had, has come since; and by how much the body turned about an up (3D). */
  motionOf(
    from: Float64Array,
    body: number,
    point: Float64Array,
    up: Float64Array,
    out: Float64Array,
    turn: Float64Array,
  ): void
  /** Adds how far a collider carries, in a tick, what lies on it with a normal. */
  addBelt(collider: number, normal: Float64Array, out: Float64Array): void
  /** Writes the pose of a body before what the step did to it; false where it may have moved by itself only. */
  poseBefore(body: number, out: Float64Array): void
  /** Whether a rider was moved by anything else in this step. */
  movesItself(body: number): boolean
}

export class Riders {
  readonly stood: Column<Int32Array>
  carry: Carry = () => undefined
  /** Bodies that may be riding. */
  private readonly riding = new IntList()
  private readonly rides: Column<Int32Array>
  private readonly collider: Column<Int32Array>
  private readonly colliderSerial: Column<Int32Array>
  private readonly point: Column<Float64Array>
  private readonly normal: Column<Float64Array>
  private readonly up: Column<Float64Array>
  private readonly carried: Column<Int32Array>
  private readonly space: RiderSpace
  private readonly spare: { readonly pose: Float64Array; readonly by: Float64Array; readonly turn: Float64Array }[] = []
  private depth = 0
  private readonly at: Float64Array
  private readonly upright: Float64Array

  constructor(space: RiderSpace) {
    this.space = space
    const { bodies } = space.population
    this.stood = bodies.i32()
    this.rides = bodies.i32()
    this.collider = bodies.i32()
    this.colliderSerial = bodies.i32()
    this.point = bodies.f64(space.axes)
    this.normal = bodies.f64(space.axes)
    this.up = bodies.f64(space.axes)
    this.carried = bodies.i32()
    this.at = new Float64Array(space.axes)
    this.upright = new Float64Array(space.axes)
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.riding.visit(v)
  }

  /** Nobody rides. */
  clear(): void {
    this.riding.clear()
  }

  /** What a travel has found: what the body stands on, and whether that carries it. */
  note(
    body: number,
    stands: boolean,
    collider: number,
    rides: boolean,
    point: Float64Array,
    normal: Float64Array,
    up: Float64Array,
  ): void {
    const { axes, population } = this.space
    this.stood.data[body] = stands ? STOOD : AIRBORNE
    this.collider.data[body] = stands ? collider + 1 : 0
    this.colliderSerial.data[body] = stands ? population.serial.data[collider] : 0
    for (let k = 0; k < axes; k++) {
      // Where it stands on nothing, these are of an earlier travel.
      this.point.data[axes * body + k] = stands ? point[k] : 0
      this.normal.data[axes * body + k] = stands ? normal[k] : 0
      this.up.data[axes * body + k] = up[k]
    }
    this.setRiding(body, stands && rides)
  }

  /** A body was put elsewhere, or does not walk: it stands on nothing that is known. */
  forget(body: number): void {
    this.stood.data[body] = 0
    this.collider.data[body] = 0
    this.setRiding(body, false)
  }

  /** The collider that a body stood on after its last travel, or -1. */
  groundOf(body: number): number {
    const c = this.collider.data[body] - 1
    return c >= 0 && this.space.population.serial.data[c] === this.colliderSerial.data[body] ? c : NONE
  }

  /** The body that carries another, or -1. */
  bodyUnder(rider: number): number {
    if (this.rides.data[rider] === 0) return NONE
    const c = this.groundOf(rider)
    const { filter } = this.space.population
    return c < 0 || filter.activeSolid.data[c] === 0 ? NONE : filter.body.data[c]
  }

  /** Whether a body is carried by another, be it over others. */
  isLed(rider: number, by: number): boolean {
    if (this.riding.length === 0) return false
    let body = rider
    for (let step = 0; step < 16; step++) {
      body = this.bodyUnder(body)
      if (body < 0) return false
      if (body === by) return true
    }
    return false
  }

  /** Whether one of two stands on the other and is carried by it: then the two do not press. */
  isRide(a: number, b: number): boolean {
    return this.riding.length > 0 && (this.bodyUnder(a) === b || this.bodyUnder(b) === a)
  }

  /** A body has moved at once: carries those along that stand on it. @param from its pose before */
  carryAlong(body: number, from: Float64Array): void {
    const { riding, space } = this
    if (riding.length === 0) return
    const scratch = this.borrow()
    for (let k = 0; k < space.kept; k++) scratch.pose[k] = from[k]
    for (let i = 0; i < riding.length; i++) {
      const rider = riding.data[i]
      if (this.bodyUnder(rider) === body) this.move(rider, body, scratch, false)
    }
    this.depth--
  }

  /** In a step, after all has moved: carries along whoever stands on what the step moved, and on belts. */
  carryInStep(now: number): void {
    const { riding, rides } = this
    for (let i = 0; i < riding.length; i++) this.carryOne(riding.data[i], now, 0)
    let left = 0
    for (let i = 0; i < riding.length; i++) {
      if (rides.data[riding.data[i]] !== 0) riding.data[left++] = riding.data[i]
    }
    riding.length = left
  }

  private carryOne(rider: number, now: number, depth: number): void {
    if (this.carried.data[rider] === now) return
    this.carried.data[rider] = now
    const ground = this.bodyUnder(rider)
    if (ground < 0) {
      // What it stood on is gone; it leaves the list when all are through.
      this.rides.data[rider] = 0
      return
    }
    // From the ground upwards.
    if (depth < 16 && this.rides.data[ground] !== 0) this.carryOne(ground, now, depth + 1)
    if (this.space.movesItself(rider)) return
    const scratch = this.borrow()
    this.space.poseBefore(ground, scratch.pose)
    this.move(rider, ground, scratch, true)
    this.depth--
  }

  private move(rider: number, ground: number, scratch: (typeof this.spare)[number], belts: boolean): void {
    const { space, at, upright } = this
    const { axes } = space
    for (let k = 0; k < axes; k++) {
      at[k] = this.point.data[axes * rider + k]
      upright[k] = this.up.data[axes * rider + k]
    }
    space.motionOf(scratch.pose, ground, at, upright, scratch.by, scratch.turn)
    if (belts) {
      for (let k = 0; k < axes; k++) at[k] = this.normal.data[axes * rider + k]
      space.addBelt(this.groundOf(rider), at, scratch.by)
    }
    let moves = false
    for (let k = 0; k < axes; k++) {
      if (scratch.by[k] !== 0) moves = true
      this.point.data[axes * rider + k] += scratch.by[k]
    }
    for (let k = 0; k < scratch.turn.length; k++) if (scratch.turn[k] !== 0) moves = true
    if (moves) this.carry(rider, ground, scratch.by, scratch.turn, upright)
  }

  private borrow(): (typeof this.spare)[number] {
    const { axes, kept } = this.space
    if (this.depth === this.spare.length) {
      this.spare.push({
        pose: new Float64Array(kept),
        by: new Float64Array(axes),
        turn: new Float64Array(axes === 3 ? 3 : 0),
      })
    }
    return this.spare[this.depth++]
  }

  private setRiding(body: number, rides: boolean): void {
    if ((this.rides.data[body] !== 0) === rides) return
    this.rides.data[body] = rides ? 1 : 0
    if (rides) this.riding.push(body)
    else this.riding.remove(body)
  }
}
