/**
 * How dynamic bodies move within a tick: which pairs touch at its start or may come to touch, what the solver makes of them, and where
 * they are then. The stages of `core/step/tick.ts` call it through the kernel of a dimension, which brings velocities, rows and contacts.
 * Who is awake stands in `activation.ts`.
 */
import { PASS, SOLID } from '../filter/filter.ts'
import type { StateVisitor } from '../save/state.ts'
import { DYNAMIC, type Population } from '../state/population.ts'
import { type Column, IntList } from '../state/table.ts'
import { type Pairs, STALE } from '../step/pairs.ts'
import { Activation } from './activation.ts'
import type { ContactBook } from './contactBook.ts'
import type { RowSource } from './contactKind.ts'
import type { DynamicsCore } from './dynamics.ts'
import type { Islands } from './islands.ts'
import { Sleep } from './sleep.ts'
import { Spread } from './spread.ts'
import type { SubstepLoop } from './substeps.ts'
import type { Surfaces } from './surfaces.ts'

/** Lengths a second (times the unit), and radians a second, by which bodies may differ that move alike. */
const ALIKE = 0.001
/** Part of a tick by which what travelled up to a body is not let to press it: two of its five substeps. */
const HELD_PART = 0.4
/** Radians that a dynamic body turns in a tick at most: half a turn. */
export const MOST_TURN = Math.PI

/** The measures of a world. */
export interface Scale {
  /** Lengths within which a solid pair counts as touching. */
  readonly touch: number
  /** The user's lengths to a metre. */
  readonly unit: number
  /** Seconds a tick. */
  readonly dt: number
}

/** What the motion of bodies works on, as far as it knows no dimension. */
export interface MotionCoreSetup<D extends DynamicsCore> {
  readonly population: Population<object, object>
  readonly pairs: Pairs
  readonly dynamics: D
  readonly surfaces: Surfaces
  readonly poses: { readonly place: { data: Float64Array } }
  /** The normal of each solid pair, and where it was last pressed: a vector each. */
  readonly normal: { data: Float64Array }
  readonly metAt: { data: Float64Array }
  readonly scale: Scale
}

/** Numbers of a place and of a velocity. */
export interface MotionForm {
  readonly axes: number
  readonly speeds: number
}

export abstract class MotionCore<D extends DynamicsCore, C extends ContactBook> implements RowSource {
  readonly activation: Activation
  readonly islands: Islands
  abstract readonly contacts: C
  abstract readonly solver: SubstepLoop
  abstract readonly contactRows: { push: number }
  readonly dynamics: D
  readonly surfaces: Surfaces
  /** Lengths a second squared. */
  readonly gravity: Float64Array
  /** Velocity of each mover as the tick begins. */
  readonly startVelocity: Column<Float64Array>
  /** The step in which a pair was last pressed, and when within it. */
  readonly pressed: Column<Int32Array>
  readonly pressedWhen: Column<Float64Array>
  /** Where a pair was last pressed. */
  readonly metAt: { data: Float64Array }
  /** The step in which a pair was met on the way. */
  readonly swept: Column<Int32Array>
  /** How far a body is expected to come in this tick along each axis, then by how many radians it turns. */
  readonly predicted: Float64Array
  /** Kinematic bodies that move in this tick. */
  readonly movingKinematics = new IntList()
  readonly normal: { data: Float64Array }
  protected readonly sleep: Sleep
  /** Row of a body in the solver, in this tick. */
  protected readonly row: Column<Int32Array>
  protected readonly population: Population<object, object>
  protected readonly pairs: Pairs
  protected readonly touch: number
  /** Seconds a tick. */
  protected readonly dt: number
  protected readonly unit: number
  private readonly visited: Column<Int32Array>
  private readonly spread: Spread
  private readonly within = new Float64Array(1)
  private readonly form: MotionForm
  /** Numbers of a velocity. */
  readonly speeds: number
  /** Whether two bodies that are not dynamic stand or move alike. */
  readonly moveAlike = (a: number, b: number): boolean => {
    if (a === b) return true
    const { speeds } = this
    const { data } = this.startVelocity
    for (let k = 0; k < speeds; k++) {
      if (Math.abs(data[speeds * a + k] - data[speeds * b + k]) > ALIKE * this.unit) return false
    }
    return true
  }
  /** Whether one of two bodies stands on the other and is carried along by it: such two do not press. */
  isRide: (a: number, b: number) => boolean = () => false
  /** Whether a body that travelled stops where another one is: it was not let to push it. */
  isHeldBy: (traveller: number, other: number) => boolean = () => false
  private readonly isGround = (body: number): boolean => this.population.type.data[body] !== DYNAMIC

