/**
 * How dynamic bodies move within a tick: which pairs touch at its start or may come to touch, what the solver makes of them, who
 * falls asleep and who wakes. The stages of `core/tick.ts` call it through `2d/space.ts`.
 */

import { PASS, SOLID } from '../../core/filter/filter.ts'
import { Islands } from '../../core/solve/islands.ts'
import { BODY_DEAD, BODY_ENABLED, DYNAMIC, KINEMATIC, type Population } from '../../core/state/population.ts'
import { IntList } from '../../core/state/table.ts'
import { type Pairs, STALE } from '../../core/step/pairs.ts'
import { SPEED } from '../../core/util/limits.ts'
import { cosSin } from '../../core/util/maths.ts'
import type { Distances2 } from '../distances.ts'
import type { Geometry } from '../geometry.ts'
import { GAP_SIZE, NORMAL } from '../narrow/records.ts'
import type { Poses } from '../poses.ts'
import { CONTACT_WORDS, Contacts, POINT_GAP, POINT_WORDS, POINT_X, POINT_Y } from './contacts.ts'
import type { Dynamics } from './dynamics.ts'
import { FRICTION, RESTITUTION, SURFACE_SIZE, SURFACE_SPEED } from './dynamics.ts'
import { BODY, Solver } from './solver.ts'

/** Lengths a second (times the unit) below which a body is slow: its motion, and its outermost point by its spin. */
const SLOW = 0.05
/** Radians that a dynamic body turns in a tick at most: half a turn. */
const MOST_TURN = Math.PI
/** Sine of the angle by which a one-way collider may be met aslant. */
const ASLANT = 0.5

/** Lengths a second (times the unit), and radians a second, by which bodies may differ that move alike. */
const ALIKE = 0.001

/** Any distance. */
const ENDLESS = Float64Array.of(Infinity)

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
  /** The normal of each solid pair, and where it was last pressed: two numbers each. */
  readonly normal: { data: Float64Array }
  readonly metAt: { data: Float64Array }
  readonly scale: Scale
}

export class Motion {
  readonly islands: Islands
  readonly contacts: Contacts
  readonly solver: Solver
  readonly dynamics: Dynamics
  /** x, y in lengths a second squared. */
  readonly gravity = new Float64Array(2)
  /** Velocity of each mover as the tick begins. */
  readonly pace
  /** The step in which a pair was last pressed, and when within it. */
  readonly pressed
  readonly pressedWhen
  /** Where a pair was last pressed: x, y. */
  readonly metAt: { data: Float64Array }
  /** The step in which a pair was met on the way. */
  readonly swept
  /** Dynamic bodies that exist. */
  count = 0
  /** How far a body is expected to come in this tick: x, y, turn. */
  readonly way = new Float64Array(3)
  /** Kinematic bodies that move in this tick. */
  readonly driven = new IntList()
  private readonly visited
  /** Friction, restitution and surface speed that a hook has set for a pair; and whether one has. */
  private readonly surface
  private readonly surfaceSet
  /** Row of a body in the solver, in this tick. */
  private readonly row
  private readonly slept = new IntList()
  private readonly within = new Float64Array(1)
  private readonly centres = new Float64Array(6)
  private readonly mixed = new Float64Array(3)
  private readonly sums = new Float64Array(3)
  private readonly turned = new Float64Array(3)
  private readonly population: Population<object, object>
  private readonly pairs: Pairs
  private readonly poses: Poses
  private readonly geometry: Geometry
  private readonly normal: { data: Float64Array }
  private readonly distances: Distances2
  private readonly record = new Float64Array(GAP_SIZE)
  private readonly touch: number
  /** Seconds a tick. */
  private readonly dt: number
  private readonly unit: number
  /** Whether two bodies that are not dynamic stand or move alike. */
  readonly alike = (a: number, b: number): boolean => {
    if (a === b) return true
    const { data } = this.pace
    for (let k = 0; k < 3; k++) if (Math.abs(data[3 * a + k] - data[3 * b + k]) > ALIKE * this.unit) return false
    return true
  }
  private readonly isGround = (body: number): boolean => this.population.type.data[body] !== DYNAMIC

