/**
 * Contacts of 3D as a kind of constraint: a soft row for every point along the normal, and for the whole contact one of friction across it, bounded
 * as a vector by what presses, and one that resists twisting about it. Then relaxed; restitution once a tick.
 */
import {
  CLOSING,
  ContactKind,
  type ContactKindSetup,
  LINKS,
  POINTS,
  ROW_A,
  ROW_B,
  type RowForm,
  SUM_FRICTION,
  SUM_NORMAL,
} from '../../core/solve/contactKind.ts'
import { CHANGE, SUBSTEP } from '../../core/solve/substeps.ts'
import { PAIR_FRICTION, PAIR_RESTITUTION, PAIR_SPEED, PAIR_SURFACE } from '../../core/solve/surfaces.ts'
import type * as body from './bodyRows.ts'
import type { BodyRows3 } from './bodyRows.ts'
import {
  CONTACT_FORM,
  CONTACT_WORDS,
  type Contacts3,
  FRICTION as FRICTION_WORDS,
  POINT_GAP,
  POINT_WORDS,
  POINT_X,
  TOTAL,
  WARM_NORMAL,
} from './contacts.ts'

const BODY: typeof body.BODY = 56
const VX: typeof body.VX = 0
const WX: typeof body.WX = 3
const DX: typeof body.DX = 6
const RX: typeof body.RX = 9
const IX: typeof body.IX = 18
const JX: typeof body.JX = 21
const AX: typeof body.AX = 27

/**
 * Of a contact: normal, two tangents, friction, restitution, softness (rate, mass, impulse); where friction acts: its arms (r x t) about
 * the centres of A and B for either tangent, and by how much an impulse there turns them; the same of a twist; its mass as an inverse
 * matrix, that of a twist; the wanted speed along the tangents; impulses of the substep, sums of the tick; the radius at which it twists.
 */
const NORMAL = 0
const FIRST = 3
const SECOND = 6
const FRICTION = 9
const RESTITUTION = 10
const RATE = 11
const MASS_PART = 12
const IMPULSE_PART = 13
const ARMS = 14
const TURNS = 26
const TWIST_A = 38
const TWIST_B = 41
const FRICTION_MASS = 44
const TWIST_MASS = 47
const WANTED = 48
const FRICTION_IMPULSE = 50
const TWIST_IMPULSE = 52
const FRICTION_TOTAL = 53
const TWIST_RADIUS = 55
const HEAD = 56
/**
 * Of a point: its arms (r x n) about the centres of A and B; by how much an impulse along the normal turns A and B; its gap now; its mass;
 * impulses of the substep, the greatest, that of the tick; the speed and the gap as the tick begins.
 */
const ARM_A = 0
const ARM_B = 3
const TURN_A = 6
const TURN_B = 9
const GAP = 12
const NORMAL_MASS = 13
const NORMAL_IMPULSE = 14
const MOST = 15
const NORMAL_TOTAL = 16
const SPEED = 17
const GAP_AT_START = 18
const POINT = 19
const ROW = HEAD + 4 * POINT
/** Of a point, kept apart from the rows since only gaps need it: from the centres to where the cores of the two pieces are nearest. */
const CORE_A = 0
const CORE_B = 3
const CORE = 6
const CORES = 4 * CORE

/** Part of the mean radius of a contact at which friction resists a twist: that of an evenly pressed disc. */
const TWIST_PART = 2 / 3
/** What is round touches at a spot that is not quite a point: of this part of its radius. So a ball does not spin on for ever. */
const PATCH = 0.03
/** Places in the scratch: world centres of mass of the two bodies. */
const CENTRE_A = 0
const CENTRE_B = 3

const ROW_FORM: RowForm = {
  width: ROW,
  head: HEAD,
  point: POINT,
  restitution: RESTITUTION,
  gap: GAP_AT_START,
  speed: SPEED,
  mass: NORMAL_MASS,
  impulse: NORMAL_IMPULSE,
  most: MOST,
  total: NORMAL_TOTAL,
}

/** How much two bodies give way to an impulse by turning, summed up. In an array, for a double that a call returns may be boxed. */
const yielding = new Float64Array(1)
/** Of the two pieces of the contact whose row is filled. */
const radii = new Float64Array(2)