  constructor(setup: MotionCoreSetup<D>, form: MotionForm) {
    const { population, pairs, dynamics, surfaces, poses, normal, metAt, scale } = setup
    const { touch, unit, dt } = scale
    this.form = form
    this.speeds = form.speeds
    this.dt = dt
    this.population = population
    this.pairs = pairs
    this.metAt = metAt
    this.dynamics = dynamics
    this.surfaces = surfaces
    this.normal = normal
    this.touch = touch
    this.unit = unit
    this.activation = new Activation(population, pairs, (pair) => this.contacts.first(pair) >= 0)
    this.islands = this.activation.islands
    this.sleep = new Sleep(this.islands, unit, dt)
    this.gravity = new Float64Array(form.axes)
    this.predicted = new Float64Array(form.axes + 1)
    this.spread = new Spread(form.axes, population.serial, dynamics, poses.place)
    this.startVelocity = population.bodies.f64(form.speeds)
    this.row = population.bodies.i32()
    this.pressed = pairs.table.i32()
    this.pressedWhen = pairs.table.f64()
    this.swept = pairs.table.i32()
    this.visited = pairs.table.i32()
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.activation.visit(v)
    this.contacts.visit(v)
    this.sleep.fallen.visit(v)
    this.movingKinematics.visit(v)
    this.gravity.set(v.numbers(this.gravity))
    this.contactRows.push = v.number(this.contactRows.push)
    this.solver.burst = v.flag(this.solver.burst)
  }

  // What a dimension brings.

  /** Writes the velocity of a kinematic body to {@link startVelocity} and its motion to {@link predicted}; returns whether it moves. */
  protected abstract readKinematic(body: number): boolean
  /** The same of a dynamic body. */
  protected abstract readDynamic(body: number): void
  /** Writes an upper bound of the speed at which two colliders come together, by what the tick begins with. */
  protected abstract comingTogether(pair: number, a: number, b: number, out: Float64Array): void
  /** Whether a one-way collider lets another through: it moves in the open direction, or has not reached the far side yet. */
  protected abstract passesOneWay(ledge: number, other: number): boolean
  /** Empties the rows of bodies, and sets their bounds. */
  protected abstract clearRows(): void
  /** Adds the row of a body, and returns which it is. */
  protected abstract addRow(body: number): number
  /** Takes a body over from its row: where it is now, how fast, and how long it has been slow. */
  protected abstract readRow(body: number, row: number): void
  /** The body is simply where it is. */
  protected abstract resetMotion(body: number): void
  /** A body that has just fallen asleep stands still. */
  protected abstract stop(body: number): void
  /** Writes the centre of mass in the world; of what is not dynamic, the origin. */
  abstract centreOf(body: number, out: Float64Array, at: number): void