  constructor(setup: MotionSetup) {
    const { population, pairs, poses, geometry, distances, dynamics, normal, metAt, scale } = setup
    const { touch, unit, dt } = scale
    this.dt = dt
    this.population = population
    this.pairs = pairs
    this.poses = poses
    this.geometry = geometry
    this.distances = distances
    this.metAt = metAt
    this.dynamics = dynamics
    this.normal = normal
    this.touch = touch
    this.unit = unit
    this.islands = new Islands(population.bodies)
    this.contacts = new Contacts(population, pairs, geometry, distances, unit)
    this.solver = new Solver(unit)
    this.pace = population.bodies.f64(3)
    this.row = population.bodies.i32()
    this.pressed = pairs.table.i32()
    this.pressedWhen = pairs.table.f64()
    this.swept = pairs.table.i32()
    this.visited = pairs.table.i32()
    this.surface = pairs.table.f64(3)
    this.surfaceSet = pairs.table.i32()
  }

  /** A body that is dynamic from now on. */
  enter(body: number): void {
    this.count++
    this.islands.enter(body)
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
    for (let k = 0; k < 3; k++) this.pace.data[3 * body + k] = 0
    this.count--
    this.islands.leave(body)
  }

  wake(body: number): void {
    if (this.population.type.data[body] === DYNAMIC && this.population.bodyAlive(body)) this.islands.wake(body)
  }

  /** Two begin to hold each other, or cease to: what slept on that wakes. */
  wakePair(pair: number): void {
    if (this.count === 0) return
    const { body } = this.population.filter
    const a = body.data[this.pairs.a.data[pair]]
    const b = body.data[this.pairs.b.data[pair]]
    // What is awake keeps its patience: in a pile that comes to rest touches come and go.
    if (this.islands.isAwake.data[a] === 0) this.wake(a)
    if (this.islands.isAwake.data[b] === 0) this.wake(b)
  }

  wakeAll(): void {
    const { population } = this
    if (this.count === 0) return
    for (let body = 0; body < population.bodies.size; body++) {
      if (population.type.data[body] === DYNAMIC && this.exists(body)) this.islands.wake(body)
    }
  }