export class ContactRows3 extends ContactKind<Contacts3, BodyRows3> {
  private readonly centres = new Float64Array(6)
  private readonly surface = new Float64Array(PAIR_SURFACE)
  private readonly middle = new Float64Array(3)
  /** Of each row what its gaps are measured by, and nothing else. */
  private cores = new Float64Array(CORES * 64)
  /** Whether the gaps are those of where the bodies are now. */
  private measured = false
  /** Whether the impulses of the last substep are still to be added to those of the tick. */
  private owes = false
  /** Passes of this tick that were not soft. */
  private relaxed = 0

  constructor(setup: ContactKindSetup<Contacts3, BodyRows3>) {
    super(setup, CONTACT_FORM, ROW_FORM)
  }

  override begin(): void {
    super.begin()
    this.measured = true
    this.owes = false
    this.relaxed = 0
  }

  protected override fill(row: number, contact: number, pair: number, bodyA: number, bodyB: number): void {
    const { rows, links, contacts, bodyRows, centres, surface, source } = this
    const { data: bodies } = bodyRows
    if (CORES * (row + 1) > this.cores.length) {
      const wider = new Float64Array(2 * this.cores.length)
      wider.set(this.cores)
      this.cores = wider
    }
    const { cores } = this
    source.centreOf(bodyA, centres, CENTRE_A)
    source.centreOf(bodyB, centres, CENTRE_B)
    this.surfaces.read(pair, surface)
    const points = contacts.points.data
    const a = BODY * links[LINKS * row + ROW_A]
    const b = BODY * links[LINKS * row + ROW_B]
    bodyRows.held[a / BODY] = 1
    bodyRows.held[b / BODY] = 1
    const at = ROW * row
    const nx = contacts.normal.data[3 * contact]
    const ny = contacts.normal.data[3 * contact + 1]
    const nz = contacts.normal.data[3 * contact + 2]
    rows[at + NORMAL] = nx
    rows[at + NORMAL + 1] = ny
    rows[at + NORMAL + 2] = nz
    rows[at + FRICTION] = surface[PAIR_FRICTION]
    rows[at + RESTITUTION] = surface[PAIR_RESTITUTION]
    contacts.readRadii(contact, radii)
    const radiusA = radii[0]
    const radiusB = radii[1]
    const inverseMass =
      (bodies[a + IX] + bodies[b + IX]) * nx * nx +
      (bodies[a + IX + 1] + bodies[b + IX + 1]) * ny * ny +
      (bodies[a + IX + 2] + bodies[b + IX + 2]) * nz * nz
    const count = contacts.count.data[contact]
    for (let k = 0; k < count; k++) {
      const from = CONTACT_WORDS * contact + POINT_WORDS * k
      const to = at + HEAD + POINT * k
      const x = points[from + POINT_X]
      const y = points[from + POINT_X + 1]
      const z = points[from + POINT_X + 2]
      const ax = x - centres[CENTRE_A]
      const ay = y - centres[CENTRE_A + 1]
      const az = z - centres[CENTRE_A + 2]
      const bx = x - centres[CENTRE_B]
      const by = y - centres[CENTRE_B + 1]
      const bz = z - centres[CENTRE_B + 2]
      const core = CORES * row + CORE * k
      cores[core + CORE_A] = ax - radiusA * nx
      cores[core + CORE_A + 1] = ay - radiusA * ny
      cores[core + CORE_A + 2] = az - radiusA * nz
      cores[core + CORE_B] = bx + radiusB * nx
      cores[core + CORE_B + 1] = by + radiusB * ny
      cores[core + CORE_B + 2] = bz + radiusB * nz
      rows[to + ARM_A] = ay * nz - az * ny
      rows[to + ARM_A + 1] = az * nx - ax * nz
      rows[to + ARM_A + 2] = ax * ny - ay * nx
      rows[to + ARM_B] = by * nz - bz * ny
      rows[to + ARM_B + 1] = bz * nx - bx * nz
      rows[to + ARM_B + 2] = bx * ny - by * nx
      yielding[0] = 0
      this.writeTurn(a, to + ARM_A, to + TURN_A)
      this.writeTurn(b, to + ARM_B, to + TURN_B)
      rows[to + GAP_AT_START] = points[from + POINT_GAP]
      rows[to + GAP] = points[from + POINT_GAP]
      const total = inverseMass + yielding[0]
      rows[to + NORMAL_MASS] = total > 0 ? 1 / total : 0
      rows[to + NORMAL_IMPULSE] = points[from + WARM_NORMAL]
      rows[to + NORMAL_TOTAL] = 0
      rows[to + MOST] = 0
      rows[to + SPEED] = this.apart(at, to, a, b)
    }
    this.fillFriction(at, a, b, contact, count)
  }

