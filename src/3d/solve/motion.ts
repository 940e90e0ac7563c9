/** How dynamic bodies of 3D move within a tick: velocities, rows and contacts. The way of it stands in `core/solve/motion.ts`. */
import { DAMPING, GRAVITY_SCALE, SPIN_DAMPING, TUNING } from '../../core/solve/dynamics.ts'
import { MOST_TURN, MotionCore, type MotionCoreSetup } from '../../core/solve/motion.ts'
import { SubstepLoop } from '../../core/solve/substeps.ts'
import { DYNAMIC } from '../../core/state/population.ts'
import { ANY_DISTANCE, ONE_WAY_COSINE } from '../../core/step/kernel.ts'
import { SPEED } from '../../core/util/limits.ts'
import type * as places from '../../core/util/places.ts'
import type { Distances3 } from '../distances.ts'
import type { Geometry } from '../geometry.ts'
import { GAP_SIZE, NORMAL } from '../narrow/records.ts'
import type { Poses } from '../poses.ts'
import { multiply, normalise } from '../vector.ts'
import {
  AX,
  BODY,
  BodyRows3,
  DX,
  IX,
  JX,
  MX,
  PX,
  QX,
  SLOW,
  SLOW_SPIN,
  SX,
  TURN_LOCKED,
  TX,
  VX,
  WX,
} from './bodyRows.ts'
import { ContactRows3 } from './contactRows.ts'
import { Contacts3 } from './contacts.ts'
import { type Dynamics3, LOCK_TURN_X, TENSOR } from './dynamics.ts'

const PLACE: typeof places.PLACE = 0x3fffffff

/** What the motion of bodies works on. */
export interface MotionSetup extends MotionCoreSetup<Dynamics3> {
  readonly poses: Poses
  readonly geometry: Geometry
  readonly distances: Distances3
  /** The direction (about the body) towards which a collider lets pass; zero for none. */
  readonly oneWay: { data: Float64Array }
}

export class Motion3 extends MotionCore<Dynamics3, Contacts3> {
  override readonly contacts: Contacts3
  override readonly solver: SubstepLoop
  readonly contactRows: ContactRows3
  readonly bodyRows = new BodyRows3()
  private readonly oneWay: { data: Float64Array }
  private readonly centre = new Float64Array(3)
  private readonly pose = new Float64Array(7)
  private readonly slowness = new Float64Array(2)
  /** Of the one or two bodies in question; in an array, for a double that a call returns may be boxed. */
  private readonly spins = new Float64Array(2)
  private readonly open = new Float64Array(3)
  private readonly inverse = new Float64Array(TENSOR)
  private readonly axes = new Float64Array(9)
  private readonly poses: Poses
  private readonly geometry: Geometry
  private readonly distances: Distances3
  private readonly record = new Float64Array(GAP_SIZE)