  /** Wakes what touches a collider, and its own body. */
  disturb(c: number): void {
    if (this.count === 0) return
    const { pairs, population } = this
    const { body } = population.filter
    this.wake(body.data[c])
    for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
      const pair = edge >> 1
      if (pairs.state.data[pair] !== SOLID && this.contacts.first(pair) < 0) continue
      this.wake(body.data[(edge & 1) === 0 ? pairs.b.data[pair] : pairs.a.data[pair]])
    }
  }

  /** Before the pairs are looked for: how fast everything sets out. `foreseen` hears of each mover, with its way in {@link way}. */
  foresee(foreseen: (body: number) => void): void {
    const { population, poses, pace, driven, islands, gravity, dynamics, way } = this
    const { dt } = this
    driven.clear()
    const { type } = population
    for (let body = 0; body < population.bodies.size; body++) {
      if (type.data[body] !== KINEMATIC || !this.moves(body)) continue
      if (!poses.drive(body, dt, pace.data, 3 * body)) continue
      driven.push(body)
      for (let k = 0; k < 3; k++) way[k] = pace.data[3 * body + k] * dt
      foreseen(body)
    }
    const { awake } = islands
    const { velocity } = poses
    for (let i = 0; i < awake.length; i++) {
      const body = awake.data[i]
      if (!this.moves(body)) continue
      const at = 3 * body
      for (let k = 0; k < 3; k++) pace.data[at + k] = velocity.data[at + k]
      const scale = dynamics.tuning.data[at] * dt
      way[0] = (pace.data[at] + gravity[0] * scale) * dt
      way[1] = (pace.data[at + 1] + gravity[1] * scale) * dt
      way[2] = pace.data[at + 2] * dt
      foreseen(body)
    }
  }

  /** Finds the contacts of all that moves, at the start poses. What is touched by something awake wakes, and is looked at too. */
  findContacts(now: number): void {
    const { islands, driven, contacts, dynamics } = this
    const { awake } = islands
    for (let i = 0; i < driven.length; i++) this.visitAll(driven.data[i], now)
    for (let i = 0; i < awake.length; i++) if (this.moves(awake.data[i])) this.visitAll(awake.data[i], now)
    for (let i = 0; i < awake.length; i++) {
      contacts.findSeams(awake.data[i], dynamics.slender.data, this.isGround, this.alike)
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
      dynamicA ? dynamics.slender.data[a] : Infinity,
      dynamicB ? dynamics.slender.data[b] : Infinity,
    )
    this.comingTogether(pair, a, b, within)
    within[0] = 2 * touch + Math.min(within[0] * this.dt, 0.5 * slender)
    if (contacts.update(pair, within, now) === 0) return
    if (dynamicA && this.islands.isAwake.data[a] === 0) this.islands.wake(a)
    if (dynamicB && this.islands.isAwake.data[b] === 0) this.islands.wake(b)
    const deepest = contacts.deepest(pair)
    this.normal.data[2 * pair] = contacts.normal.data[2 * deepest]
    this.normal.data[2 * pair + 1] = contacts.normal.data[2 * deepest + 1]
    if (pairs.asking && (pairs.answer.data[pair] === 0 || pairs.askEvery)) pairs.asked.push(pair)
  }

  /** Writes an upper bound of the speed at which two colliders come together, by what the tick begins with. */
  private comingTogether(pair: number, a: number, b: number, out: Float64Array): void {
    const { pace, pairs } = this
    const { data } = pace
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
    const response = Math.min(pairs.response.data[pair], pairs.allowed(pair))
    if (response !== SOLID || pairs.state.data[pair] === SOLID) return response
    if (!this.passesOneWay(one, other) && !this.passesOneWay(other, one)) return response
    pairs.through.data[pair] = 1
    return PASS
  }

  /** Whether a one-way collider lets another one through: it comes the way that is open, or is not on the far side yet. */
  private passesOneWay(ledge: number, other: number): boolean {
    const { dynamics, population, poses, pace } = this
    const dx = dynamics.oneWay.data[2 * ledge]
    const dy = dynamics.oneWay.data[2 * ledge + 1]
    if (dx === 0 && dy === 0) return false
    const { body } = population.filter
    const own = body.data[ledge]
    const its = body.data[other]
    const cos = poses.turn.data[3 * own + 1]
    const sin = poses.turn.data[3 * own + 2]
    const x = cos * dx - sin * dy
    const y = sin * dx + cos * dy
    const { data } = pace
    const along = (data[3 * its] - data[3 * own]) * x + (data[3 * its + 1] - data[3 * own + 1]) * y
    if (along > this.touch) return true
    // Where they are nearest, the other must be on the side to which the ledge holds.
    this.distances.between(ledge, other, ENDLESS, this.record)
    return this.record[NORMAL] * x + this.record[NORMAL + 1] * y < ASLANT
  }

  readSurface(pair: number, out: Float64Array): void {
    const { surface, surfaceSet, dynamics, pairs } = this
    if (surfaceSet.data[pair] !== 0) {
      for (let i = 0; i < 3; i++) out[i] = surface.data[3 * pair + i]
      return
    }
    const { data } = dynamics.surface
    const a = SURFACE_SIZE * pairs.a.data[pair]
    const b = SURFACE_SIZE * pairs.b.data[pair]
    out[0] = Math.sqrt(data[a + FRICTION] * data[b + FRICTION])
    out[1] = Math.max(data[a + RESTITUTION], data[b + RESTITUTION])
    out[2] = data[a + SURFACE_SPEED] + data[b + SURFACE_SPEED]
  }

  writeSurface(pair: number, from: Float64Array): void {
    this.surfaceSet.data[pair] = 1
    for (let i = 0; i < 3; i++) this.surface.data[3 * pair + i] = from[i]
  }

  /** What a hook has set is forgotten when the two part. */
  forgetSurface(pair: number): void {
    this.surfaceSet.data[pair] = 0
  }

  /** Solves the contacts and moves every dynamic body that is awake. `moved` hears of each, after it was put in its new place. */
  solve(now: number, moved: (body: number) => void): void {
    const { islands, solver, driven } = this
    const { awake } = islands
    if (awake.length === 0) return
    solver.clear()
    for (let i = 0; i < driven.length; i++) this.addRow(driven.data[i])
    for (let i = 0; i < awake.length; i++) if (this.moves(awake.data[i])) this.addRow(awake.data[i])
    this.addContacts()
    solver.time[0] = this.dt
    solver.most[0] = SPEED * this.unit
    solver.most[1] = MOST_TURN / this.dt
    solver.run()
    this.readBack(moved)
    this.readImpulses(now)
    for (let i = 0; i < driven.length; i++) this.row.data[driven.data[i]] = 0
    this.settle()
  }

  private addRow(body: number): void {
    const { solver, dynamics, pace, gravity, population } = this
    const row = solver.addBody()
    this.row.data[body] = row
    const { bodies } = solver
    const at = BODY * row
    for (let k = 0; k < 3; k++) bodies[at + k] = pace.data[3 * body + k]
    if (population.type.data[body] !== DYNAMIC) return
    const inverse = dynamics.inverse.data
    const force = dynamics.force.data
    const tuning = dynamics.tuning.data
    for (let k = 0; k < 3; k++) bodies[at + 6 + k] = inverse[3 * body + k]
    const scale = tuning[3 * body]
    bodies[at + 9] = (inverse[3 * body] > 0 ? gravity[0] * scale : 0) + force[3 * body] * inverse[3 * body]
    bodies[at + 10] = (inverse[3 * body + 1] > 0 ? gravity[1] * scale : 0) + force[3 * body + 1] * inverse[3 * body + 1]
    bodies[at + 11] = force[3 * body + 2] * inverse[3 * body + 2]
    bodies[at + 12] = tuning[3 * body + 1]
    bodies[at + 13] = tuning[3 * body + 2]
    for (let k = 0; k < 3; k++) force[3 * body + k] = 0
  }

  private addContacts(): void {
    const { contacts, solver, pairs, population, centres, mixed } = this
    const { list } = contacts
    const { body } = population.filter
    for (let i = 0; i < list.length; i++) {
      const contact = list.data[i]
      if (contacts.seam.data[contact] !== 0) continue
      const pair = contacts.pair.data[contact]
      if (pair < 0 || this.responseOf(pair) !== SOLID) continue
      const a = body.data[pairs.a.data[pair]]
      const b = body.data[pairs.b.data[pair]]
      const rowA = this.rowOf(a)
      const rowB = this.rowOf(b)
      this.centreOf(a, centres, 0)
      this.centreOf(b, centres, 2)
      centres[4] = contacts.radiusOf(contacts.pieceA.data[contact])
      centres[5] = contacts.radiusOf(contacts.pieceB.data[contact])
      this.readSurface(pair, mixed)
      solver.addContact(
        contact,
        rowA,
        rowB,
        contacts.count.data[contact],
        contacts.normal.data,
        2 * contact,
        contacts.points.data,
        CONTACT_WORDS * contact,
        centres,
        mixed,
      )
    }
  }

  private rowOf(body: number): number {
    const { population, islands, row } = this
    if (population.type.data[body] === DYNAMIC) {
      return islands.isAwake.data[body] !== 0 && this.moves(body) ? row.data[body] : 0
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
    const { islands, solver, poses, row, dynamics, centres, turned, geometry, population } = this
    const { awake, still } = islands
    const { bodies } = solver
    const slow = SLOW * this.unit
    const speedBound = SPEED * this.unit
    for (let i = 0; i < awake.length; i++) {
      const body = awake.data[i]
      poses.rest(body)
      if (!this.moves(body)) continue
      const at = BODY * row.data[body]
      const { velocity, place, turn } = poses
      this.centreOf(body, centres, 0)
      for (let k = 0; k < 3; k++) velocity.data[3 * body + k] = bodies[at + k]
      poses.holdSpeed(body, speedBound, MOST_TURN / this.dt)
      const turning = bodies[at + 5]
      turned[0] = turn.data[3 * body] + (turning > MOST_TURN ? MOST_TURN : turning < -MOST_TURN ? -MOST_TURN : turning)
      cosSin(turned, 0)
      const x = dynamics.centre.data[2 * body]
      const y = dynamics.centre.data[2 * body + 1]
      place.data[2 * body] = centres[0] + bodies[at + 3] - turned[1] * x + turned[2] * y
      place.data[2 * body + 1] = centres[1] + bodies[at + 4] - turned[2] * x - turned[1] * y
      poses.hold(body)
      for (let k = 0; k < 3; k++) turn.data[3 * body + k] = turned[k]
      let reach = 0
      for (let c = population.first(body); c >= 0; c = population.next(c)) {
        if (geometry.reach.data[c] > reach) reach = geometry.reach.data[c]
      }
      const speed = Math.sqrt(bodies[at] * bodies[at] + bodies[at + 1] * bodies[at + 1])
      const restless = speed > slow || Math.abs(bodies[at + 2]) * reach > slow || dynamics.sleepy.data[body] === 0
      still.data[body] = restless ? 0 : still.data[body] + this.dt
      moved(body)
    }
  }

  /** Impulses of this tick to the points of the contacts, and summed to their pairs. */
  private readImpulses(now: number): void {
    const { solver, contacts, pairs, sums, pressed } = this
    for (let i = 0; i < solver.count; i++) {
      const contact = solver.links[4 * i + 3]
      const pair = contacts.pair.data[contact]
      sums[0] = pairs.impulse.data[pair]
      sums[1] = pairs.friction.data[pair]
      sums[2] = pairs.closing.data[pair]
      const before = sums[0]
      solver.readImpulses(i, contacts.points.data, CONTACT_WORDS * contact, sums)
      pairs.impulse.data[pair] = sums[0]
      pairs.friction.data[pair] = sums[1]
      pairs.closing.data[pair] = sums[2]
      if (sums[0] > before) {
        if (pressed.data[pair] !== now) this.pressedWhen.data[pair] = this.whenOf(contact, sums[2])
        pressed.data[pair] = now
        const at = CONTACT_WORDS * contact
        this.metAt.data[2 * pair] = contacts.points.data[at + POINT_X]
        this.metAt.data[2 * pair + 1] = contacts.points.data[at + POINT_Y]
        this.normal.data[2 * pair] = contacts.normal.data[2 * contact]
        this.normal.data[2 * pair + 1] = contacts.normal.data[2 * contact + 1]
      }
    }
  }

  /** When in the tick the nearest point of a contact was reached at its speed of coming together. */
  private whenOf(contact: number, closing: number): number {
    const { contacts } = this
    let gap = Infinity
    for (let k = 0; k < contacts.count.data[contact]; k++) {
      gap = Math.min(gap, contacts.points.data[CONTACT_WORDS * contact + POINT_WORDS * k + POINT_GAP])
    }
    if (gap <= 0 || closing <= 0) return 0
    return Math.min(1, gap / (closing * this.dt))
  }

  /** Who touches whom makes islands; those that have been slow for long enough fall asleep. */
  private settle(): void {
    const { islands, solver, contacts, pairs, population, poses, slept, pace } = this
    const { body } = population.filter
    const { type } = population
    islands.part()
    for (let i = 0; i < solver.count; i++) {
      const pair = contacts.pair.data[solver.links[4 * i + 3]]
      const a = body.data[pairs.a.data[pair]]
      const b = body.data[pairs.b.data[pair]]
      if (type.data[a] === DYNAMIC && type.data[b] === DYNAMIC) islands.join(a, b)
      else if (solver.links[4 * i] !== 0 && type.data[a] === KINEMATIC) islands.still.data[b] = 0
      else if (solver.links[4 * i + 1] !== 0 && type.data[b] === KINEMATIC) islands.still.data[a] = 0
    }
    slept.clear()
    islands.settle(slept)
    for (let i = 0; i < slept.length; i++) {
      const at = 3 * slept.data[i]
      for (let k = 0; k < 3; k++) {
        poses.velocity.data[at + k] = 0
        pace.data[at + k] = 0
      }
    }
  }

  /** What fell asleep in the last tick moves no more. */
  restSlept(): void {
    const { slept, poses } = this
    for (let i = 0; i < slept.length; i++) poses.rest(slept.data[i])
    slept.clear()
  }

  /** Whether a body takes part in motion: alive and enabled. */
  private moves(body: number): boolean {
    return (this.population.bodyFlags.data[body] & (BODY_ENABLED | BODY_DEAD)) === BODY_ENABLED
  }

  private exists(body: number): boolean {
    return this.population.bodySerial.data[body] !== 0 && this.population.bodyAlive(body)
  }
}