  /** A body that is dynamic no more: nothing presses it, or is pressed by it, from now on. */
  leave(body: number): void {
    const { population, pairs, contacts } = this
    const { speeds } = this.form
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        contacts.clear(edge >> 1)
        pairs.impulse.data[edge >> 1] = 0
        pairs.friction.data[edge >> 1] = 0
      }
    }
    this.startVelocity.data.fill(0, speeds * body, speeds * (body + 1))
    // Its row of the last tick may be another body's in the next.
    this.row.data[body] = 0
    this.activation.leave(body)
  }

  /** Before the pairs are searched for: how fast everything sets out. `makeRoom` is called for each mover, with its motion in {@link predicted}. */
  predict(makeRoom: (body: number) => void): void {
    const { population, movingKinematics, islands } = this
    movingKinematics.clear()
    const { kinematics } = population
    for (let body = kinematics.from(0); body >= 0; body = kinematics.from(body + 1)) {
      if (!this.activation.moves(body)) continue
      if (!this.readKinematic(body)) continue
      movingKinematics.push(body)
      makeRoom(body)
    }
    const { awake } = islands
    for (let i = 0; i < awake.length; i++) {
      const body = awake.data[i]
      if (!this.activation.moves(body)) continue
      this.readDynamic(body)
      makeRoom(body)
    }
  }

  /**
   * Finds the contacts of all that moves, at the start poses. What is touched by something awake wakes, and is checked too.
   * @param moved called for a body that was moved a little out of another
   */
  findContacts(now: number, moved: (body: number) => void): void {
    const { islands, movingKinematics, contacts, dynamics } = this
    const { awake } = islands
    for (let i = 0; i < movingKinematics.length; i++) this.visitAll(movingKinematics.data[i], now, moved)
    for (let i = 0; i < awake.length; i++)
      if (this.activation.moves(awake.data[i])) this.visitAll(awake.data[i], now, moved)
    for (let i = 0; i < awake.length; i++) {
      contacts.findSeams(awake.data[i], dynamics.halfWidth.data, this.isGround, this.moveAlike)
    }
    contacts.order(now)
  }

  private visitAll(body: number, now: number, moved: (body: number) => void): void {
    const { population, pairs, visited } = this
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        const pair = edge >> 1
        if (visited.data[pair] === now) continue
        visited.data[pair] = now
        this.visitPair(pair, now, moved)
      }
    }
  }

  private visitPair(pair: number, now: number, moved: (body: number) => void): void {
    const { population, pairs, contacts, within, dynamics, touch, normal } = this
    const { axes } = this.form
    const { type } = population
    const { body } = population.filter
    const a = body.data[pairs.a.data[pair]]
    const b = body.data[pairs.b.data[pair]]
    const dynamicA = type.data[a] === DYNAMIC
    const dynamicB = type.data[b] === DYNAMIC
    if (!dynamicA && !dynamicB) return
    pairs.impulse.data[pair] = 0
    pairs.friction.data[pair] = 0
    pairs.closing.data[pair] = 0
    if (this.responseOf(pair) !== SOLID) {
      contacts.clear(pair)
      return
    }
    // As far as they may come together in this tick, but no further than a part of their size.
    const slender = Math.min(
      dynamicA ? dynamics.halfWidth.data[a] : Infinity,
      dynamicB ? dynamics.halfWidth.data[b] : Infinity,
    )
    this.comingTogether(pair, a, b, within)
    within[0] = 2 * touch + Math.min(within[0] * this.dt, 0.5 * slender)
    if (dynamicA && dynamicB && contacts.first(pair) < 0) this.spreadOut(pair, a, b, moved)
    if (contacts.update(pair, within, now) === 0) return
    const held = !dynamicA ? this.isHeldBy(a, b) : !dynamicB && this.isHeldBy(b, a)
    if (held) {
      const { speeds } = this.form
      const traveller = dynamicA ? b : a
      contacts.widen(pair, this.startVelocity.data, speeds * traveller, dynamicA ? -1 : 1, HELD_PART * this.dt)
    }
    if (dynamicA && this.islands.isAwake.data[a] === 0) this.islands.wake(a)
    if (dynamicB && this.islands.isAwake.data[b] === 0) this.islands.wake(b)
    const deepest = contacts.deepest(pair)
    for (let k = 0; k < axes; k++) normal.data[axes * pair + k] = contacts.normal.data[axes * deepest + k]
    if (pairs.hasHooks && (pairs.answer.data[pair] === 0 || pairs.askEvery)) pairs.toAsk.push(pair)
  }

  /** Moves one of two bodies a little if their centres are in exactly one place. */
  private spreadOut(pair: number, a: number, b: number, moved: (body: number) => void): void {
    const { pairs, population, spread } = this
    this.centreOf(a, spread.centres, 0)
    this.centreOf(b, spread.centres, this.form.axes)
    if (!spread.isOnePlace()) return
    const one = pairs.a.data[pair]
    const other = pairs.b.data[pair]
    // The younger, if it moves.
    const isFirst = population.serial.data[one] > population.serial.data[other]
    const younger = isFirst ? a : b
    const goes = this.activation.moves(younger) ? younger : isFirst ? b : a
    if (spread.shift(goes, goes === a ? one : other)) moved(goes)
  }

  responseOf(pair: number): number {
    const { pairs, population } = this
    const one = pairs.a.data[pair]
    const other = pairs.b.data[pair]
    if ((pairs.flags.data[pair] & STALE) !== 0) pairs.response.data[pair] = population.filter.respond(one, other)
    const response = Math.min(pairs.response.data[pair], pairs.allowedResponse(pair))
    const { body } = population.filter
    if (response === SOLID && this.isRide(body.data[one], body.data[other])) return PASS
    if (response !== SOLID || pairs.state.data[pair] === SOLID) return response
    if (!this.passesOneWay(one, other) && !this.passesOneWay(other, one)) return response
    pairs.through.data[pair] = 1
    return PASS
  }

  /** Solves the constraints and moves every dynamic body that is awake. `moved` is called for each, after it was put in its new place. */
  solve(now: number, moved: (body: number) => void): void {
    const { islands, solver, movingKinematics, row } = this
    const { awake } = islands
    if (awake.length === 0) return
    this.clearRows()
    for (let i = 0; i < movingKinematics.length; i++) {
      row.data[movingKinematics.data[i]] = this.addRow(movingKinematics.data[i])
    }
    for (let i = 0; i < awake.length; i++) {
      if (this.activation.moves(awake.data[i])) row.data[awake.data[i]] = this.addRow(awake.data[i])
    }
    solver.run(this.dt)
    for (let i = 0; i < awake.length; i++) {
      const body = awake.data[i]
      this.resetMotion(body)
      if (!this.activation.moves(body)) continue
      this.readRow(body, row.data[body])
      moved(body)
    }
    for (const kind of solver.kinds) kind.readBack(now)
    for (let i = 0; i < movingKinematics.length; i++) row.data[movingKinematics.data[i]] = 0
    this.sleep.settle(solver.kinds)
    const { fallen } = this.sleep
    for (let i = 0; i < fallen.length; i++) this.stop(fallen.data[i])
  }

  rowOf(body: number): number {
    const { population, islands, row } = this
    if (population.type.data[body] === DYNAMIC) {
      return islands.isAwake.data[body] !== 0 && this.activation.moves(body) ? row.data[body] : 0
    }
    return row.data[body]
  }

  /** What fell asleep in the last tick moves no more. */
  restFallen(): void {
    const { fallen } = this.sleep
    for (let i = 0; i < fallen.length; i++) this.resetMotion(fallen.data[i])
    fallen.clear()
  }
}