  /** How fast a point comes apart, along the normal. */
  private apart(at: number, p: number, a: number, b: number): number {
    const { rows } = this
    const { data: bodies } = this.bodyRows
    let sum = 0
    for (let k = 0; k < 3; k++) {
      sum += (bodies[b + VX + k] - bodies[a + VX + k]) * rows[at + NORMAL + k]
      sum += bodies[b + WX + k] * rows[p + ARM_B + k] - bodies[a + WX + k] * rows[p + ARM_A + k]
    }
    return sum
  }

  /** Writes how an impulse with an arm (r x direction) turns a body, and adds to {@link yielding} how much that gives way. */
  private writeTurn(a: number, arm: number, to: number): void {
    const { rows } = this
    const j = this.bodyRows.data
    const x = rows[arm]
    const y = rows[arm + 1]
    const z = rows[arm + 2]
    const tx = j[a + JX] * x + j[a + JX + 3] * y + j[a + JX + 4] * z
    const ty = j[a + JX + 3] * x + j[a + JX + 1] * y + j[a + JX + 5] * z
    const tz = j[a + JX + 4] * x + j[a + JX + 5] * y + j[a + JX + 2] * z
    rows[to] = tx
    rows[to + 1] = ty
    rows[to + 2] = tz
    yielding[0] += tx * x + ty * y + tz * z
  }

  /** The rows of friction: where what presses has its centre, and how far about that it is spread. */
  private fillFriction(at: number, a: number, b: number, contact: number, count: number): void {
    const { rows, contacts, middle, surface, centres } = this
    const { data: bodies } = this.bodyRows
    const points = contacts.points.data
    const first = CONTACT_WORDS * contact
    // By what pressed in the last tick; a point that is new counts as much as the others on average.
    let pressed = 0
    let known = 0
    for (let k = 0; k < count; k++) {
      const warm = points[first + POINT_WORDS * k + WARM_NORMAL]
      pressed += warm
      if (warm > 0) known++
    }
    const average = known > 0 ? pressed / known : 1
    const total = average * (count - known) + pressed
    middle[0] = middle[1] = middle[2] = 0
    for (let k = 0; k < count; k++) {
      const from = first + POINT_WORDS * k
      const warm = points[from + WARM_NORMAL]
      const weight = (warm > 0 ? warm : average) / total
      for (let i = 0; i < 3; i++) middle[i] += weight * points[from + POINT_X + i]
    }
    let spread = 0
    for (let k = 0; k < count; k++) {
      const from = first + POINT_WORDS * k
      const x = points[from + POINT_X] - middle[0]
      const y = points[from + POINT_X + 1] - middle[1]
      const z = points[from + POINT_X + 2] - middle[2]
      spread += Math.sqrt(x * x + y * y + z * z) / count
    }
    rows[at + TWIST_RADIUS] = TWIST_PART * Math.max(spread, PATCH * Math.max(radii[0], radii[1]))
    const nx = rows[at + NORMAL]
    const ny = rows[at + NORMAL + 1]
    const nz = rows[at + NORMAL + 2]
    // A direction across the normal, away from the axis of which it has most.
    let tx = 0
    let ty = 0
    let tz = 0
    if (Math.abs(nx) > 0.7) {
      const length = Math.sqrt(nx * nx + ny * ny)
      tx = -ny / length
      ty = nx / length
    } else {
      const length = Math.sqrt(ny * ny + nz * nz)
      ty = -nz / length
      tz = ny / length
    }
    const ux = ny * tz - nz * ty
    const uy = nz * tx - nx * tz
    const uz = nx * ty - ny * tx
    rows[at + FIRST] = tx
    rows[at + FIRST + 1] = ty
    rows[at + FIRST + 2] = tz
    rows[at + SECOND] = ux
    rows[at + SECOND + 1] = uy
    rows[at + SECOND + 2] = uz
    let first11 = 0
    let first22 = 0
    let first12 = 0
    for (let side = 0; side < 2; side++) {
      const c = side === 0 ? a : b
      const x = middle[0] - centres[3 * side]
      const y = middle[1] - centres[3 * side + 1]
      const z = middle[2] - centres[3 * side + 2]
      const arms = at + ARMS + 6 * side
      const turns = at + TURNS + 6 * side
      rows[arms] = y * tz - z * ty
      rows[arms + 1] = z * tx - x * tz
      rows[arms + 2] = x * ty - y * tx
      rows[arms + 3] = y * uz - z * uy
      rows[arms + 4] = z * ux - x * uz
      rows[arms + 5] = x * uy - y * ux
      yielding[0] = 0
      this.writeTurn(c, arms, turns)
      first11 += yielding[0]
      yielding[0] = 0
      this.writeTurn(c, arms + 3, turns + 3)
      first22 += yielding[0]
      for (let k = 0; k < 3; k++) first12 += rows[turns + k] * rows[arms + 3 + k]
      const ix = bodies[c + IX]
      const iy = bodies[c + IX + 1]
      const iz = bodies[c + IX + 2]
      first11 += ix * tx * tx + iy * ty * ty + iz * tz * tz
      first22 += ix * ux * ux + iy * uy * uy + iz * uz * uz
      first12 += ix * tx * ux + iy * ty * uy + iz * tz * uz
    }
    const determinant = first11 * first22 - first12 * first12
    // Where it gives way in one direction alone, the other stays free.
    const solvable = determinant > 1e-12 * first11 * first22
    rows[at + FRICTION_MASS] = solvable ? first22 / determinant : first11 > 0 ? 1 / first11 : 0
    rows[at + FRICTION_MASS + 1] = solvable ? -first12 / determinant : 0
    rows[at + FRICTION_MASS + 2] = solvable ? first11 / determinant : first22 > 0 ? 1 / first22 : 0
    yielding[0] = 0
    this.writeTurn(a, at + NORMAL, at + TWIST_A)
    this.writeTurn(b, at + NORMAL, at + TWIST_B)
    const twist = yielding[0]
    rows[at + TWIST_MASS] = twist > 0 ? 1 / twist : 0
    // The first is to move so past the second; speeds here are of the second as seen from the first.
    const sx = surface[PAIR_SPEED]
    const sy = surface[PAIR_SPEED + 1]
    const sz = surface[PAIR_SPEED + 2]
    rows[at + WANTED] = -(sx * tx + sy * ty + sz * tz)
    rows[at + WANTED + 1] = -(sx * ux + sy * uy + sz * uz)
    const friction = contacts.friction.data
    const f = FRICTION_WORDS * contact
    rows[at + FRICTION_IMPULSE] = friction[f] * tx + friction[f + 1] * ty + friction[f + 2] * tz
    rows[at + FRICTION_IMPULSE + 1] = friction[f] * ux + friction[f + 1] * uy + friction[f + 2] * uz
    rows[at + TWIST_IMPULSE] = friction[f + 3]
    rows[at + FRICTION_TOTAL] = rows[at + FRICTION_TOTAL + 1] = 0
  }

