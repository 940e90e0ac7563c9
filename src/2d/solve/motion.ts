/**
 * How dynamic bodies move within a tick: which pairs touch at its start or may come to touch, what the solver makes of them, and where
 * they are then. The stages of `core/step/tick.ts` call it through `2d/kernel.ts`. Who is awake stands in `core/solve/activation.ts`.
 */
import { PASS, SOLID } from '../../core/filter/filter.ts'
import { Activation } from '../../core/solve/activation.ts'
import type { Islands } from '../../core/solve/islands.ts'
import { Sleep } from '../../core/solve/sleep.ts'
import { type ConstraintKind, SubstepLoop } from '../../core/solve/substeps.ts'
import type { Surfaces } from '../../core/solve/surfaces.ts'
import { DYNAMIC, KINEMATIC, type Population } from '../../core/state/population.ts'
import { IntList } from '../../core/state/table.ts'
import { ANY_DISTANCE } from '../../core/step/kernel.ts'
import { type Pairs, STALE } from '../../core/step/pairs.ts'
import { SPEED } from '../../core/util/limits.ts'
import { cosSin } from '../../core/util/maths.ts'
import type { Distances2 } from '../distances.ts'
import type { Geometry } from '../geometry.ts'
import { GAP_SIZE, NORMAL } from '../narrow/records.ts'
import type { Poses } from '../poses.ts'
import { AT, AX, AY, BODY, BodyRows2, DX, DY, IX, SLOW, SLOW_SPIN, SPIN, TURN, VX, VY } from './bodyRows.ts'
import { ContactRows } from './contactRows.ts'
import { Contacts } from './contacts.ts'
import { DAMPING, type Dynamics, GRAVITY_SCALE, SPIN_DAMPING } from './dynamics.ts'

/** Radians that a dynamic body turns in a tick at most: half a turn. */
const MOST_TURN = Math.PI
/** Sine of the angle by which a one-way collider may be met aslant. */
const ONE_WAY_COSINE = 0.5

/** Lengths a second (times the unit), and radians a second, by which bodies may differ that move alike. */
const ALIKE = 0.001

/** The measures of a world. */
export interface Scale {
  /** Lengths within which a solid pair counts as touching. */
  readonly touch: number
  /** The user's lengths to a metre. */
  readonly unit: number
  /** Seconds a tick. */
  readonly dt: number
}

/** What the motion of bodies works on. */
export interface MotionSetup {
  readonly population: Population<object, object>
  readonly pairs: Pairs
  readonly poses: Poses
  readonly geometry: Geometry
  readonly distances: Distances2
  readonly dynamics: Dynamics
  readonly surfaces: Surfaces
  /** The direction (about the body) towards which a collider lets pass; zero for none. */
  readonly oneWay: { data: Float64Array }
  /** The normal of each solid pair, and where it was last pressed: two numbers each. */
  readonly normal: { data: Float64Array }
  readonly metAt: { data: Float64Array }
  readonly scale: Scale
}

export class Motion {
  readonly activation: Activation
  readonly islands: Islands
  readonly contacts: Contacts
  readonly contactRows: ContactRows
  readonly solver: SubstepLoop
  readonly dynamics: Dynamics
  readonly surfaces: Surfaces
  private readonly oneWay: { data: Float64Array }
  /** x, y in lengths a second squared. */
  readonly gravity = new Float64Array(2)
  /** Velocity of each mover as the tick begins. */
  readonly startVelocity
  /** The step in which a pair was last pressed, and when within it. */
  readonly pressed
  readonly pressedWhen
  /** Where a pair was last pressed: x, y. */
  readonly metAt: { data: Float64Array }
  /** The step in which a pair was met on the way. */
  readonly swept
  /** How far a body is expected to come in this tick: x, y, turn. */
  readonly predicted = new Float64Array(3)
  /** Kinematic bodies that move in this tick. */
  readonly movingKinematics = new IntList()
  private readonly sleep: Sleep
  readonly bodyRows = new BodyRows2()
  private readonly visited
  /** Row of a body in the solver, in this tick. */
  private readonly row
  private readonly within = new Float64Array(1)
  private readonly centre = new Float64Array(2)
  private readonly turned = new Float64Array(3)
  private readonly speeds = new Float64Array(2)
  private readonly population: Population<object, object>
  private readonly pairs: Pairs
  private readonly poses: Poses
  private readonly geometry: Geometry
  readonly normal: { data: Float64Array }
  private readonly distances: Distances2
  private readonly record = new Float64Array(GAP_SIZE)
  private readonly touch: number
  /** Seconds a tick. */
  private readonly dt: number
  private readonly unit: number
  /** Whether two bodies that are not dynamic stand or move alike. */
  readonly moveAlike = (a: number, b: number): boolean => {
    if (a === b) return true
    const { data } = this.startVelocity
    for (let k = 0; k < 3; k++) if (Math.abs(data[3 * a + k] - data[3 * b + k]) > ALIKE * this.unit) return false
    return true
  }
  private readonly isGround = (body: number): boolean => this.population.type.data[body] !== DYNAMIC