  constructor(setup: MotionSetup) {
    super(setup, { axes: 3, speeds: 6 })
    const { population, pairs, poses, geometry, distances, surfaces, oneWay } = setup
    const { dt, unit } = setup.scale
    const { bodyRows } = this
    this.poses = poses
    this.geometry = geometry
    this.distances = distances
    this.oneWay = oneWay
    this.contacts = new Contacts3(population, pairs, geometry, distances, unit)
    const { contacts } = this
    this.contactRows = new ContactRows3({
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
    if (!this.poses.readKinematicVelocity(body, this.dt, data, 6 * body)) return false
    for (let k = 0; k < 3; k++) this.predicted[k] = data[6 * body + k] * this.dt
    this.readSpin(body, 0)
    this.predicted[3] = this.spins[0] * this.dt
    return true
  }

  protected override readDynamic(body: number): void {
    const { startVelocity, gravity, dynamics, predicted, dt } = this
    const { velocity } = this.poses
    for (let k = 0; k < 6; k++) startVelocity.data[6 * body + k] = velocity.data[6 * body + k]
    const scale = dynamics.tuning.data[TUNING * body + GRAVITY_SCALE] * dt
    for (let k = 0; k < 3; k++) predicted[k] = (startVelocity.data[6 * body + k] + gravity[k] * scale) * dt
    this.readSpin(body, 0)
    predicted[3] = this.spins[0] * dt
  }

  /** Reads the radians a second at which a body sets out. */
  private readSpin(body: number, to: number): void {
    const { data } = this.startVelocity
    const at = 6 * body + 3
    this.spins[to] = Math.sqrt(data[at] * data[at] + data[at + 1] * data[at + 1] + data[at + 2] * data[at + 2])
  }

  protected override comingTogether(pair: number, a: number, b: number, out: Float64Array): void {
    const { startVelocity, pairs, gravity, spins } = this
    const { data } = startVelocity
    const { turnReach: reach } = this.geometry
    const vx = data[6 * a] - data[6 * b]
    const vy = data[6 * a + 1] - data[6 * b + 1]
    const vz = data[6 * a + 2] - data[6 * b + 2]
    let most = Math.sqrt(vx * vx + vy * vy + vz * vz)
    // What does not turn may be endless.
    this.readSpin(a, 0)
    this.readSpin(b, 1)
    if (spins[0] !== 0) most += spins[0] * reach.data[pairs.a.data[pair]]
    if (spins[1] !== 0) most += spins[1] * reach.data[pairs.b.data[pair]]
    const pull = Math.sqrt(gravity[0] * gravity[0] + gravity[1] * gravity[1] + gravity[2] * gravity[2])
    out[0] = most + pull * this.dt
  }

  protected override passesOneWay(ledge: number, other: number): boolean {
    const { population, poses, startVelocity, open, record } = this
    const { data: way } = this.oneWay
    const x = way[3 * ledge]
    const y = way[3 * ledge + 1]
    const z = way[3 * ledge + 2]
    if (x === 0 && y === 0 && z === 0) return false
    const { body } = population.filter
    const own = body.data[ledge]
    const its = body.data[other]
    const { matrix } = poses
    const { data } = startVelocity
    let along = 0
    for (let i = 0; i < 3; i++) {
      const m = 9 * own + 3 * i
      open[i] = matrix.data[m] * x + matrix.data[m + 1] * y + matrix.data[m + 2] * z
      along += open[i] * (data[6 * its + i] - data[6 * own + i])
    }
    if (along > this.touch) return true
    // Where they are nearest, the other must be on the side to which the ledge holds.
    this.distances.between(ledge, other, ANY_DISTANCE, record)
    const side = record[NORMAL] * open[0] + record[NORMAL + 1] * open[1] + record[NORMAL + 2] * open[2]
    return side < ONE_WAY_COSINE
  }

  protected override clearRows(): void {
    const { bodyRows } = this
    bodyRows.clear()
    bodyRows.most[0] = SPEED * this.unit
    bodyRows.most[1] = MOST_TURN / this.dt
  }

  protected override addRow(body: number): number {
    const { bodyRows, dynamics, startVelocity, gravity, population, inverse, axes } = this
    const row = bodyRows.add()
    const { data: bodies } = bodyRows
    const at = BODY * row
    for (let k = 0; k < 6; k++) bodies[at + VX + k] = startVelocity.data[6 * body + k]
    if (population.type.data[body] !== DYNAMIC) return row
    const force = dynamics.force.data
    const tuning = dynamics.tuning.data
    const scale = tuning[TUNING * body + GRAVITY_SCALE]
    for (let k = 0; k < 3; k++) {
      const along = dynamics.inverse.data[3 * body + k]
      bodies[at + IX + k] = along
      bodies[at + AX + k] = (along > 0 ? gravity[k] * scale : 0) + force[6 * body + k] * along
      bodies[at + TX + k] = force[6 * body + 3 + k]
      bodies[at + MX + k] = dynamics.inverseMoments.data[3 * body + k]
    }
    this.inverseInertia(body, inverse)
    for (let k = 0; k < 9; k++) bodies[at + PX + k] = axes[k]
    for (let k = 0; k < TENSOR; k++) bodies[at + SX + k] = bodies[at + JX + k] = inverse[k]
    bodies[at + TURN_LOCKED] = dynamics.locks.data[body] >= LOCK_TURN_X ? 1 : 0
    bodies[at + SLOW] = tuning[TUNING * body + DAMPING]
    bodies[at + SLOW_SPIN] = tuning[TUNING * body + SPIN_DAMPING]
    for (let k = 0; k < 6; k++) force[6 * body + k] = 0
    return row
  }

  /** Writes the principal axes of a body about the world to {@link axes}, as the columns of a matrix. */
  private writeAxes(body: number): void {
    const { axes } = this
    const { data: turn } = this.poses.matrix
    const { data: own } = this.dynamics.principal
    const at = (9 * body) & PLACE
    for (let i = 0; i < 9; i += 3) {
      const x = turn[at + i]
      const y = turn[at + i + 1]
      const z = turn[at + i + 2]
      axes[i] = x * own[at] + y * own[at + 3] + z * own[at + 6]
      axes[i + 1] = x * own[at + 1] + y * own[at + 4] + z * own[at + 7]
      axes[i + 2] = x * own[at + 2] + y * own[at + 5] + z * own[at + 8]
    }
  }

  /** Writes the inverse inertia of a body about the world's axes; about what it is locked in it does not turn. */
  inverseInertia(body: number, out: Float64Array): void {
    const { dynamics, axes } = this
    const { data: moments } = dynamics.inverseMoments
    this.writeAxes(body)
    const locked = Math.floor(dynamics.locks.data[body] / LOCK_TURN_X)
    out.fill(0)
    for (let j = 0; j < 3; j++) {
      let moment = moments[3 * body + j]
      if (locked !== 0 && moment !== 0) moment = 1 / moment
      const x = axes[j]
      const y = axes[3 + j]
      const z = axes[6 + j]
      out[0] += x * x * moment
      out[1] += y * y * moment
      out[2] += z * z * moment
      out[3] += x * y * moment
      out[4] += x * z * moment
      out[5] += y * z * moment
    }
    if (locked !== 0) invertFree(out, locked)
  }

  override centreOf(body: number, out: Float64Array, at: number): void {
    const { place, matrix } = this.poses
    const { data: centre } = this.dynamics.centre
    const x = centre[3 * body]
    const y = centre[3 * body + 1]
    const z = centre[3 * body + 2]
    for (let i = 0; i < 3; i++) {
      const m = 9 * body + 3 * i
      out[at + i] = place.data[3 * body + i] + matrix.data[m] * x + matrix.data[m + 1] * y + matrix.data[m + 2] * z
    }
  }

  protected override readRow(body: number, row: number): void {
    const { bodyRows, poses, dynamics, centre, geometry, population, slowness, pose } = this
    const { data: bodies } = bodyRows
    const at = BODY * row
    const { velocity } = poses
    for (let k = 0; k < 6; k++) velocity.data[6 * body + k] = bodies[at + VX + k]
    poses.clampSpeed(body, bodyRows.most)
    this.centreOf(body, centre, 0)
    for (let k = 0; k < 3; k++) centre[k] += bodies[at + DX + k]
    multiply(bodies, at + QX, poses.rotation.data, 4 * body, pose, 3)
    normalise(pose, 3)
    this.setAbout(body, centre, pose)
    poses.measureTurn(body)
    // In the array, for a double that lives through a loop may be boxed.
    slowness[1] = 0
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      if (geometry.reach.data[c] > slowness[1]) slowness[1] = geometry.reach.data[c]
    }
    const vx = bodies[at + VX]
    const vy = bodies[at + VX + 1]
    const vz = bodies[at + VX + 2]
    const wx = bodies[at + WX]
    const wy = bodies[at + WX + 1]
    const wz = bodies[at + WX + 2]
    slowness[0] = Math.sqrt(vx * vx + vy * vy + vz * vz)
    slowness[1] *= Math.sqrt(wx * wx + wy * wy + wz * wz)
    this.sleep.count(body, slowness, dynamics.maySleep.data[body] !== 0)
  }

  /** Puts a body where its centre of mass is at a place; its quaternion stands in `pose`, behind room for the place. */
  setAbout(body: number, centre: Float64Array, pose: Float64Array): void {
    const { poses } = this
    const { data: own } = this.dynamics.centre
    for (let k = 0; k < 3; k++) pose[k] = centre[k]
    poses.set(body, pose)
    const x = own[3 * body]
    const y = own[3 * body + 1]
    const z = own[3 * body + 2]
    if (x !== 0 || y !== 0 || z !== 0) {
      const { matrix, place } = poses
      for (let i = 0; i < 3; i++) {
        const m = 9 * body + 3 * i
        place.data[3 * body + i] -= matrix.data[m] * x + matrix.data[m + 1] * y + matrix.data[m + 2] * z
      }
    }
    poses.clampPlace(body)
  }

  protected override resetMotion(body: number): void {
    this.poses.resetMotion(body)
  }

  protected override stop(body: number): void {
    this.poses.velocity.data.fill(0, 6 * body, 6 * body + 6)
    this.startVelocity.data.fill(0, 6 * body, 6 * body + 6)
  }
}

/** Inverts a tensor about the axes that are free, of which at least one is not; what belongs to the others becomes 0. */
function invertFree(t: Float64Array, locked: number): void {
  const x = (locked & 1) === 0
  const y = (locked & 2) === 0
  const z = (locked & 4) === 0
  const xx = t[0]
  const yy = t[1]
  const zz = t[2]
  const xy = x && y ? t[3] : 0
  const xz = x && z ? t[4] : 0
  const yz = y && z ? t[5] : 0
  const one = x && y ? xx * yy - xy * xy : x && z ? xx * zz - xz * xz : yy * zz - yz * yz
  const two = (x ? 1 : 0) + (y ? 1 : 0) + (z ? 1 : 0) === 2
  t[0] = !x ? 0 : two ? (y ? yy : zz) / one : 1 / xx
  t[1] = !y ? 0 : two ? (x ? xx : zz) / one : 1 / yy
  t[2] = !z ? 0 : two ? (x ? xx : yy) / one : 1 / zz
  t[3] = two && x && y ? -xy / one : 0
  t[4] = two && x && z ? -xz / one : 0
  t[5] = two && y && z ? -yz / one : 0
}