  override prepare(time: Float64Array): void {
    this.writeSoftness(time[SUBSTEP])
    const { rows, links, count } = this
    const { data: bodies } = this.bodyRows
    for (let i = 0; i < count; i++) {
      const a = BODY * links[LINKS * i + ROW_A] + IX
      const b = BODY * links[LINKS * i + ROW_B] + IX
      this.soften(
        bodies[a] + bodies[a + 1] + bodies[a + 2],
        bodies[b] + bodies[b + 1] + bodies[b + 2],
        rows,
        ROW * i + RATE,
      )
    }
  }

  override warmStart(): void {
    const { rows, links, count, owes } = this
    this.owes = false
    const { data: bodies } = this.bodyRows
    for (let i = 0; i < count; i++) {
      const a = BODY * links[LINKS * i + ROW_A]
      const b = BODY * links[LINKS * i + ROW_B]
      const at = ROW * i
      const end = at + HEAD + POINT * links[LINKS * i + POINTS]
      const f = rows[at + FRICTION_IMPULSE]
      const g = rows[at + FRICTION_IMPULSE + 1]
      const twist = rows[at + TWIST_IMPULSE]
      if (owes) this.sumRow(at, end)
      let sum = 0
      let wax = f * rows[at + TURNS] + g * rows[at + TURNS + 3] + twist * rows[at + TWIST_A]
      let way = f * rows[at + TURNS + 1] + g * rows[at + TURNS + 4] + twist * rows[at + TWIST_A + 1]
      let waz = f * rows[at + TURNS + 2] + g * rows[at + TURNS + 5] + twist * rows[at + TWIST_A + 2]
      let wbx = f * rows[at + TURNS + 6] + g * rows[at + TURNS + 9] + twist * rows[at + TWIST_B]
      let wby = f * rows[at + TURNS + 7] + g * rows[at + TURNS + 10] + twist * rows[at + TWIST_B + 1]
      let wbz = f * rows[at + TURNS + 8] + g * rows[at + TURNS + 11] + twist * rows[at + TWIST_B + 2]
      for (let p = at + HEAD; p < end; p += POINT) {
        const j = rows[p + NORMAL_IMPULSE]
        sum += j
        wax += j * rows[p + TURN_A]
        way += j * rows[p + TURN_A + 1]
        waz += j * rows[p + TURN_A + 2]
        wbx += j * rows[p + TURN_B]
        wby += j * rows[p + TURN_B + 1]
        wbz += j * rows[p + TURN_B + 2]
      }
      const px = sum * rows[at + NORMAL] + f * rows[at + FIRST] + g * rows[at + SECOND]
      const py = sum * rows[at + NORMAL + 1] + f * rows[at + FIRST + 1] + g * rows[at + SECOND + 1]
      const pz = sum * rows[at + NORMAL + 2] + f * rows[at + FIRST + 2] + g * rows[at + SECOND + 2]
      bodies[a + VX] -= px * bodies[a + IX]
      bodies[a + VX + 1] -= py * bodies[a + IX + 1]
      bodies[a + VX + 2] -= pz * bodies[a + IX + 2]
      bodies[a + WX] -= wax
      bodies[a + WX + 1] -= way
      bodies[a + WX + 2] -= waz
      bodies[b + VX] += px * bodies[b + IX]
      bodies[b + VX + 1] += py * bodies[b + IX + 1]
      bodies[b + VX + 2] += pz * bodies[b + IX + 2]
      bodies[b + WX] += wbx
      bodies[b + WX + 1] += wby
      bodies[b + WX + 2] += wbz
    }
  }

