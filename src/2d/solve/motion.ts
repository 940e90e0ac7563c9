/** How dynamic bodies of 2D move within a tick: velocities, rows and contacts. The way of it stands in `core/solve/motion.ts`. */

import { DAMPING, GRAVITY_SCALE, SPIN_DAMPING } from '../../core/solve/dynamics.ts'
import { MOST_TURN, MotionCore, type MotionCoreSetup } from '../../core/solve/motion.ts'
import { SubstepLoop } from '../../core/solve/substeps.ts'
import { DYNAMIC } from '../../core/state/population.ts'
import { ANY_DISTANCE, ONE_WAY_COSINE } from '../../core/step/kernel.ts'
import { SPEED } from '../../core/util/limits.ts'
import { cosSin } from '../../core/util/maths.ts'
import type { Distances2 } from '../distances.ts'
import type { Geometry } from '../geometry.ts'
import { GAP_SIZE, NORMAL } from '../narrow/records.ts'
import type { Poses } from '../poses.ts'
import { AT, AX, AY, BODY, BodyRows2, DX, DY, IX, SLOW, SLOW_SPIN, SPIN, TURN, VX, VY } from './bodyRows.ts'
import { ContactRows } from './contactRows.ts'
import { Contacts } from './contacts.ts'
import type { Dynamics } from './dynamics.ts'

/** What the motion of bodies works on. */
export interface MotionSetup extends MotionCoreSetup<Dynamics> {
  readonly poses: Poses
  readonly geometry: Geometry
  readonly distances: Distances2
  /** The direction (about the body) towards which a collider lets pass; zero for none. */
  readonly oneWay: { data: Float64Array }
}

export class Motion extends MotionCore<Dynamics, Contacts> {
  override readonly contacts: Contacts
  override readonly solver: SubstepLoop
  readonly contactRows: ContactRows
  readonly bodyRows = new BodyRows2()
  private readonly oneWay: { data: Float64Array }
  private readonly centre = new Float64Array(2)
  private readonly turned = new Float64Array(3)
  private readonly slowness = new Float64Array(2)
  private readonly poses: Poses
  private readonly geometry: Geometry
  private readonly distances: Distances2
  private readonly record = new Float64Array(GAP_SIZE)

  constructor(setup: MotionSetup) {
    super(setup, { axes: 2, speeds: 3 })
    const { population, pairs, poses, geometry, distances, surfaces, oneWay } = setup
    const { dt, unit } = setup.scale
    const { bodyRows } = this
    this.poses = poses
    this.geometry = geometry
    this.distances = distances
    this.oneWay = oneWay
    this.contacts = new Contacts(population, pairs, geometry, distances, unit)
    const { contacts } = this
    this.contactRows = new ContactRows({
      population,
      pairs,
      contacts,
      bodyRows,
      surfaces,
      source: this,
      books: this,
      dt,
      unit,
    })
    this.solver = new SubstepLoop(bodyRows, [this.contactRows], unit)
  }

  protected override readKinematic(body: number): boolean {
    const { data } = this.startVelocity
    if (!this.poses.readKinematicVelocity(body, this.dt, data, 3 * body)) return false
    for (let k = 0; k < 3; k++) this.predicted[k] = data[3 * body + k] * this.dt
    return true
  }

  protected override readDynamic(body: number): void {
    const { startVelocity, gravity, dynamics, predicted, dt } = this
    const { velocity } = this.poses
    const at = 3 * body
    for (let k = 0; k < 3; k++) startVelocity.data[at + k] = velocity.data[at + k]
    const scale = dynamics.tuning.data[at + GRAVITY_SCALE] * dt
    predicted[0] = (startVelocity.data[at] + gravity[0] * scale) * dt
    predicted[1] = (startVelocity.data[at + 1] + gravity[1] * scale) * dt
    predicted[2] = startVelocity.data[at + 2] * dt
  }

  protected override comingTogether(pair: number, a: number, b: number, out: Float64Array): void {
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

  protected override passesOneWay(ledge: number, other: number): boolean {
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

  protected override clearRows(): void {
    const { bodyRows } = this
    bodyRows.clear()
    bodyRows.most[0] = SPEED * this.unit
    bodyRows.most[1] = MOST_TURN / this.dt
  }

  protected override addRow(body: number): number {
    const { bodyRows, dynamics, startVelocity, gravity, population } = this
    const row = bodyRows.add()
    const { data: bodies } = bodyRows
    const at = BODY * row
    for (let k = 0; k < 3; k++) bodies[at + VX + k] = startVelocity.data[3 * body + k]
    if (population.type.data[body] !== DYNAMIC) return row
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
    return row
  }

  override centreOf(body: number, out: Float64Array, at: number): void {
    const { poses, dynamics } = this
    const x = dynamics.centre.data[2 * body]
    const y = dynamics.centre.data[2 * body + 1]
    const cos = poses.turn.data[3 * body + 1]
    const sin = poses.turn.data[3 * body + 2]
    out[at] = poses.place.data[2 * body] + cos * x - sin * y
    out[at + 1] = poses.place.data[2 * body + 1] + sin * x + cos * y
  }

  protected override readRow(body: number, row: number): void {
    const { bodyRows, poses, dynamics, centre, turned, geometry, population, slowness } = this
    const { data: bodies } = bodyRows
    const at = BODY * row
    const { velocity, place, turn } = poses
    this.centreOf(body, centre, 0)
    for (let k = 0; k < 3; k++) velocity.data[3 * body + k] = bodies[at + VX + k]
    poses.clampSpeed(body, bodyRows.most)
    const turning = bodies[at + TURN]
    const most = bodyRows.most[1] * this.dt
    turned[0] = turn.data[3 * body] + (turning > most ? most : turning < -most ? -most : turning)
    cosSin(turned, 0)
    const x = dynamics.centre.data[2 * body]
    const y = dynamics.centre.data[2 * body + 1]
    place.data[2 * body] = centre[0] + bodies[at + DX] - turned[1] * x + turned[2] * y
    place.data[2 * body + 1] = centre[1] + bodies[at + DY] - turned[2] * x - turned[1] * y
    poses.clampPlace(body)
    for (let k = 0; k < 3; k++) turn.data[3 * body + k] = turned[k]
    // In the array, for a double that lives through a loop may be boxed.
    slowness[1] = 0
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      if (geometry.reach.data[c] > slowness[1]) slowness[1] = geometry.reach.data[c]
    }
    const vx = bodies[at + VX]
    const vy = bodies[at + VY]
    slowness[0] = Math.sqrt(vx * vx + vy * vy)
    slowness[1] *= Math.abs(bodies[at + SPIN])
    this.sleep.count(body, slowness, dynamics.maySleep.data[body] !== 0)
  }

  protected override resetMotion(body: number): void {
    this.poses.resetMotion(body)
  }

  protected override stop(body: number): void {
    this.poses.velocity.data.fill(0, 3 * body, 3 * body + 3)
    this.startVelocity.data.fill(0, 3 * body, 3 * body + 3)
  }
}