  constructor(setup: MotionSetup) {
    const { population, pairs, poses, geometry, distances, dynamics, surfaces, oneWay, normal, metAt, scale } = setup
    const { touch, unit, dt } = scale
    this.dt = dt
    this.population = population
    this.pairs = pairs
    this.poses = poses
    this.geometry = geometry
    this.distances = distances
    this.metAt = metAt
    this.dynamics = dynamics
    this.surfaces = surfaces
    this.oneWay = oneWay
    this.normal = normal
    this.touch = touch
    this.unit = unit
    this.contacts = new Contacts(population, pairs, geometry, distances, unit)
    this.activation = new Activation(population, pairs, (pair) => this.contacts.first(pair) >= 0)
    this.islands = this.activation.islands
    this.sleep = new Sleep(this.islands, unit)
    this.startVelocity = population.bodies.f64(3)
    this.row = population.bodies.i32()
    this.pressed = pairs.table.i32()
    this.pressedWhen = pairs.table.f64()
    this.swept = pairs.table.i32()
    this.visited = pairs.table.i32()
    this.contactRows = new ContactRows({
      population,
      pairs,
      contacts: this.contacts,
      bodyRows: this.bodyRows,
      surfaces,
      source: this,
      books: this,
      dt,
      unit,
    })
    // Contacts come last, so that nothing else has the last word on what lies on a floor.
    const kinds: ConstraintKind[] = [this.contactRows]
    this.solver = new SubstepLoop(this.bodyRows, kinds, unit)
  }