  /** Measures the gaps of the points of a row that end at a place, once the bodies have moved on. */
  private measure(row: number, end: number, a: number, b: number): void {
    const { rows, cores } = this
    const { data: bodies } = this.bodyRows
    const at = ROW * row
    const nx = rows[at + NORMAL]
    const ny = rows[at + NORMAL + 1]
    const nz = rows[at + NORMAL + 2]
    const nearer =
      (bodies[b + DX] - bodies[a + DX]) * nx +
      (bodies[b + DX + 1] - bodies[a + DX + 1]) * ny +
      (bodies[b + DX + 2] - bodies[a + DX + 2]) * nz
    // How the turns of this tick move a point of each body along the normal: by its arm times this.
    const uax = bodies[a + RX] * nx + bodies[a + RX + 3] * ny + bodies[a + RX + 6] * nz
    const uay = bodies[a + RX + 1] * nx + bodies[a + RX + 4] * ny + bodies[a + RX + 7] * nz
    const uaz = bodies[a + RX + 2] * nx + bodies[a + RX + 5] * ny + bodies[a + RX + 8] * nz
    const ubx = bodies[b + RX] * nx + bodies[b + RX + 3] * ny + bodies[b + RX + 6] * nz
    const uby = bodies[b + RX + 1] * nx + bodies[b + RX + 4] * ny + bodies[b + RX + 7] * nz
    const ubz = bodies[b + RX + 2] * nx + bodies[b + RX + 5] * ny + bodies[b + RX + 8] * nz
    for (let p = at + HEAD, core = CORES * row; p < end; p += POINT, core += CORE) {
      rows[p + GAP] =
        rows[p + GAP_AT_START] +
        nearer +
        (ubx * cores[core + CORE_B] + uby * cores[core + CORE_B + 1] + ubz * cores[core + CORE_B + 2]) -
        (uax * cores[core + CORE_A] + uay * cores[core + CORE_A + 1] + uaz * cores[core + CORE_A + 2])
    }
  }

  /**
   * One pass over all contacts, of each friction and twist, then its points along the normal. With `soft`, overlaps are pushed apart.
   *
   * The points of a face are solved there and back in a soft pass, and from alternating ends in the passes that follow. Always the same way, a face
   * would lean to the side of its last point, and towers would sway.
   */
  override solve(time: Float64Array, soft: boolean): void {
    const { measured } = this
    // After a soft pass the bodies move on.
    this.measured = !soft
    if (!soft) this.relaxed++
    const back = !soft && (this.relaxed & 1) === 1
    const { rows, links, count, push } = this
    const { data: bodies } = this.bodyRows
    const inverse = 1 / time[SUBSTEP]
    let largest = 0
    for (let i = 0; i < count; i++) {
      const a = BODY * links[LINKS * i + ROW_A]
      const b = BODY * links[LINKS * i + ROW_B]
      const at = ROW * i
      const end = at + HEAD + POINT * links[LINKS * i + POINTS]
      if (!measured) this.measure(i, end, a, b)
      let vax = bodies[a + VX]
      let vay = bodies[a + VX + 1]
      let vaz = bodies[a + VX + 2]
      let wax = bodies[a + WX]
      let way = bodies[a + WX + 1]
      let waz = bodies[a + WX + 2]
      let vbx = bodies[b + VX]
      let vby = bodies[b + VX + 1]
      let vbz = bodies[b + VX + 2]
      let wbx = bodies[b + WX]
      let wby = bodies[b + WX + 1]
      let wbz = bodies[b + WX + 2]
      const iax = bodies[a + IX]
      const iay = bodies[a + IX + 1]
      const iaz = bodies[a + IX + 2]
      const ibx = bodies[b + IX]
      const iby = bodies[b + IX + 1]
      const ibz = bodies[b + IX + 2]

      let pressed = 0
      for (let p = at + HEAD; p < end; p += POINT) pressed += rows[p + NORMAL_IMPULSE]
      const most = rows[at + FRICTION] * pressed
      if (most > 0) {
        const tx = rows[at + FIRST]
        const ty = rows[at + FIRST + 1]
        const tz = rows[at + FIRST + 2]
        const ux = rows[at + SECOND]
        const uy = rows[at + SECOND + 1]
        const uz = rows[at + SECOND + 2]
        const dx = vbx - vax
        const dy = vby - vay
        const dz = vbz - vaz
        const arms = at + ARMS
        const vt =
          dx * tx +
          dy * ty +
          dz * tz +
          (wbx * rows[arms + 6] + wby * rows[arms + 7] + wbz * rows[arms + 8]) -
          (wax * rows[arms] + way * rows[arms + 1] + waz * rows[arms + 2]) -
          rows[at + WANTED]
        const vu =
          dx * ux +
          dy * uy +
          dz * uz +
          (wbx * rows[arms + 9] + wby * rows[arms + 10] + wbz * rows[arms + 11]) -
          (wax * rows[arms + 3] + way * rows[arms + 4] + waz * rows[arms + 5]) -
          rows[at + WANTED + 1]
        const before = rows[at + FRICTION_IMPULSE]
        const besides = rows[at + FRICTION_IMPULSE + 1]
        let f = before - (rows[at + FRICTION_MASS] * vt + rows[at + FRICTION_MASS + 1] * vu)
        let g = besides - (rows[at + FRICTION_MASS + 1] * vt + rows[at + FRICTION_MASS + 2] * vu)
        const square = f * f + g * g
        if (square > most * most) {
          const part = most / Math.sqrt(square)
          f *= part
          g *= part
        }
        rows[at + FRICTION_IMPULSE] = f
        rows[at + FRICTION_IMPULSE + 1] = g
        f -= before
        g -= besides
        const px = f * tx + g * ux
        const py = f * ty + g * uy
        const pz = f * tz + g * uz
        const turns = at + TURNS
        vax -= px * iax
        vay -= py * iay
        vaz -= pz * iaz
        wax -= f * rows[turns] + g * rows[turns + 3]
        way -= f * rows[turns + 1] + g * rows[turns + 4]
        waz -= f * rows[turns + 2] + g * rows[turns + 5]
        vbx += px * ibx
        vby += py * iby
        vbz += pz * ibz
        wbx += f * rows[turns + 6] + g * rows[turns + 9]
        wby += f * rows[turns + 7] + g * rows[turns + 10]
        wbz += f * rows[turns + 8] + g * rows[turns + 11]
        const twistMost = most * rows[at + TWIST_RADIUS]
        if (twistMost > 0) {
          const spin =
            (wbx - wax) * rows[at + NORMAL] + (wby - way) * rows[at + NORMAL + 1] + (wbz - waz) * rows[at + NORMAL + 2]
          const was = rows[at + TWIST_IMPULSE]
          let twist = was - rows[at + TWIST_MASS] * spin
          if (twist > twistMost) twist = twistMost
          else if (twist < -twistMost) twist = -twistMost
          rows[at + TWIST_IMPULSE] = twist
          twist -= was
          wax -= twist * rows[at + TWIST_A]
          way -= twist * rows[at + TWIST_A + 1]
          waz -= twist * rows[at + TWIST_A + 2]
          wbx += twist * rows[at + TWIST_B]
          wby += twist * rows[at + TWIST_B + 1]
          wbz += twist * rows[at + TWIST_B + 2]
        }
      } else {
        // Nothing presses: what friction held is let go.
        const f = rows[at + FRICTION_IMPULSE]
        const g = rows[at + FRICTION_IMPULSE + 1]
        const twist = rows[at + TWIST_IMPULSE]
        if (f !== 0 || g !== 0 || twist !== 0) {
          const px = f * rows[at + FIRST] + g * rows[at + SECOND]
          const py = f * rows[at + FIRST + 1] + g * rows[at + SECOND + 1]
          const pz = f * rows[at + FIRST + 2] + g * rows[at + SECOND + 2]
          const turns = at + TURNS
          vax += px * iax
          vay += py * iay
          vaz += pz * iaz
          wax += f * rows[turns] + g * rows[turns + 3] + twist * rows[at + TWIST_A]
          way += f * rows[turns + 1] + g * rows[turns + 4] + twist * rows[at + TWIST_A + 1]
          waz += f * rows[turns + 2] + g * rows[turns + 5] + twist * rows[at + TWIST_A + 2]
          vbx -= px * ibx
          vby -= py * iby
          vbz -= pz * ibz
          wbx -= f * rows[turns + 6] + g * rows[turns + 9] + twist * rows[at + TWIST_B]
          wby -= f * rows[turns + 7] + g * rows[turns + 10] + twist * rows[at + TWIST_B + 1]
          wbz -= f * rows[turns + 8] + g * rows[turns + 11] + twist * rows[at + TWIST_B + 2]
          rows[at + FRICTION_IMPULSE] = rows[at + FRICTION_IMPULSE + 1] = rows[at + TWIST_IMPULSE] = 0
        }
      }

      const nx = rows[at + NORMAL]
      const ny = rows[at + NORMAL + 1]
      const nz = rows[at + NORMAL + 2]
      const rate = rows[at + RATE]
      const softMass = rows[at + MASS_PART]
      const softImpulse = rows[at + IMPULSE_PART]
      // All points push along the same line: of that one number is enough, until the end.
      const gives = (iax + ibx) * nx * nx + (iay + iby) * ny * ny + (iaz + ibz) * nz * nz
      let apart = (vbx - vax) * nx + (vby - vay) * ny + (vbz - vaz) * nz
      let given = 0
      const points = links[LINKS * i + POINTS]
      const solved = soft && points > 2 ? 2 * points - 1 : points
      const turned = back && points > 2
      let step = turned ? -POINT : POINT
      let p = turned ? end - POINT : at + HEAD
      for (let k = 1; k <= solved; k++, p += step) {
        const vn =
          apart +
          (wbx * rows[p + ARM_B] + wby * rows[p + ARM_B + 1] + wbz * rows[p + ARM_B + 2]) -
          (wax * rows[p + ARM_A] + way * rows[p + ARM_A + 1] + waz * rows[p + ARM_A + 2])
        const gap = rows[p + GAP]
        const before = rows[p + NORMAL_IMPULSE]
        let bias = 0
        let massPart = 1
        let impulsePart = 0
        if (gap > 0) bias = gap * inverse
        else if (soft) {
          bias = rate * gap
          if (bias < -push) bias = -push
          massPart = softMass
          impulsePart = softImpulse
        }
        let normal = before - rows[p + NORMAL_MASS] * massPart * (vn + bias) - impulsePart * before
        if (normal < 0) normal = 0
        rows[p + NORMAL_IMPULSE] = normal
        if (normal > rows[p + MOST]) rows[p + MOST] = normal
        const j = normal - before
        given += j
        const change = j * gives
        apart += change
        if (change > largest) largest = change
        else if (-change > largest) largest = -change
        wax -= j * rows[p + TURN_A]
        way -= j * rows[p + TURN_A + 1]
        waz -= j * rows[p + TURN_A + 2]
        wbx += j * rows[p + TURN_B]
        wby += j * rows[p + TURN_B + 1]
        wbz += j * rows[p + TURN_B + 2]
        if (k === points) step = -POINT
      }
      vax -= given * nx * iax
      vay -= given * ny * iay
      vaz -= given * nz * iaz
      vbx += given * nx * ibx
      vby += given * ny * iby
      vbz += given * nz * ibz
      bodies[a + VX] = vax
      bodies[a + VX + 1] = vay
      bodies[a + VX + 2] = vaz
      bodies[a + WX] = wax
      bodies[a + WX + 1] = way
      bodies[a + WX + 2] = waz
      bodies[b + VX] = vbx
      bodies[b + VX + 1] = vby
      bodies[b + VX + 2] = vbz
      bodies[b + WX] = wbx
      bodies[b + WX + 1] = wby
      bodies[b + WX + 2] = wbz
    }
    if (largest > time[CHANGE]) time[CHANGE] = largest
  }