  /** A body that is dynamic no more: nothing presses it, or is pressed by it, from now on. */
  leave(body: number): void {
    const { population, pairs, contacts } = this
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        contacts.clear(edge >> 1)
        pairs.impulse.data[edge >> 1] = 0
        pairs.friction.data[edge >> 1] = 0
      }
    }
    for (let k = 0; k < 3; k++) this.startVelocity.data[3 * body + k] = 0
    this.activation.leave(body)
  }

  /** Before the pairs are searched for: how fast everything sets out. `makeRoom` is called for each mover, with its motion in {@link predicted}. */
  predict(makeRoom: (body: number) => void): void {
    const { population, poses, startVelocity, movingKinematics, islands, gravity, dynamics, predicted } = this
    const { dt } = this
    movingKinematics.clear()
    const { type } = population
    for (let body = 0; body < population.bodies.size; body++) {
      if (type.data[body] !== KINEMATIC || !this.activation.moves(body)) continue
      if (!poses.readKinematicVelocity(body, dt, startVelocity.data, 3 * body)) continue
      movingKinematics.push(body)
      for (let k = 0; k < 3; k++) predicted[k] = startVelocity.data[3 * body + k] * dt
      makeRoom(body)
    }
    const { awake } = islands
    const { velocity } = poses
    for (let i = 0; i < awake.length; i++) {
      const body = awake.data[i]
      if (!this.activation.moves(body)) continue
      const at = 3 * body
      for (let k = 0; k < 3; k++) startVelocity.data[at + k] = velocity.data[at + k]
      const scale = dynamics.tuning.data[at + GRAVITY_SCALE] * dt
      predicted[0] = (startVelocity.data[at] + gravity[0] * scale) * dt
      predicted[1] = (startVelocity.data[at + 1] + gravity[1] * scale) * dt
      predicted[2] = startVelocity.data[at + 2] * dt
      makeRoom(body)
    }
  }

  /** Finds the contacts of all that moves, at the start poses. What is touched by something awake wakes, and is checked too. */
  findContacts(now: number): void {
    const { islands, movingKinematics, contacts, dynamics } = this
    const { awake } = islands
    for (let i = 0; i < movingKinematics.length; i++) this.visitAll(movingKinematics.data[i], now)
    for (let i = 0; i < awake.length; i++) if (this.activation.moves(awake.data[i])) this.visitAll(awake.data[i], now)
    for (let i = 0; i < awake.length; i++) {
      contacts.findSeams(awake.data[i], dynamics.halfWidth.data, this.isGround, this.moveAlike)
    }
    contacts.order(now)
  }

  private visitAll(body: number, now: number): void {
    const { population, pairs, visited } = this
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        const pair = edge >> 1
        if (visited.data[pair] === now) continue
        visited.data[pair] = now
        this.visit(pair, now)
      }
    }
  }

  private visit(pair: number, now: number): void {
    const { population, pairs, contacts, within, dynamics, touch } = this
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
    if (contacts.update(pair, within, now) === 0) return
    if (dynamicA && this.islands.isAwake.data[a] === 0) this.islands.wake(a)
    if (dynamicB && this.islands.isAwake.data[b] === 0) this.islands.wake(b)
    const deepest = contacts.deepest(pair)
    this.normal.data[2 * pair] = contacts.normal.data[2 * deepest]
    this.normal.data[2 * pair + 1] = contacts.normal.data[2 * deepest + 1]
    if (pairs.hasHooks && (pairs.answer.data[pair] === 0 || pairs.askEvery)) pairs.toAsk.push(pair)
  }

  /** Writes an upper bound of the speed at which two colliders come together, by what the tick begins with. */
  private comingTogether(pair: number, a: number, b: number, out: Float64Array): void {
    const { startVelocity, pairs } = this
    const { data } = startVelocity
    const { turnReach: reach } = this.geometry
    const vx = data[3 * a] - data[3 * b]
    const vy = data[3 * a + 1] - data[3 * b + 1]
    let most = Math.sqrt(vx * vx + vy * vy)
    if (data[3 * a + 2] !== 0) most += Math.abs(data[3 * a + 2]) * reach.data[pairs.a.data[pair]]
    if (data[3 * b + 2] !== 0) most += Math.abs(data[3 * b + 2]) * reach.data[pairs.b.data[pair]]
    out[0] = most + Math.sqrt(this.gravity[0] * this.gravity[0] + this.gravity[1] * this.gravity[1]) * this.dt
  }

  /** What filter, hooks and one-way sides make of a pair now. */
  responseOf(pair: number): number {
    const { pairs, population } = this
    const one = pairs.a.data[pair]
    const other = pairs.b.data[pair]
    if ((pairs.flags.data[pair] & STALE) !== 0) pairs.response.data[pair] = population.filter.respond(one, other)
    const response = Math.min(pairs.response.data[pair], pairs.allowedResponse(pair))
    if (response !== SOLID || pairs.state.data[pair] === SOLID) return response
    if (!this.passesOneWay(one, other) && !this.passesOneWay(other, one)) return response
    pairs.through.data[pair] = 1
    return PASS
  }

  /** Whether a one-way collider lets another through: it moves in the open direction, or has not reached the far side yet. */
  private passesOneWay(ledge: number, other: number): boolean {
    const { population, poses, startVelocity } = this
    const dx = this.oneWay.data[2 * ledge]
    const dy = this.oneWay.data[2 * ledge + 1]
    if (dx === 0 && dy === 0) return false
    const { body } = population.filter
    const own = body.data[ledge]
    const its = body.data[other]
    const cos = poses.turn.data[3 * own + 1]
    const sin = poses.turn.data[3 * own + 2]
    const x = cos * dx - sin * dy
    const y = sin * dx + cos * dy
    const { data } = startVelocity
    const along = (data[3 * its] - data[3 * own]) * x + (data[3 * its + 1] - data[3 * own + 1]) * y
    if (along > this.touch) return true
    // Where they are nearest, the other must be on the side to which the ledge holds.
    this.distances.between(ledge, other, ANY_DISTANCE, this.record)
    return this.record[NORMAL] * x + this.record[NORMAL + 1] * y < ONE_WAY_COSINE
  }

  /** Solves the constraints and moves every dynamic body that is awake. `moved` is called for each, after it was put in its new place. */
  solve(now: number, moved: (body: number) => void): void {
    const { islands, solver, movingKinematics, bodyRows, row } = this
    const { awake } = islands
    if (awake.length === 0) return
    bodyRows.clear()
    bodyRows.most[0] = SPEED * this.unit
    bodyRows.most[1] = MOST_TURN / this.dt
    for (let i = 0; i < movingKinematics.length; i++) this.addRow(movingKinematics.data[i])
    for (let i = 0; i < awake.length; i++) if (this.activation.moves(awake.data[i])) this.addRow(awake.data[i])
    solver.run(this.dt)
    this.readBack(moved)
    for (const kind of solver.kinds) kind.readBack(now)
    for (let i = 0; i < movingKinematics.length; i++) row.data[movingKinematics.data[i]] = 0
    this.sleep.settle(solver.kinds)
    this.stopFallen()
  }

  /** What has just fallen asleep stands. */
  private stopFallen(): void {
    const { poses, startVelocity } = this
    const { fallen } = this.sleep
    for (let i = 0; i < fallen.length; i++) {
      const at = 3 * fallen.data[i]
      for (let k = 0; k < 3; k++) {
        poses.velocity.data[at + k] = 0
        startVelocity.data[at + k] = 0
      }
    }
  }

  private addRow(body: number): void {
    const { bodyRows, dynamics, startVelocity, gravity, population } = this
    const row = bodyRows.add()
    this.row.data[body] = row
    const { data: bodies } = bodyRows
    const at = BODY * row
    for (let k = 0; k < 3; k++) bodies[at + VX + k] = startVelocity.data[3 * body + k]
    if (population.type.data[body] !== DYNAMIC) return
    const inverse = dynamics.inverse.data
    const force = dynamics.force.data
    const tuning = dynamics.tuning.data
    for (let k = 0; k < 3; k++) bodies[at + IX + k] = inverse[3 * body + k]
    const scale = tuning[3 * body + GRAVITY_SCALE]
    bodies[at + AX] = (inverse[3 * body] > 0 ? gravity[0] * scale : 0) + force[3 * body] * inverse[3 * body]
    bodies[at + AY] = (inverse[3 * body + 1] > 0 ? gravity[1] * scale : 0) + force[3 * body + 1] * inverse[3 * body + 1]
    bodies[at + AT] = force[3 * body + 2] * inverse[3 * body + 2]
    bodies[at + SLOW] = tuning[3 * body + DAMPING]
    bodies[at + SLOW_SPIN] = tuning[3 * body + SPIN_DAMPING]
    for (let k = 0; k < 3; k++) force[3 * body + k] = 0
  }

  /** The row of a body in this tick; that of what cannot be moved where it has none. */
  rowOf(body: number): number {
    const { population, islands, row } = this
    if (population.type.data[body] === DYNAMIC) {
      return islands.isAwake.data[body] !== 0 && this.activation.moves(body) ? row.data[body] : 0
    }
    return row.data[body]
  }

  /** The centre of mass in the world; of what is not dynamic, the origin. */
  centreOf(body: number, out: Float64Array, at: number): void {
    const { poses, dynamics } = this
    const x = dynamics.centre.data[2 * body]
    const y = dynamics.centre.data[2 * body + 1]
    const cos = poses.turn.data[3 * body + 1]
    const sin = poses.turn.data[3 * body + 2]
    out[at] = poses.place.data[2 * body] + cos * x - sin * y
    out[at + 1] = poses.place.data[2 * body + 1] + sin * x + cos * y
  }

  private readBack(moved: (body: number) => void): void {
    const { islands, bodyRows, poses, row, dynamics, centre, turned, geometry, population, speeds } = this
    const { awake } = islands
    const { data: bodies } = bodyRows
    const speedBound = SPEED * this.unit
    for (let i = 0; i < awake.length; i++) {
      const body = awake.data[i]
      poses.resetMotion(body)
      if (!this.activation.moves(body)) continue
      const at = BODY * row.data[body]
      const { velocity, place, turn } = poses
      this.centreOf(body, centre, 0)
      for (let k = 0; k < 3; k++) velocity.data[3 * body + k] = bodies[at + VX + k]
      poses.clampSpeed(body, speedBound, MOST_TURN / this.dt)
      const turning = bodies[at + TURN]
      turned[0] = turn.data[3 * body] + (turning > MOST_TURN ? MOST_TURN : turning < -MOST_TURN ? -MOST_TURN : turning)
      cosSin(turned, 0)
      const x = dynamics.centre.data[2 * body]
      const y = dynamics.centre.data[2 * body + 1]
      place.data[2 * body] = centre[0] + bodies[at + DX] - turned[1] * x + turned[2] * y
      place.data[2 * body + 1] = centre[1] + bodies[at + DY] - turned[2] * x - turned[1] * y
      poses.clampPlace(body)
      for (let k = 0; k < 3; k++) turn.data[3 * body + k] = turned[k]
      let reach = 0
      for (let c = population.first(body); c >= 0; c = population.next(c)) {
        if (geometry.reach.data[c] > reach) reach = geometry.reach.data[c]
      }
      const vx = bodies[at + VX]
      const vy = bodies[at + VY]
      speeds[0] = Math.sqrt(vx * vx + vy * vy)
      speeds[1] = Math.abs(bodies[at + SPIN]) * reach
      this.sleep.count(body, speeds, dynamics.maySleep.data[body] !== 0, this.dt)
      moved(body)
    }
  }

  /** What fell asleep in the last tick moves no more. */
  restFallen(): void {
    const { fallen } = this.sleep
    for (let i = 0; i < fallen.length; i++) this.poses.resetMotion(fallen.data[i])
    fallen.clear()
  }
}