  /** What a substep has given is added up when the next one goes through the rows. */
  override sum(): void {
    this.owes = true
  }

  override finish(): void {
    const { links, count } = this
    for (let i = 0; i < count; i++) this.sumRow(ROW * i, ROW * i + HEAD + POINT * links[LINKS * i + POINTS])
    super.finish()
  }

  private sumRow(at: number, end: number): void {
    const { rows } = this
    rows[at + FRICTION_TOTAL] += rows[at + FRICTION_IMPULSE]
    rows[at + FRICTION_TOTAL + 1] += rows[at + FRICTION_IMPULSE + 1]
    for (let p = at + HEAD; p < end; p += POINT) rows[p + NORMAL_TOTAL] += rows[p + NORMAL_IMPULSE]
  }

  protected override pullTogether(row: number): number {
    const { rows, links } = this
    const { data: bodies } = this.bodyRows
    const a = BODY * links[LINKS * row + ROW_A]
    const b = BODY * links[LINKS * row + ROW_B]
    let pull = 0
    for (let k = 0; k < 3; k++) pull += (bodies[a + AX + k] - bodies[b + AX + k]) * rows[ROW * row + NORMAL + k]
    return pull
  }

  protected override readSpeed(row: number, p: number): void {
    const { links, speed } = this
    const a = BODY * links[LINKS * row + ROW_A]
    const b = BODY * links[LINKS * row + ROW_B]
    speed[0] = this.apart(ROW * row, p, a, b)
  }

  protected override give(row: number, p: number, impulse: number): void {
    const { rows, links } = this
    const { data: bodies } = this.bodyRows
    const a = BODY * links[LINKS * row + ROW_A]
    const b = BODY * links[LINKS * row + ROW_B]
    rows[p + NORMAL_TOTAL] += impulse
    for (let k = 0; k < 3; k++) {
      const along = impulse * rows[ROW * row + NORMAL + k]
      bodies[a + VX + k] -= along * bodies[a + IX + k]
      bodies[a + WX + k] -= impulse * rows[p + TURN_A + k]
      bodies[b + VX + k] += along * bodies[b + IX + k]
      bodies[b + WX + k] += impulse * rows[p + TURN_B + k]
    }
  }

  protected override readImpulses(row: number, contact: number, out: Float64Array): void {
    const { rows, links, contacts } = this
    const points = contacts.points.data
    const friction = contacts.friction.data
    const at = ROW * row
    const f = rows[at + FRICTION_IMPULSE]
    const g = rows[at + FRICTION_IMPULSE + 1]
    for (let k = 0; k < 3; k++) {
      friction[FRICTION_WORDS * contact + k] = f * rows[at + FIRST + k] + g * rows[at + SECOND + k]
    }
    friction[FRICTION_WORDS * contact + 3] = rows[at + TWIST_IMPULSE]
    const tf = rows[at + FRICTION_TOTAL]
    const tg = rows[at + FRICTION_TOTAL + 1]
    out[SUM_FRICTION] += Math.sqrt(tf * tf + tg * tg)
    for (let k = 0; k < links[LINKS * row + POINTS]; k++) {
      const p = at + HEAD + POINT * k
      const to = CONTACT_WORDS * contact + POINT_WORDS * k
      points[to + WARM_NORMAL] = rows[p + NORMAL_IMPULSE]
      const total = rows[p + NORMAL_TOTAL]
      points[to + TOTAL] = total
      out[SUM_NORMAL] += total
      if (total > 0 && -rows[p + SPEED] > out[CLOSING]) out[CLOSING] = -rows[p + SPEED]
    }
  }
}
